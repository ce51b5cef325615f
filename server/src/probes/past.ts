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
  nullIfOutOfRange,
  type OutOfTolerance,
  outOfTolerance,
  rateRecord,
  recordAction,
} from '@frustum/core'
import { asc, eq, inArray } from 'drizzle-orm'
import Papa from 'papaparse'
import type { Database } from '../database/open.ts'
import { driftObservations } from '../database/schema.ts'
import { numbersChanges } from '../devices/deviceCalibration.ts'
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

/** An error beyond the tolerance that a visit found, and how it grew since the visit before. */
export interface FoundError {
  visit: string | null
  found: number
  between: BetweenVisits
}

/** The errors beyond its tolerance that were found of a sensor in each of its stays, oldest first. */
export async function foundErrors(db: Database, installed: Installed, ids: readonly number[]): Promise<FoundError[]> {
  const rows = await db
    .select()
    .from(driftObservations)
    .where(inArray(driftObservations.installationId, [...ids]))
    .orderBy(asc(driftObservations.at))
  if (rows.length < 2) return []
  const changes = await numbersChanges(db, [installed])
  return rows.flatMap((visit) => {
    const before = rows.findLast((r) => r.installationId === visit.installationId && r.at < visit.at)
    if (!before || visit.asFound === null) return []
    const between = {
      from: before.at.getTime(),
      to: visit.at.getTime(),
      errorThen: before.asLeft,
      errorNow: visit.asFound,
      steps: changes.get(visit.installationId) ?? [],
    }
    const isOut = outOfTolerance(between, installed.position.tolerance).length > 0
    return isOut ? [{ visit: visit.visitId, found: visit.asFound, between }] : []
  })
}

/** Means of bins without the errors that were found later: what the record would have been, beside what it is. */
export function correctedBins(
  installed: Installed,
  errors: readonly FoundError[],
  { bins, width }: { bins: readonly Bin[]; width: number },
): SeriesView['corrected'] {
  const means = bins.flatMap(({ at, mean }) => (mean === null ? [] : [{ at: at + width / 2, value: mean }]))
  return errors.flatMap(({ visit, found, between }) => {
    const { from, to } = between
    const raw = means.filter(({ at }) => at >= from && at <= to)
    // Of a cell that showed nothing any more there is nothing to correct by.
    const points = nullIfOutOfRange(() => corrects(installed)(raw, between))
    return points === null || points.length === 0 ? [] : [{ visit, from, to, found, points }]
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
