import { requireWithin } from '../quantities/outOfRange.ts'
import { median, scaledMad } from '../statistics/median.ts'
import { normalCdf, Z95 } from '../statistics/normalDistribution.ts'
import { theilSen } from '../statistics/theilSen.ts'

export const DAY_MS = 86_400_000

/** One visit as the forecast sees it. Errors are displayed minus true at the process value, in the unit of its kind. */
export interface DriftObservation {
  /** Epoch ms. */
  at: number
  /** Error met on arrival; null when it was not measured (a first calibration). */
  asFound: number | null
  /** Error left behind: 0 ideally after an adjustment, the error as found when it was left alone. */
  asLeft: number
  /** Half-width of the 95 % interval of either. */
  uncertainty: number
  adjusted: boolean
}

export interface DriftForecast {
  /** Where the forecast starts: the last visit. */
  from: number
  errorAtStart: number
  /** Standard deviation there. */
  sdAtStart: number
  /** Per day. */
  rate: number
  rateSd: number
  /** Random walk: variance per day. */
  walk: number
  /** Visits that speak of drift; 0 means that the usual figures for such sensors stand in. */
  intervals: number
}

/** What is assumed of a sensor of which nothing is known yet: no drift on average, and how far it may stray. */
export interface UsualDrift {
  /** Standard deviation of the drift rate, per day. */
  rateSd: number
  /** Random walk: variance per day. */
  walk: number
}

/** A pH electrode: 0.05 pH per month either way, a random walk of 0.02 pH in a month. Common practice, no source. */
const USUAL_PH: UsualDrift = { rateSd: 0.05 / 30, walk: 0.02 ** 2 / 30 }
/** Visits that count: what an electrode did long ago says little of what it will do. */
const MEMORY = 7

/**
 * Straight-line robust drift. The growth from each visit's as-left to the next visit's as-found adds up to the course
 * that the error would have taken had nobody touched it; its Theil-Sen slope is the drift rate, what is left over the
 * random walk. The usual figures weigh in as if they were one interval.
 * @param observations of one installation, oldest first; at least one
 * @param changedAt epoch ms of the last event that made it another electrode (refilled, poisoned); visits before it
 *   do not count, but for the last one while there are few after it
 * @param usual figures of sensors of its kind
 * @throws RangeError when empty or not in order of time
 */
export function forecastDrift(
  observations: readonly DriftObservation[],
  changedAt?: number,
  usual: UsualDrift = USUAL_PH,
): DriftForecast {
  const last = observations.at(-1)
  if (!last) throw new RangeError('A forecast needs at least one visit.')
  const course = since(unadjustedCourse(observations), changedAt).slice(-MEMORY)
  const start = { from: last.at, errorAtStart: last.asLeft, sdAtStart: last.uncertainty / Z95 }
  const intervals = course.length - 1
  if (intervals < 1) return { ...start, rate: 0, rateSd: usual.rateSd, walk: usual.walk, intervals: 0 }

  const days = course.map((c) => c.day)
  const trend = theilSen(
    days,
    course.map((c) => c.offset),
  )
  const span = (days.at(-1) as number) - (days[0] as number)
  const walk = (intervals * walkOf(course, trend.slope, last.uncertainty, usual) + usual.walk) / (intervals + 1)
  const measured = Math.max((trend.slopeHigh - trend.slopeLow) / (2 * Z95), Math.sqrt(walk / span))
  // Shrink towards no drift as far as the usual spread of rates says so.
  const trust = usual.rateSd ** 2 / (usual.rateSd ** 2 + measured ** 2)
  const rate = intervals < 4 ? trend.slope * trust : trend.slope
  const rateSd = intervals < 4 ? Math.sqrt(trust) * measured : measured
  return { ...start, rate, rateSd, walk, intervals }
}

interface CoursePoint {
  day: number
  offset: number
}

function unadjustedCourse(observations: readonly DriftObservation[]): CoursePoint[] {
  const course: CoursePoint[] = []
  let offset = 0
  let previous: DriftObservation | null = null
  for (const o of observations) {
    if (previous && o.at <= previous.at) throw new RangeError('Visits must be in order of time.')
    if (previous && o.asFound !== null) offset += o.asFound - previous.asLeft
    if (!previous || o.asFound !== null) course.push({ day: o.at / DAY_MS, offset })
    previous = o
  }
  return course
}

/** The course since a change; the visit before it counts as well as long as there are fewer than three after it. */
function since(course: CoursePoint[], changedAt: number | undefined): CoursePoint[] {
  if (changedAt === undefined) return course
  const after = course.filter((c) => c.day * DAY_MS > changedAt)
  return after.length >= 3 ? after : course.slice(-(after.length + 1))
}

function walkOf(course: readonly CoursePoint[], rate: number, uncertainty: number, usual: UsualDrift): number {
  const perRootDay = course.slice(1).map((c, i) => {
    const before = course[i] as CoursePoint
    const days = c.day - before.day
    return (c.offset - before.offset - rate * days) / Math.sqrt(days)
  })
  const spread = perRootDay.length >= 3 ? scaledMad(perRootDay) : Math.max(...perRootDay.map(Math.abs))
  const days = median(course.slice(1).map((c, i) => c.day - (course[i] as CoursePoint).day))
  // Each difference carries the measurement error of two visits.
  const measurement = (2 * (uncertainty / Z95) ** 2) / days
  return Math.max(spread ** 2 - measurement, usual.walk / 10)
}

export interface ExpectedError {
  mean: number
  sd: number
}

/** Error to be expected `days` after the last visit. @throws OutOfRange for negative days */
export function expectedError(forecast: DriftForecast, days: number): ExpectedError {
  requireWithin('Days ahead', days, 0, 36_500, 'd')
  return {
    mean: forecast.errorAtStart + forecast.rate * days,
    sd: Math.sqrt(forecast.sdAtStart ** 2 + (forecast.rateSd * days) ** 2 + forecast.walk * days),
  }
}

/** Probability of being within +- tolerance `days` after the last visit. */
export function probabilityInTolerance(forecast: DriftForecast, days: number, tolerance: number): number {
  const { mean, sd } = expectedError(forecast, days)
  return normalCdf((tolerance - mean) / sd) - normalCdf((-tolerance - mean) / sd)
}

/**
 * Days after the last visit until the probability of being within tolerance falls below `reliability`;
 * 0 when it is below it already, `farthest` when it has not fallen by then.
 */
export function daysWithinTolerance(
  forecast: DriftForecast,
  tolerance: number,
  reliability: number,
  farthest = 730,
): number {
  requireWithin('Tolerance', tolerance, 1e-6, 1e4)
  requireWithin('Reliability', reliability, 0.5, 0.999)
  const holds = (days: number) => probabilityInTolerance(forecast, days, tolerance) >= reliability
  if (!holds(0)) return 0
  // A drift through zero may be safe later and not sooner, so look day by day for the first failure.
  let day = 1
  while (day <= farthest && holds(day)) day++
  return Math.min(day - 1, farthest)
}
