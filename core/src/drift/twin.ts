import { Z95 } from '../statistics/normalDistribution.ts'
import { type Belief, carriedSuddenly } from './driftFilter.ts'
import { type DriftForecast, forecastFrom, type LikelyCourse, likeliest } from './driftForecast.ts'
import { DAY_MS } from './observation.ts'

/** What two sensors of one kind in the same water showed at the same time. */
export interface Apart {
  /** Epoch ms; not before the last visit of either. */
  at: number
  /** This one less the other, in the unit of their errors. */
  difference: number
  /** Half-width of its 95 % interval: how far two that are right may be apart here. */
  uncertainty: number
}

/**
 * So much of what may slowly have happened to two sensors since their visits is taken to have happened to both, so that
 * their difference does not show it: the same water, the same standards. In truth it is less with most pairs; but where
 * it is all, two that agree must not be taken for right. Common practice, no source.
 */
const TOGETHER = 0.97

/** So often what comes suddenly comes to both, as a wrong standard does; common practice, no source. */
const SUDDENLY_BOTH = 0.5

/** One way in which the twin may err. */
interface OtherError {
  weight: number
  mean: number
  variance: number
  /** Variance of what it may share with the other one. */
  shareable: number
}

/** Ways whose variances are alike to this factor are taken together: steps must stay as wide as they are. */
const ALIKE = 4

/**
 * The forecast of a sensor from the moment at which it was seen beside its twin. Their difference is a measurement of
 * the one's error less the other's: each is blamed as far as its own forecast makes that likely, and what comes to both
 * stays unknown (conditioning of a joint normal mixture).
 * @throws RangeError where the difference is older than a visit of either
 */
export function withTwin(forecast: DriftForecast, twin: DriftForecast, apart: Apart): DriftForecast {
  const [days, twinDays] = [(apart.at - forecast.from) / DAY_MS, (apart.at - twin.from) / DAY_MS]
  if (!(days >= 0 && twinDays >= 0))
    throw new RangeError('A difference counts from the last visits of both sensors on.')
  const others = errorsOf(twin, twinDays)
  const noise = (apart.uncertainty / Z95) ** 2
  const courses: LikelyCourse[] = []
  for (const { weight, hypothesis, belief } of forecast.courses) {
    const [asItWent, suddenly] = carriedSuddenly(hypothesis, belief, days)
    const look = (own: Belief) =>
      seenBeside(own, asItWent.belief.errorVariance, others, { difference: apart.difference, noise })
    const [plain, alone] = [look(asItWent.belief), look(suddenly.belief)]
    const both = widened(plain.belief, asItWent.belief, suddenly.belief)
    for (const [chance, seen] of [
      [asItWent.chance, plain],
      [suddenly.chance * (1 - SUDDENLY_BOTH), alone],
      [suddenly.chance * SUDDENLY_BOTH, { likelihood: plain.likelihood, belief: both }],
    ] as const) {
      if (chance * seen.likelihood > 0)
        courses.push({ weight: weight * chance * seen.likelihood, hypothesis, belief: seen.belief })
    }
  }
  // So far apart that no course explains it: then all that is known is what was known before.
  return courses.length > 0 ? forecastFrom(likeliest(courses), apart.at, forecast.intervals) : forecast
}

/** What came to both does not show in their difference: it adds as much as it did before the difference was seen. */
const widened = (seen: Belief, before: Belief, after: Belief): Belief => ({
  ...seen,
  errorVariance: seen.errorVariance + after.errorVariance - before.errorVariance,
  covariance: seen.covariance + after.covariance - before.covariance,
  secondVariance: seen.secondVariance + after.secondVariance - before.secondVariance,
})

/** Where the twin may stand: few ways for many courses. */
function errorsOf({ courses }: DriftForecast, days: number): OtherError[] {
  const groups = new Map<number, OtherError>()
  for (const course of courses) {
    const [asItWent, suddenly] = carriedSuddenly(course.hypothesis, course.belief, days)
    const shareable = asItWent.belief.errorVariance
    const alone = suddenly.chance * (1 - SUDDENLY_BOTH)
    for (const [chance, belief] of [
      [1 - alone, asItWent.belief],
      [alone, suddenly.belief],
    ] as const) {
      const weight = course.weight * chance
      if (weight === 0) continue
      const key = Math.round(Math.log(belief.errorVariance) / Math.log(ALIKE))
      const group = groups.get(key)
      const one = { weight, mean: belief.error, variance: belief.errorVariance, shareable }
      groups.set(key, group ? merged(group, one) : one)
    }
  }
  return [...groups.values()]
}

/** Two ways as one, of the same mean and variance. */
function merged(a: OtherError, b: OtherError): OtherError {
  const weight = a.weight + b.weight
  const share = b.weight / weight
  const mean = (1 - share) * a.mean + share * b.mean
  return {
    weight,
    mean,
    variance: (1 - share) * a.variance + share * b.variance + share * (1 - share) * (a.mean - b.mean) ** 2,
    shareable: (1 - share) * a.shareable + share * b.shareable,
  }
}

/** One belief after the difference was seen, and how likely it made it. */
function seenBeside(
  own: Belief,
  shareable: number,
  others: readonly OtherError[],
  { difference, noise }: { difference: number; noise: number },
): { likelihood: number; belief: Belief } {
  let likelihood = 0
  const mean = { error: 0, second: 0 }
  const square = { errorVariance: 0, covariance: 0, secondVariance: 0 }
  for (const other of others) {
    const common = TOGETHER * Math.min(shareable, other.shareable)
    const spread = own.errorVariance + other.variance - 2 * common + noise
    const miss = difference - (own.error - other.mean)
    const like = (other.weight * Math.exp((-0.5 * miss * miss) / spread)) / Math.sqrt(spread)
    if (!(like > 0)) continue
    // What the difference shows of the error and of the second state: all but the common part.
    const shown = own.errorVariance - common
    const shownSecond = own.covariance * (1 - common / Math.max(own.errorVariance, 1e-30))
    const error = own.error + (shown / spread) * miss
    const second = own.second + (shownSecond / spread) * miss
    likelihood += like
    mean.error += like * error
    mean.second += like * second
    square.errorVariance += like * (own.errorVariance - (shown * shown) / spread + error * error)
    square.covariance += like * (own.covariance - (shown * shownSecond) / spread + error * second)
    square.secondVariance += like * (own.secondVariance - (shownSecond * shownSecond) / spread + second * second)
  }
  if (!(likelihood > 0)) return { likelihood: 0, belief: own }
  const [error, second] = [mean.error / likelihood, mean.second / likelihood]
  return {
    likelihood,
    belief: {
      error,
      second,
      errorVariance: Math.max(square.errorVariance / likelihood - error * error, 0),
      covariance: square.covariance / likelihood - error * second,
      secondVariance: Math.max(square.secondVariance / likelihood - second * second, 0),
    },
  }
}
