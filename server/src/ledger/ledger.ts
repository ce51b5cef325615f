import type { LedgerRow, RecordView } from '@frustum/contract'
import {
  DAY_MS,
  days,
  entrySentence,
  errorQuantity,
  modelOf,
  procedureOf,
  reduceVisit,
  resultAt,
  type Sentence,
  type Step,
  say,
  shownQuantity,
  signalQuantity,
  signedQuantity,
  standardQuantity,
  type VisitState,
} from '@frustum/core'
import { asc, count, desc, eq, inArray, isNotNull, lt } from 'drizzle-orm'
import type { Database } from '../database/open.ts'
import {
  corrections,
  driftObservations,
  installations,
  places,
  positions,
  sensors,
  visitEntries,
  visits,
} from '../database/schema.ts'
import { Problem } from '../problem.ts'
import { openVisit } from '../records/openVisit.ts'
import { readable } from '../records/readable.ts'
import { withoutTrace } from '../records/withoutTrace.ts'
import { driftHistory } from '../sensors.ts'
import { visitView } from '../visits/view.ts'

const PAGE = 100

/** Closed visits, newest first, a page at a time. */
export async function ledger(db: Database, before: Date | null): Promise<LedgerRow[]> {
  const rows = await db
    .select({ visit: visits, position: positions, place: places, sensor: sensors, drift: driftObservations })
    .from(visits)
    .innerJoin(installations, eq(visits.installationId, installations.id))
    .innerJoin(positions, eq(installations.positionId, positions.id))
    .innerJoin(places, eq(positions.placeId, places.id))
    .innerJoin(sensors, eq(installations.sensorId, sensors.id))
    .leftJoin(driftObservations, eq(driftObservations.visitId, visits.id))
    .where(before ? lt(visits.closedAt, before) : isNotNull(visits.closedAt))
    .orderBy(desc(visits.closedAt))
    .limit(PAGE)
  const corrected = new Map(
    (await db.select({ id: corrections.visitId, n: count() }).from(corrections).groupBy(corrections.visitId)).map(
      (c) => [c.id, c.n],
    ),
  )
  const unreadable = await unreadableVisits(
    db,
    rows.map((r) => r.visit.id),
  )
  return rows.map(({ visit, position, place, sensor, drift }) => {
    const { unit, decimals } = modelOf(position.kind).errorScale
    const error = (value: number) => signedQuantity(value, unit, decimals)
    return {
      id: visit.id,
      at: (visit.closedAt ?? visit.startedAt).getTime(),
      position: position.code,
      place: place.name,
      serialNumber: sensor.serialNumber,
      name: procedureOf(visit.procedure).name,
      operator: visit.operator,
      outcome: visit.outcome,
      asFound: drift?.asFound == null ? null : error(drift.asFound),
      asLeft: drift ? error(drift.asLeft) : null,
      adjusted: drift?.adjusted ?? false,
      corrections: corrected.get(visit.id) ?? 0,
      unreadable: unreadable.has(visit.id),
    }
  })
}

/** Which of these visits have a line that this version cannot read. */
async function unreadableVisits(db: Database, ids: readonly string[]): Promise<ReadonlySet<string>> {
  const lines = await db
    .select({ id: visitEntries.visitId, entry: withoutTrace })
    .from(visitEntries)
    .where(inArray(visitEntries.visitId, [...ids]))
  return new Set(lines.flatMap(({ id, entry }) => (entry.type === 'unreadable' ? [id] : [])))
}

/** One visit as a page: everything that was read, concluded, decided and said. */
export async function recordOf(db: Database, id: string, now: number): Promise<RecordView> {
  const opened = await openVisit(db, null, id, now)
  const lines = await db.select().from(visitEntries).where(eq(visitEntries.visitId, id)).orderBy(asc(visitEntries.seq))
  const noted = await db.select().from(corrections).where(eq(corrections.visitId, id)).orderBy(asc(corrections.id))
  const { procedure, progress, installed, setup } = opened
  const { evidence } = progress
  // Names of steps that were on the ladder at any time, those of earlier rounds included.
  const steps = new Map<string, Step>()
  lines.forEach((_, i) => {
    const part = opened.lines.slice(0, i + 1)
    for (const { step } of reduceVisit(procedure, setup, opened.row.startedAt.getTime(), part).steps)
      steps.set(step.key, step)
  })
  const judged = progress.steps.findLast(
    (s) => (s.step.kind === 'result' || s.step.kind === 'verdict') && s.status === 'done',
  )
  return {
    visit: await visitView(db, opened, now),
    serialNumber: installed.sensor.serialNumber,
    model: installed.sensor.model,
    lines: lines.map((l) => ({
      seq: l.seq,
      at: l.at.getTime(),
      operator: l.operator,
      entry: readable(l),
      sentence: entrySentence(readable(l), steps, evidence),
    })),
    points: pointsOf(
      evidence,
      progress.steps.map((s) => s.step),
    ),
    result: judged ? resultAt(procedure, progress, judged.step.key) : null,
    decisions: Object.entries(evidence.decisions).map(([step, d]) => ({ step: steps.get(step)?.short ?? step, ...d })),
    corrections: noted.map((c) => ({ at: c.at.getTime(), operator: c.operator, text: c.text })),
    drift: await driftWords(db, opened.row.installationId, id, evidence),
  }
}

function pointsOf(evidence: VisitState, steps: readonly Step[]): RecordView['points'] {
  return steps.flatMap((step) => {
    const reading = evidence.readings[step.key]
    if (!reading || evidence.skipped[step.key] !== undefined) return []
    const { standard } = reading
    return [
      {
        label: step.short,
        reading,
        signal: signalQuantity(evidence, reading.signal),
        shown: shownQuantity(evidence, reading.shown),
        standard: standard ? standardQuantity(evidence, standard.code, standard.value) : null,
      },
    ]
  })
}

/** What came between the visit before and this one. */
async function driftWords(
  db: Database,
  installationId: number,
  visitId: string,
  evidence: VisitState,
): Promise<Sentence | null> {
  const history = (await driftHistory(db, [installationId])).get(installationId) ?? []
  const [own] = await db.select().from(driftObservations).where(eq(driftObservations.visitId, visitId))
  if (!own || own.asFound === null) return null
  const before = history.findLast((h) => h.at < own.at.getTime())
  if (!before) return null
  const elapsed = days(Math.round((own.at.getTime() - before.at) / DAY_MS))
  const drift = own.asFound - (own.fouling ?? 0) - before.asLeft
  const fouling = own.fouling === null ? '' : say`, fouling ${errorQuantity(evidence, own.fouling)}`
  return say`In ${elapsed} since the visit before: drift ${errorQuantity(evidence, drift)}${fouling}.`
}

/** What is to be read instead. The record itself stays as it was written. */
export async function addCorrection(
  db: Database,
  id: string,
  { operator, text }: { operator: string; text: string },
  now: number,
): Promise<RecordView> {
  const { row } = await openVisit(db, null, id, now)
  if (!row.closedAt) {
    throw new Problem(409, 'still-open', 'This visit is still open.', { hint: 'Take the step again on the Bench.' })
  }
  await db.insert(corrections).values({ visitId: id, at: new Date(now), operator, text })
  return recordOf(db, id, now)
}
