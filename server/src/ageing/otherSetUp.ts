import type { Subject } from '@frustum/contract'
import { type DeviceSetting, isSameWater, modelOf, type Process, type RecordedVisit, type Setup } from '@frustum/core'
import serialize from 'canonicalize'
import { and, inArray, isNotNull } from 'drizzle-orm'
import type { Values } from '../changes/changes.ts'
import { partOf } from '../database/canonicalJson.ts'
import type { Database } from '../database/open.ts'
import { changes, visits } from '../database/schema.ts'
import type { Installed } from '../sensors.ts'
import { transferredObservations } from './transferredObservations.ts'

/** Visits under another set-up than that of now: another water, or a device that was set otherwise. */

/** How a display is written and what its output means changes no error. */
const computesAs = ({ displays: _, ...setting }: DeviceSetting): string | undefined => serialize(setting)

const processOf = ({ position }: Pick<Installed, 'position'>): Process => ({
  value: position.processValue,
  temperature: position.processTemperature,
})

/** Changes of what a sensor's errors depend on: of its position and of its device. */
const MATTERS: Partial<Record<Subject, readonly string[]>> = {
  position: ['processValue', 'processTemperature', 'deviceId', 'placeId', 'waterKind'],
  device: [
    'compensation',
    'coefficient',
    'referenceTemperature',
    'reference',
    'ion',
    'expects',
    'temperatureFrom',
    'fixedTemperature',
  ],
}

const mattersTo = (subject: Subject, field: string): boolean => MATTERS[subject]?.includes(field) ?? false

/** Those that a change makes another. */
export const differing = (subject: Subject, before: Values, after: Values): string[] =>
  Object.keys(after).filter((field) => mattersTo(subject, field) && (before[field] ?? null) !== (after[field] ?? null))

type Change = typeof changes.$inferSelect

/** All such changes that hold, by the sensors that they concern. */
export async function setUpChanges(db: Database, installed: readonly Installed[]): Promise<Map<number, Change[]>> {
  const undone = db.select({ id: changes.undoes }).from(changes).where(isNotNull(changes.undoes))
  const taken = new Set((await undone).map((r) => r.id))
  const rows = await db
    .select()
    .from(changes)
    .where(
      and(
        inArray(changes.subject, Object.keys(MATTERS) as Subject[]),
        inArray(changes.field, Object.values(MATTERS).flat()),
      ),
    )
    .orderBy(changes.id)
  const found = new Map<number, Change[]>()
  for (const { installation, position, device } of installed) {
    const own = rows.filter(
      ({ id, subject, subjectId, field }) =>
        !taken.has(id) && mattersTo(subject, field) && subjectId === (subject === 'position' ? position.id : device.id),
    )
    if (own.length > 0) found.set(installation.id, own)
  }
  return found
}

/**
 * The visits of a sensor as they count now: what was found in another water, or with the device set otherwise, is
 * carried over where its slope and zero are known, since those are its own; a check alone cannot be, and is set aside.
 */
export async function carriedOver(
  db: Database,
  installed: Installed,
  recorded: readonly RecordedVisit[],
): Promise<RecordedVisit[]> {
  const { installation, position, device } = installed
  const now = processOf(installed)
  const setting = computesAs(device.setting)
  const rows = await db
    .select({
      id: visits.id,
      setup: partOf<Pick<Setup, 'processValue' | 'processTemperature' | 'device'>>(visits.snapshot, 'setup'),
    })
    .from(visits)
    .where(
      inArray(
        visits.id,
        recorded.map((r) => r.id).filter((id) => !/^\d+$/.test(id)),
      ),
    )
  const other = new Set(
    rows.flatMap(({ id, setup }) => {
      if (!setup) return []
      const then = { value: setup.processValue, temperature: setup.processTemperature }
      return isSameWater(modelOf(position.kind), then, now) && computesAs(setup.device) === setting ? [] : [id]
    }),
  )
  if (other.size === 0) return [...recorded]
  const here = new Map((await transferredObservations(db, [installation.id], installed)).map((o) => [o.visitId, o]))
  return recorded.map((visit) => {
    if (!other.has(visit.id)) return visit
    const carried = here.get(visit.id)
    return carried ? { ...visit, ...carried, at: visit.at } : { ...visit, elsewhere: true }
  })
}
