import {
  type CalibrationParameters,
  type CapturedReading,
  type ClosedVisit,
  type FindingCode,
  nullIfOutOfRange,
} from '@frustum/core'
import { and, asc, gt, inArray, isNotNull } from 'drizzle-orm'
import type { Database } from '../database/open.ts'
import { calibrations, driftObservations, visitEntries, visits } from '../database/schema.ts'
import { openVisit } from '../records/openVisit.ts'
import type { earlierInstallations, Installed } from '../sensors.ts'

/** A closed visit as the record has it, for the health of its sensor. */
export interface ClosedVisitRow extends ClosedVisit {
  id: string
  uncertainty: CalibrationParameters | null
}

/** What was read from the records once: they only grow, and a closed visit no longer changes. */
interface Known {
  /** The newest line that was read. */
  newest: number
  readings: Map<string, { step: string; reading: CapturedReading }[]>
  findings: Map<string, FindingCode[] | null>
}

const known = new WeakMap<Database, Known>()

function knownOf(db: Database): Known {
  const of = known.get(db) ?? { newest: 0, readings: new Map(), findings: new Map() }
  known.set(db, of)
  return of
}

/** The procedure that holds a sensor against another meter in the same water. */
const COMPARE = 'compare'

/** The closed visits of each sensor, wherever it was then, oldest first; by installation of now. */
export async function closedVisits(
  db: Database,
  installed: readonly Installed[],
  earlier: Awaited<ReturnType<typeof earlierInstallations>>,
): Promise<Map<number, ClosedVisitRow[]>> {
  const current = new Map(installed.map((i) => [i.installation.id, i.installation.id]))
  for (const [id, before] of earlier) for (const e of before) current.set(e.id, id)
  const ids = [...current.keys()]
  if (ids.length === 0) return new Map()
  const closed = await db
    .select({ id: visits.id, installationId: visits.installationId, at: visits.startedAt, procedure: visits.procedure })
    .from(visits)
    .where(and(inArray(visits.installationId, ids), isNotNull(visits.closedAt)))
    .orderBy(asc(visits.startedAt))
  const found = await db.select().from(calibrations).where(inArray(calibrations.installationId, ids))
  const byVisit = new Map(found.map((c) => [c.visitId, c]))
  const errors = await db.select().from(driftObservations).where(inArray(driftObservations.installationId, ids))
  const errorsByVisit = new Map(errors.map((e) => [e.visitId, e]))
  const readings = await readingsByVisit(db)
  const seen = new Map<number, ClosedVisitRow[]>()
  for (const visit of closed) {
    const id = current.get(visit.installationId) as number
    const of = seen.get(id) ?? []
    seen.set(id, of)
    const calibration = byVisit.get(visit.id)
    const error = errorsByVisit.get(visit.id)
    const compares = visit.procedure === COMPARE
    of.push({
      id: visit.id,
      at: visit.at.getTime(),
      codes: null,
      asLeft: error && !compares ? error.asLeft : null,
      compared: compares && error?.asFound != null ? { error: error.asFound, uncertainty: error.uncertainty } : null,
      shift: null,
      numbersChanged: null,
      characteristic: calibration?.characteristic ?? null,
      uncertainty: calibration?.uncertainty ?? null,
      readings: readings.get(visit.id) ?? [],
    })
  }
  return seen
}

/** The captured readings of all visits, without their traces. Lines are read once, since the record only grows. */
async function readingsByVisit(db: Database): Promise<Known['readings']> {
  const of = knownOf(db)
  const lines = await db
    .select({ id: visitEntries.id, visitId: visitEntries.visitId, entry: visitEntries.entry })
    .from(visitEntries)
    .where(gt(visitEntries.id, of.newest))
    .orderBy(asc(visitEntries.id))
  for (const { id, visitId, entry } of lines) {
    // Another computation may have read the same lines meanwhile.
    if (id <= of.newest) continue
    of.newest = id
    if (entry.type !== 'captured') continue
    const readings = of.readings.get(visitId) ?? []
    of.readings.set(visitId, readings)
    readings.push({ step: entry.step, reading: { ...entry.reading, trace: [] } })
  }
  return of.readings
}

/** What the result of a closed visit found, computed again from its record. */
export async function findingsOf(db: Database, id: string, now: number): Promise<FindingCode[] | null> {
  const { findings } = knownOf(db)
  const before = findings.get(id)
  if (before !== undefined) return before
  const { procedure, progress } = await openVisit(db, null, id, now)
  const judged = nullIfOutOfRange(() => procedure.judge(progress.evidence, 'result'))
  const codes = judged?.findings.map((f) => f.code) ?? null
  findings.set(id, codes)
  return codes
}
