import { requireWithin } from '../quantities/outOfRange.ts'
import { normalCdf } from '../statistics/normalDistribution.ts'
import {
  type Belief,
  beliefUnder,
  carried,
  type DriftFilter,
  openFilter,
  startFilter,
  surprise,
  updateFilter,
} from './driftFilter.ts'
import { type DriftHypothesis, driftHypotheses } from './hypothesis.ts'
import type { DriftObservation, UsualDrift } from './observation.ts'
import { hypothesisWeights, sitePriors } from './sitePrior.ts'

/** One hypothesis that is still worth counting, with what is believed under it. */
export interface LikelyCourse {
  weight: number
  hypothesis: DriftHypothesis
  belief: Belief
}

export interface DriftForecast {
  /** Where the forecast starts: the last visit. */
  from: number
  errorAtStart: number
  /** Standard deviation there. */
  sdAtStart: number
  /** Per day, over the coming month. */
  rate: number
  rateSd: number
  /** Intervals between visits that speak of drift; 0 means that like sensors stand in. */
  intervals: number
  courses: readonly LikelyCourse[]
}

/** A sensor's past, for a forecast. */
export interface DriftHistory {
  /** Visits of one installation, oldest first; at least one. */
  observations: readonly DriftObservation[]
  /** Epoch ms of events that made it another sensor (refilled, poisoned); visits before count less. */
  changedAt?: readonly number[]
  /** Unit of its errors, where it is told: only like can be pooled with like. */
  unit?: string
}

/** A pH electrode: 0.05 pH per month either way, a random walk of 0.02 pH in a month. Common practice, no source. */
export const USUAL_PH: UsualDrift = { rateSd: 0.05 / 30, walk: 0.02 ** 2 / 30 }

/** Hypotheses of less weight than this share together are left out of a forecast. */
const LEFT_OUT = 0.01
/** Over how many days ahead the rate is stated. */
const RATE_DAYS = 30

/**
 * Forecast of one sensor, known by its own visits and by the general prior alone. For the sensors of a site see
 * `forecastSite`, which learns from like sensors.
 * @throws RangeError when there is no visit, or when they are not in order of time
 */
export function forecastDrift(
  observations: readonly DriftObservation[],
  changedAt?: number | readonly number[],
  usual: UsualDrift = USUAL_PH,
): DriftForecast {
  const changes = changedAt === undefined ? [] : typeof changedAt === 'number' ? [changedAt] : changedAt
  return forecastSite([{ observations, changedAt: changes }], usual)[0] as DriftForecast
}

/**
 * Forecasts of the like sensors of a site (one kind, one unit). Between visits the error goes by drift, whose rate
 * wanders, by a random walk and by steps, or comes back to a level of its own; which of these, and how much, is
 * weighed by each sensor's visits against what holds for its like (Bayesian model averaging over linear-Gaussian
 * state-space models; J. Durbin and S. J. Koopman, Time Series Analysis by State Space Methods, 2nd ed., ch. 3, 4).
 * @throws RangeError when a sensor has no visit, or visits out of order, or when units differ
 */
export function forecastSite(histories: readonly DriftHistory[], usual: UsualDrift = USUAL_PH): DriftForecast[] {
  const units = new Set(histories.flatMap((h) => h.unit ?? []))
  if (units.size > 1)
    throw new RangeError(`Errors in ${[...units].join(' and ')} cannot be pooled: forecast each unit apart.`)
  const hypotheses = driftHypotheses(usual)
  const filters = histories.map((history) => filterHistory(hypotheses, history))
  const priors = sitePriors(hypotheses, filters)
  return filters.map((filter, i) => forecastOf(hypotheses, filter, priors[i] as Float64Array))
}

/** Runs the visits of one sensor through the filter. @throws RangeError for none, or a wrong order */
export function filterHistory(hypotheses: readonly DriftHypothesis[], history: DriftHistory): DriftFilter {
  const [first, ...later] = history.observations
  if (!first) throw new RangeError('A forecast needs at least one visit.')
  const changes = (history.changedAt ?? []).filter((at) => at > first.at).toSorted((a, b) => a - b)
  let filter = startFilter(hypotheses, first)
  for (const visit of later) {
    while (changes.length > 0 && (changes[0] as number) <= visit.at) {
      changes.shift()
      filter = openFilter(filter, hypotheses)
    }
    filter = updateFilter(filter, hypotheses, visit)
  }
  return changes.length > 0 ? openFilter(filter, hypotheses) : filter
}

/** The forecast that a filter and a prior give. */
export function forecastOf(
  hypotheses: readonly DriftHypothesis[],
  filter: DriftFilter,
  prior: ArrayLike<number>,
): DriftForecast {
  const courses = Array.from(hypothesisWeights(filter, prior), (weight, i) => ({ weight, i }))
  const likely = likeliest(courses).map(({ weight, i }) => ({
    weight,
    hypothesis: hypotheses[i] as DriftHypothesis,
    belief: beliefUnder(filter, i),
  }))
  return forecastFrom(likely, filter.at, filter.intervals)
}

/** The likeliest, most likely first, but for a small rest that does not count. */
export function likeliest<T extends { weight: number }>(all: readonly T[]): T[] {
  const total = all.reduce((sum, c) => sum + c.weight, 0)
  let counted = 0
  const kept: T[] = []
  for (const course of all.toSorted((a, b) => b.weight - a.weight)) {
    if (counted >= (1 - LEFT_OUT) * total) break
    kept.push(course)
    counted += course.weight
  }
  return kept
}

/** The forecast that these courses make from an instant on; their weights need not add up to 1. */
export function forecastFrom(all: readonly LikelyCourse[], from: number, intervals: number): DriftForecast {
  const total = all.reduce((sum, c) => sum + c.weight, 0)
  const courses = all.map((c) => ({ ...c, weight: c.weight / total }))
  const start = moments(courses, 0)
  const later = moments(courses, RATE_DAYS)
  return {
    from,
    errorAtStart: start.mean,
    sdAtStart: start.sd,
    rate: (later.mean - start.mean) / RATE_DAYS,
    rateSd: Math.sqrt(Math.max(later.sd ** 2 - start.sd ** 2, 0)) / RATE_DAYS,
    intervals,
    courses,
  }
}

export interface ExpectedError {
  mean: number
  sd: number
}

/** Error to be expected `days` after the last visit. @throws OutOfRange for negative days */
export function expectedError(forecast: DriftForecast, days: number): ExpectedError {
  requireWithin('Days ahead', days, 0, 36_500, 'd')
  return moments(forecast.courses, days)
}

function moments(courses: readonly LikelyCourse[], days: number): ExpectedError {
  let mean = 0
  let square = 0
  for (const { weight, hypothesis, belief } of courses) {
    const { error, errorVariance } = carried(hypothesis, belief, days)
    mean += weight * error
    const sudden = surprise(hypothesis, days)
    square += weight * (errorVariance + sudden.chance * sudden.errorVariance + error * error)
  }
  return { mean, sd: Math.sqrt(Math.max(square - mean * mean, 0)) }
}

/** Probability that the error is below `limit` so many days after the last visit. */
export function probabilityBelow(forecast: DriftForecast, days: number, limit: number): number {
  return probabilityBetween(forecast, days, Number.NEGATIVE_INFINITY, limit)
}

/**
 * How a reading `days` after the last visit lies in what was forecast: its probability density, and the probability of
 * less. For scoring forecasts: by the logarithm of the one, and by whether the other is uniform (T. Gneiting and A. E.
 * Raftery, J. Am. Stat. Assoc. 102 (2007) 359; A. P. Dawid, J. R. Stat. Soc. A 147 (1984) 278).
 * @param sd standard deviation of the reading itself, same unit, above 0
 */
export function forecastOfReading(
  forecast: DriftForecast,
  days: number,
  reading: { value: number; sd: number },
): { density: number; below: number } {
  let density = 0
  let below = 0
  for (const { weight, hypothesis, belief } of forecast.courses) {
    const { error, errorVariance } = carried(hypothesis, belief, days)
    const sudden = surprise(hypothesis, days)
    for (const [share, variance] of [
      [1 - sudden.chance, errorVariance],
      [sudden.chance, errorVariance + sudden.errorVariance],
    ] as const) {
      const sd = Math.hypot(Math.sqrt(variance), reading.sd)
      const z = (reading.value - error) / sd
      density += (weight * share * Math.exp(-0.5 * z * z)) / (sd * Math.sqrt(2 * Math.PI))
      below += weight * share * normalCdf(z)
    }
  }
  return { density, below: Math.min(1, below) }
}

/** Probability of being within +- tolerance `days` after the last visit. */
export function probabilityInTolerance(forecast: DriftForecast, days: number, tolerance: number): number {
  return probabilityBetween(forecast, days, -tolerance, tolerance)
}

/** Probability that the error lies between two values `days` after the last visit. */
export function probabilityBetween(forecast: DriftForecast, days: number, low: number, high: number): number {
  let within = 0
  for (const { weight, hypothesis, belief } of forecast.courses) {
    const { error, errorVariance } = carried(hypothesis, belief, days)
    const { chance, errorVariance: added } = surprise(hypothesis, days)
    const sd = Math.sqrt(errorVariance)
    const wide = Math.sqrt(errorVariance + added)
    within +=
      weight *
      ((1 - chance) * between(low, high, error, sd) + (chance > 1e-4 ? chance * between(low, high, error, wide) : 0))
  }
  // Weights add up to one but for rounding.
  return Math.min(1, within)
}

const between = (low: number, high: number, mean: number, sd: number): number =>
  sd === 0
    ? Number(low <= mean && mean <= high)
    : (high === Number.POSITIVE_INFINITY ? 1 : normalCdf((high - mean) / sd)) -
      (low === Number.NEGATIVE_INFINITY ? 0 : normalCdf((low - mean) / sd))

/**
 * The error that is not exceeded with probability `p`, `days` after the last visit, to a thousandth of its standard
 * deviation.
 * @throws OutOfRange for p outside 0.001 to 0.999
 */
export function errorQuantile(forecast: DriftForecast, days: number, p: number): number {
  requireWithin('Probability', p, 0.001, 0.999)
  const { mean, sd } = expectedError(forecast, days)
  // No quantile lies farther from the mean than Cantelli's inequality allows.
  const reach = sd * Math.sqrt(Math.max(p, 1 - p) / Math.min(p, 1 - p)) + 1e-12
  let [low, high] = [mean - reach, mean + reach]
  while (high - low > 1e-3 * sd + 1e-12) {
    const middle = (low + high) / 2
    if (probabilityBelow(forecast, days, middle) < p) low = middle
    else high = middle
  }
  return (low + high) / 2
}

/** From this day on days are looked at in strides: a probability does not dip and recover within a week there. */
const STRIDE_FROM = 28
const STRIDE = 7

/** How far ahead a forecast is trusted: beyond it the answer is "not known", never "never". */
export const FARTHEST_DAYS = 730

/**
 * Days after the last visit until the probability of being within tolerance falls below `reliability`, to the nearest
 * whole day; 0 when it is below it already, `farthest` when it has not fallen by then.
 * @param about the error in the middle of the tolerance, where a known shift is not to count
 * @throws OutOfRange for a tolerance of zero or a reliability outside 0.5 to 0.999
 */
export function daysWithinTolerance(
  forecast: DriftForecast,
  tolerance: number,
  reliability: number,
  farthest = FARTHEST_DAYS,
  about = 0,
): number {
  requireWithin('Tolerance', tolerance, 1e-6, 1e4)
  requireWithin('Reliability', reliability, 0.5, 0.999)
  const within = (days: number) => probabilityBetween(forecast, days, about - tolerance, about + tolerance)
  let before = within(0)
  if (before < reliability) return 0
  // A drift through zero may be safe later and not sooner, so look for the first failure: at first day by day, farther
  // out in strides, with the days of the last stride looked at one by one.
  let day = 1
  while (day <= farthest) {
    const stride = day > STRIDE_FROM ? Math.min(STRIDE, farthest - day + 1) : 1
    if (stride > 1 && within(day + stride - 1) >= reliability) {
      day += stride
      continue
    }
    if (stride > 1) before = within(day - 1)
    for (const end = day + stride; day < end; day++) {
      const now = within(day)
      // Always to stop at the day before would be too cautious where a day makes a difference.
      if (now < reliability) return before - reliability < reliability - now ? day - 1 : day
      before = now
    }
  }
  return farthest
}
