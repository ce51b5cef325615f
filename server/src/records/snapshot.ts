import type { VisitSettings } from '@frustum/contract'
import { modelOf, type Procedure, type Setup } from '@frustum/core'
import { eq } from 'drizzle-orm'
import type { Database, Transaction } from '../database/open.ts'
import type { PlaceFacts, StoredSnapshot } from '../database/recordColumns.ts'
import { sites } from '../database/schema.ts'
import type { Installed } from '../sensors.ts'
import { PROGRAM_VERSION } from '../version.ts'
import { setupOf, type WhenSetUp } from './setup.ts'

interface Visited {
  installed: Installed
  procedure: Procedure
  settings: VisitSettings
}

/** What a visit is judged with, now that it begins, or as far as it is known of one that began before this was kept. */
export async function takeSnapshot(
  db: Database | Transaction,
  { installed, procedure, settings }: Visited,
  when: WhenSetUp & { known: StoredSnapshot['known'] },
): Promise<StoredSnapshot> {
  const [site] = await db.select().from(sites).where(eq(sites.id, installed.place.siteId))
  const setup = await setupOf(db, installed, settings, when)
  return snapshotOf(factsOf(installed, site), { procedure, settings, setup, known: when.known })
}

/** A snapshot of what is known already. */
export function snapshotOf(
  facts: PlaceFacts,
  { procedure, settings, setup, known }: Omit<Visited, 'installed'> & { setup: Setup; known: StoredSnapshot['known'] },
): StoredSnapshot {
  const model = modelOf(setup.kind)
  return {
    version: 1,
    known,
    program: PROGRAM_VERSION,
    procedure: { id: procedure.id, version: procedure.version },
    settings,
    setup,
    units: {
      signal: model.signalUnit,
      shown: model.shownScale(setup.device).unit,
      error: model.errorScale.unit,
    },
    ...facts,
  }
}

/** What the site knows of the place of a sensor, without keys that only this database knows. */
export function factsOf(
  { position, place, device, sensor, installation }: Installed,
  site: PlaceFacts['site'] | undefined,
): PlaceFacts {
  const { id: _position, placeId: _place, ...ofPosition } = position
  const { id: _device, connectionId: _connection, ...ofDevice } = device
  const { serialNumber, kind, model, isothermalPh } = sensor
  return {
    site: { name: site?.name ?? 'Your site', timeZone: site?.timeZone ?? 'UTC' },
    place: { name: place.name, water: place.water },
    position: ofPosition,
    device: ofDevice,
    sensor: { serialNumber, kind, model, isothermalPh },
    installedAt: installation.installedAt.toISOString(),
  }
}
