import { asc, eq, isNotNull } from 'drizzle-orm'
import type { Database } from '../database/open.ts'
import * as table from '../database/schema.ts'
import { notFound } from '../problem.ts'

/** The records of a site as one JSON document; docs/formats.md describes it. */
export interface RecordsDocument {
  format: 'frustum-records'
  version: 1
  site: { name: string; timeZone: string }
  positions: PositionRecord[]
  visits: VisitRecord[]
}

export interface PositionRecord {
  code: string
  place: { name: string; water: string }
  position: Record<string, unknown>
  device: Record<string, unknown>
}

export interface VisitRecord {
  id: string
  position: string
  sensor: { serialNumber: string; kind: string; model: string; isothermalPh: number }
  installedAt: string
  removedAt: string | null
  procedure: string
  settings: unknown
  operator: string
  startedAt: string
  closedAt: string
  outcome: string
  /** Missing in files of before they were kept. */
  findings?: readonly string[] | null
  entries: unknown[]
  calibrations: unknown[]
  observations: unknown[]
  corrections: unknown[]
}

const plain = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T

/** A row without the keys that only this database knows. */
function without<T extends object>(row: T, ...keys: string[]): Record<string, unknown> {
  return Object.fromEntries(Object.entries(plain(row)).filter(([key]) => !keys.includes(key)))
}

/** A line as the file has it; one that cannot be read goes out as it stands. */
export const entryRecord = (row: typeof table.visitEntries.$inferSelect) => {
  const entry = row.entry.type === 'unreadable' ? row.entry.as : row.entry
  return without({ ...row, entry }, 'id', 'visitId')
}

/** All closed visits, or one. */
export async function exportRecords(db: Database, id: string | null): Promise<RecordsDocument> {
  const [site] = await db.select().from(table.sites)
  const rows = await db
    .select({
      visit: table.visits,
      installation: table.installations,
      sensor: table.sensors,
      position: table.positions,
      place: table.places,
      device: table.devices,
    })
    .from(table.visits)
    .innerJoin(table.installations, eq(table.visits.installationId, table.installations.id))
    .innerJoin(table.sensors, eq(table.installations.sensorId, table.sensors.id))
    .innerJoin(table.positions, eq(table.installations.positionId, table.positions.id))
    .innerJoin(table.places, eq(table.positions.placeId, table.places.id))
    .innerJoin(table.devices, eq(table.installations.deviceId, table.devices.id))
    .where(id ? eq(table.visits.id, id) : isNotNull(table.visits.closedAt))
    .orderBy(asc(table.visits.startedAt), asc(table.visits.id))
  if (id && rows.length === 0) throw notFound('visit')
  const by = <T extends { visitId: string | null }>(list: T[]) => {
    const map = new Map<string, T[]>()
    for (const row of list) {
      const key = row.visitId ?? ''
      map.set(key, [...(map.get(key) ?? []), row])
    }
    return map
  }
  const entries = by(await db.select().from(table.visitEntries).orderBy(asc(table.visitEntries.seq)))
  const calibrations = by(await db.select().from(table.calibrations).orderBy(asc(table.calibrations.id)))
  const observations = by(await db.select().from(table.driftObservations).orderBy(asc(table.driftObservations.id)))
  const noted = by(await db.select().from(table.corrections).orderBy(asc(table.corrections.id)))
  const positions = new Map<string, PositionRecord>()
  for (const { position, place, device } of rows) {
    positions.set(position.code, {
      code: position.code,
      place: { name: place.name, water: place.water },
      position: without(position, 'id', 'placeId', 'code'),
      device: without(device, 'id'),
    })
  }
  return plain({
    format: 'frustum-records' as const,
    version: 1 as const,
    site: { name: site?.name ?? 'Your site', timeZone: site?.timeZone ?? 'UTC' },
    positions: [...positions.values()].sort((a, b) => a.code.localeCompare(b.code)),
    visits: rows.map(({ visit, installation, sensor, position }) => ({
      id: visit.id,
      position: position.code,
      sensor: {
        serialNumber: sensor.serialNumber,
        kind: sensor.kind,
        model: sensor.model,
        isothermalPh: sensor.isothermalPh,
      },
      installedAt: installation.installedAt.toISOString(),
      removedAt: installation.removedAt?.toISOString() ?? null,
      procedure: visit.procedure,
      settings: visit.settings,
      operator: visit.operator,
      startedAt: visit.startedAt.toISOString(),
      closedAt: (visit.closedAt ?? visit.startedAt).toISOString(),
      outcome: visit.outcome ?? 'done',
      findings: visit.findings,
      entries: (entries.get(visit.id) ?? []).map(entryRecord),
      calibrations: (calibrations.get(visit.id) ?? []).map((r) => without(r, 'id', 'visitId', 'installationId')),
      observations: (observations.get(visit.id) ?? []).map((r) => without(r, 'id', 'visitId', 'installationId')),
      corrections: (noted.get(visit.id) ?? []).map((r) => without(r, 'id', 'visitId')),
    })),
  })
}
