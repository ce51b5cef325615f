import type { PastView, SeriesView } from '@frustum/contract'
import {
  type BetweenVisits,
  type Bin,
  correctPast,
  DAY_MS,
  farthestChange,
  isOfWater,
  kindOf,
  type LoggedReading,
  type OutOfTolerance,
  outOfTolerance,
  rateRecord,
  recordAction,
} from '@frustum/core'
import { asc, eq, inArray } from 'drizzle-orm'
import Papa from 'papaparse'
import type { Database } from '../database/open.ts'
import { driftObservations } from '../database/schema.ts'
import { numbersChanges } from '../links/deviceCalibration.ts'
import { notFound, Problem } from '../problem.ts'
import { readingsBetween } from '../readings/readingStore.ts'
import { type Installed, installedAt } from '../sensors.ts'

const ACTIONS = {
  'use-as-is': 'use as it is',
  correct: 'correct',
  'do-not-use': 'do not use',
} as const

/** What the error found at a visit means for the readings since the visit before: derived, never written over them. */
export async function pastOf(db: Database, code: string, visitId: string): Promise<PastView> {
  const installed = await installedAt(db, code)
  const { installation, position, device } = installed
  const rows = await db
    .select()
    .from(driftObservations)
    .where(eq(driftObservations.installationId, installation.id))
    .orderBy(asc(driftObservations.at))
  const k = rows.findIndex((r) => r.visitId === visitId)
  const [before, visit] = [rows[k - 1], rows[k]]
  if (!visit) throw notFound('visit')
  if (!before || visit.asFound === null) {
    throw new Problem(409, 'nothing-before', 'Nothing can be said of the readings before this visit.', {
      detail: 'It is the first of this sensor, or nothing was read as found.',
      hint: 'Read the sensor as found before cleaning at the next visit.',
    })
  }
  const [from, to] = [before.at.getTime(), visit.at.getTime()]
  const logged = (await readingsBetween(db, [installation.id], { from, to })).filter(({ state }) => isOfWater(state))
  const { model, rated } = kindOf(position.kind)
  const raw = logged.flatMap(({ at, shown }) => (shown === null ? [] : [{ at, value: shown }]))
  const steps = (await numbersChanges(db, [installed])).get(installation.id) ?? []
  const between = { from, to, errorThen: before.asLeft, errorNow: visit.asFound, steps }
  const corrected = corrects(installed)(raw, between)
  const out = outOfTolerance(between, position.tolerance)
  const fouling = visit.fouling ?? 0
  const errors = { fouling, drift: farthestChange(between) - fouling }
  return {
    visit: visitId,
    from,
    to,
    found: visit.asFound,
    out,
    days: out.reduce((sum, o) => sum + o.to - o.from, 0) / DAY_MS,
    affected: raw.filter((r) => liesIn(out, r.at)).length,
    rating: rated ? rateRecord(rated, errors) : 'not rated: no published limits for this quantity',
    action: rated ? ACTIONS[recordAction(rated, errors, position.processValue)] : 'judge it by your own limits',
    unit: model.shownScale(device.setting).unit,
    decimals: model.shownScale(device.setting).decimals,
    readings: raw.map((r, i) => ({ at: r.at, raw: r.value, corrected: corrected[i]?.value ?? r.value })),
  }
}

/** How the readings of a display are corrected. */
const corrects =
  ({ position, device }: Installed) =>
  (raw: readonly LoggedReading[], between: BetweenVisits): LoggedReading[] =>
    correctPast(
      raw,
      between,
      kindOf(position.kind).model.errorScale.unit === '%' ? 'percent' : 'unit',
      device.setting.display === 'specific gravity' ? 1 : 0,
    )

/**
 * Means of bins corrected for the errors that visits found beyond the tolerance, from the visit before on: what the
 * record would have been, beside what it is.
 */
export async function correctedBins(
  db: Database,
  installed: Installed,
  { ids, bins, width }: { ids: readonly number[]; bins: readonly Bin[]; width: number },
): Promise<SeriesView['corrected']> {
  const [first, last] = [bins.at(0), bins.at(-1)]
  if (!first || !last) return []
  const rows = await db
    .select()
    .from(driftObservations)
    .where(inArray(driftObservations.installationId, [...ids]))
    .orderBy(asc(driftObservations.at))
  const pairs = rows.flatMap((visit) => {
    const before = rows.findLast((r) => r.installationId === visit.installationId && r.at < visit.at)
    const isSeen = visit.at.getTime() > first.at && before && before.at.getTime() < last.at + width
    return isSeen && visit.asFound !== null ? [{ visit, before, found: visit.asFound }] : []
  })
  if (pairs.length === 0) return []
  const changes = await numbersChanges(db, [installed])
  return pairs.flatMap(({ visit, before, found }) => {
    const steps = changes.get(visit.installationId) ?? []
    const [from, to] = [before.at.getTime(), visit.at.getTime()]
    const between = { from, to, errorThen: before.asLeft, errorNow: found, steps }
    if (outOfTolerance(between, installed.position.tolerance).length === 0) return []
    const raw = bins.flatMap(({ at, mean }) => {
      const middle = at + width / 2
      return mean === null || middle < from || middle > to ? [] : [{ at: middle, value: mean }]
    })
    return [{ visit: visit.visitId, from, to, found, points: corrects(installed)(raw, between) }]
  })
}

const liesIn = (spans: readonly OutOfTolerance[], at: number) => spans.some((s) => at >= s.from && at <= s.to)

/** Raw readings and, beside them, what they are corrected to. */
export async function pastCsv(db: Database, code: string, visitId: string): Promise<string> {
  const past = await pastOf(db, code, visitId)
  return Papa.unparse(
    past.readings.map((r) => ({
      at: new Date(r.at).toISOString(),
      position: code,
      raw: r.raw,
      corrected: Number(r.corrected.toPrecision(8)),
      unit: past.unit,
      out_of_tolerance: liesIn(past.out, r.at) ? 'yes' : 'no',
      rating: past.rating,
    })),
    { escapeFormulae: true },
  )
}
