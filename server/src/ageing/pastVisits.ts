import {
  type CalibrationParameters,
  type CapturedReading,
  type ClosedVisit,
  type FindingCode,
  isDisplayAlone,
  resultFindings,
} from '@frustum/core'
import { and, asc, gt, inArray, isNotNull, lte, max, sql } from 'drizzle-orm'
import { derived } from '../database/derived.ts'
import type { Database } from '../database/open.ts'
import { calibrations, driftObservations, visitEntries, visits } from '../database/schema.ts'
import { openVisit } from '../records/openVisit.ts'
import { orIfUnreadable } from '../records/readable.ts'
import { isWholeRecord } from '../records/takenIn.ts'
import { withoutTrace } from '../records/withoutTrace.ts'
import type { earlierInstallations, Installed } from '../sensors.ts'

/** A closed visit as the record has it, for the health of its sensor. */
export interface ClosedVisitRow extends ClosedVisit {
  id: string
  installationId: number
  uncertainty: CalibrationParameters | null
  /** As kept when it was closed; null when they were not. */
  findings: readonly FindingCode[] | null
}

type ReadingsByVisit = ReadonlyMap<string, readonly { step: string; reading: CapturedReading }[]>

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
  const [closed, found, errors, readings] = await Promise.all([
    db
      .select({
        id: visits.id,
        installationId: visits.installationId,
        at: visits.startedAt,
        procedure: visits.procedure,
        findings: visits.findings,
        knownReadings: visits.knownReadings,
        // The text is searched: to take every snapshot apart would cost far more.
        isUnknown: sql<boolean>`${visits.snapshot} like '%"unknownParameters":%'`,
      })
      .from(visits)
      .where(and(inArray(visits.installationId, ids), isNotNull(visits.closedAt), isWholeRecord))
      .orderBy(asc(visits.startedAt)),
    db.select().from(calibrations).where(inArray(calibrations.installationId, ids)),
    db.select().from(driftObservations).where(inArray(driftObservations.installationId, ids)),
    readingsByVisit(db),
  ])
  const byVisit = new Map(found.map((c) => [c.visitId, c]))
  const errorsByVisit = new Map(errors.map((e) => [e.visitId, e]))
  const seen = new Map<number, ClosedVisitRow[]>()
  for (const visit of closed) {
    const id = current.get(visit.installationId) as number
    const of = seen.get(id) ?? []
    seen.set(id, of)
    const calibration = byVisit.get(visit.id)
    const error = errorsByVisit.get(visit.id)
    const compares = visit.procedure === COMPARE
    const read = visit.knownReadings ?? readings.get(visit.id) ?? []
    const isUnknown = visit.isUnknown && !visit.knownReadings
    of.push({
      id: visit.id,
      installationId: visit.installationId,
      at: visit.at.getTime(),
      codes: null,
      asLeft: error && !compares ? error.asLeft : null,
      compared: compares && error?.asFound != null ? { error: error.asFound, uncertainty: error.uncertainty } : null,
      shift: null,
      numbersChanged: null,
      characteristic: knownOf(calibration?.characteristic),
      uncertainty: knownOf(calibration?.uncertainty),
      readings: read,
      isBehindUnknown: isUnknown && read.some(({ reading }) => isDisplayAlone(reading.source)),
      findings: visit.findings,
    })
  }
  return seen
}

/** Null where a calibration told nothing of the sensor. */
const knownOf = (c: CalibrationParameters | undefined) => (c && Object.keys(c).length > 0 ? c : null)

interface ReadSoFar {
  /** Id of the newest entry that was read. */
  newest: number
  readings: ReadingsByVisit
}

/** The captured readings of all visits, without their traces. Entries are read once, since the record only grows. */
async function readingsByVisit(db: Database): Promise<ReadingsByVisit> {
  const [last] = await db.select({ newest: max(visitEntries.id) }).from(visitEntries)
  const newest = last?.newest ?? 0
  const read = await derived<Promise<ReadSoFar>>(db, 'readings of visits', [newest], async (before) =>
    readSince(db, (await before) ?? { newest: 0, readings: new Map() }, newest),
  )
  return read.readings
}

const isCaptured = sql`${visitEntries.entry} ->> 'type' = 'captured'`

async function readSince(db: Database, { newest: from, readings: known }: ReadSoFar, to: number): Promise<ReadSoFar> {
  const entries = await db
    .select({ visitId: visitEntries.visitId, entry: withoutTrace })
    .from(visitEntries)
    .where(and(gt(visitEntries.id, from), lte(visitEntries.id, to), isCaptured))
    .orderBy(asc(visitEntries.id))
  const readings = new Map(known)
  for (const { visitId, entry } of entries) {
    if (entry.type !== 'captured') continue
    readings.set(visitId, [...(readings.get(visitId) ?? []), { step: entry.step, reading: entry.reading }])
  }
  return { newest: to, readings }
}

/** What the result of a closed visit found: as it was kept, or computed from a record of before that was done. */
export async function findingsOf(
  db: Database,
  { id, findings }: ClosedVisitRow,
  at: Installed | undefined,
): Promise<readonly FindingCode[] | null> {
  if (findings) return findings
  return derived(db, `findings of ${id}`, [], async () => {
    const opened = await orIfUnreadable(openVisit(db, id, at), null)
    return opened && resultFindings(opened.procedure, opened.progress.evidence)
  })
}
