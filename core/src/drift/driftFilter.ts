import { Z95 } from '../statistics/normalDistribution.ts'
import type { DriftHypothesis } from './hypothesis.ts'
import { DAY_MS, type DriftObservation } from './observation.ts'

/** What is believed under one hypothesis: error and second state with their covariance. */
export interface Belief {
  error: number
  second: number
  errorVariance: number
  covariance: number
  secondVariance: number
}

/**
 * The filter of one sensor: under each hypothesis a belief and a log likelihood, after the visits so far. The beliefs
 * lie flat, five numbers each in the order of `Belief`, since they are moved a hundred thousand times for a site.
 */
export interface DriftFilter {
  /** Epoch ms of the last visit. */
  at: number
  beliefs: Float64Array
  logLikelihoods: Float64Array
  /** Intervals between visits that speak of drift. */
  intervals: number
}

const WIDTH = 5
const [ERROR, SECOND, ERROR_VARIANCE, COVARIANCE, SECOND_VARIANCE] = [0, 1, 2, 3, 4] as const

/** The belief under hypothesis number `i`. */
export function beliefUnder(filter: DriftFilter, i: number): Belief {
  const [error, second, errorVariance, covariance, secondVariance] = filter.beliefs.subarray(
    WIDTH * i,
    WIDTH * i + WIDTH,
  )
  return { error, second, errorVariance, covariance, secondVariance } as Belief
}

/** A reading that was wrong in itself, not the sensor: how often. Common practice, no source. */
const MISREAD = 0.01
/** What a visit said counts less by this factor with each visit since: sensors become other sensors. */
const MEMORY = 0.96
/** A sensor read to better than this share of a step would make one hypothesis certain too soon. */
const LEAST_SD_SHARE = 0.01

/** Where a belief stands `days` later, without a step on the way. */
export function carried(h: DriftHypothesis, b: Belief, days: number): Belief {
  const flat = Float64Array.of(b.error, b.second, b.errorVariance, b.covariance, b.secondVariance)
  carry(h, flat, 0, days)
  return {
    error: flat[ERROR] as number,
    second: flat[SECOND] as number,
    errorVariance: flat[ERROR_VARIANCE] as number,
    covariance: flat[COVARIANCE] as number,
    secondVariance: flat[SECOND_VARIANCE] as number,
  }
}

/** Moves the belief at place `o` of a flat list on by so many days. */
function carry(h: DriftHypothesis, flat: Float64Array, o: number, days: number): void {
  const error = flat[o + ERROR] as number
  const second = flat[o + SECOND] as number
  const ee = flat[o + ERROR_VARIANCE] as number
  const es = flat[o + COVARIANCE] as number
  const ss = flat[o + SECOND_VARIANCE] as number
  if (h.course === 'reverting') {
    const stay = Math.exp(-h.pace * days)
    const go = 1 - stay
    flat[o + ERROR] = stay * error + go * second
    flat[o + ERROR_VARIANCE] =
      stay * stay * ee + 2 * stay * go * es + go * go * ss + (h.walk * (1 - stay * stay)) / (2 * h.pace)
    flat[o + COVARIANCE] = stay * es + go * ss
    return
  }
  const growth = h.pace === 0 ? 1 : Math.exp(h.pace * days)
  const reach = h.pace === 0 ? days : (growth - 1) / h.pace
  const wandered = h.wander * days
  flat[o + ERROR] = error + reach * second
  flat[o + SECOND] = growth * second
  flat[o + ERROR_VARIANCE] = ee + 2 * reach * es + reach * reach * ss + h.walk * days + (wandered * days * days) / 3
  flat[o + COVARIANCE] = growth * (es + reach * ss) + (wandered * days) / 2
  flat[o + SECOND_VARIANCE] = growth * growth * ss + wandered
}

/** Probability of at least one step within so many days. */
export const stepChance = (h: DriftHypothesis, days: number): number => 1 - Math.exp(-h.stepsPerDay * days)

/** The filter after a first visit, or an installation, that left `asLeft` behind. */
export function startFilter(hypotheses: readonly DriftHypothesis[], first: DriftObservation): DriftFilter {
  const beliefs = new Float64Array(WIDTH * hypotheses.length)
  hypotheses.forEach((h, i) => {
    const o = WIDTH * i
    beliefs[o + ERROR] = first.asLeft
    beliefs[o + SECOND] = h.course === 'reverting' ? first.asLeft : 0
    beliefs[o + ERROR_VARIANCE] = (first.uncertainty / Z95) ** 2
    beliefs[o + SECOND_VARIANCE] = h.spread ** 2
    move(h, beliefs, o, first.shift ?? 0)
  })
  return { at: first.at, beliefs, logLikelihoods: new Float64Array(hypotheses.length), intervals: 0 }
}

/**
 * Takes in one more visit. What was found on arrival moves the beliefs and weighs the hypotheses; what was done then
 * resets the error. A step on the way and a misreading are weighed against the plain course each time, and merged
 * again by their moments (generalised pseudo-Bayes of first order; Y. Bar-Shalom et al., Estimation with Applications
 * to Tracking and Navigation, 2001, ch. 11).
 * @throws RangeError when the visit is not later than the last one
 */
export function updateFilter(
  filter: DriftFilter,
  hypotheses: readonly DriftHypothesis[],
  visit: DriftObservation,
): DriftFilter {
  if (!(visit.at > filter.at)) throw new RangeError('Visits must be in order of time.')
  const days = (visit.at - filter.at) / DAY_MS
  const found = visit.asFound
  const variance = (visit.uncertainty / Z95) ** 2
  const resets = visit.adjusted || found === null || visit.asLeft !== found
  const logLikelihoods = Float64Array.from(filter.logLikelihoods)
  const beliefs = Float64Array.from(filter.beliefs)
  let stepsPerDay = -1
  let stepped = 0
  for (let i = 0; i < hypotheses.length; i++) {
    const h = hypotheses[i] as DriftHypothesis
    const o = WIDTH * i
    carry(h, beliefs, o, days)
    if (h.stepsPerDay !== stepsPerDay) {
      stepsPerDay = h.stepsPerDay
      stepped = stepChance(h, days)
    }
    if (found === null) {
      beliefs[o + ERROR_VARIANCE] = (beliefs[o + ERROR_VARIANCE] as number) + stepped * h.stepVariance
    } else {
      const noise = Math.max(variance, LEAST_SD_SHARE * LEAST_SD_SHARE * h.stepVariance)
      const like = takeIn(beliefs, o, found, noise, stepped, h.stepVariance)
      logLikelihoods[i] = MEMORY * (logLikelihoods[i] as number) + like
    }
    if (resets) leave(h, beliefs, o, visit.asLeft, variance)
    move(h, beliefs, o, visit.shift ?? 0)
  }
  return { at: visit.at, beliefs, logLikelihoods, intervals: filter.intervals + (found === null ? 0 : 1) }
}

/** The sensor became another one between visits (refilled, poisoned): what was known of its course is open again. */
export function openFilter(filter: DriftFilter, hypotheses: readonly DriftHypothesis[]): DriftFilter {
  const beliefs = Float64Array.from(filter.beliefs)
  hypotheses.forEach((h, i) => {
    const o = WIDTH * i
    const reverting = h.course === 'reverting'
    if (!reverting) beliefs[o + SECOND] = 0
    beliefs[o + ERROR_VARIANCE] = (beliefs[o + ERROR_VARIANCE] as number) + h.stepVariance
    beliefs[o + COVARIANCE] = 0
    beliefs[o + SECOND_VARIANCE] = h.spread ** 2 + (reverting ? h.stepVariance : 0)
  })
  return { ...filter, beliefs, logLikelihoods: filter.logLikelihoods.map((l) => 0.5 * l) }
}

/** Bayes' rule for one reading of the error, in place. @returns its log likelihood */
function takeIn(
  flat: Float64Array,
  o: number,
  found: number,
  noise: number,
  stepped: number,
  stepVariance: number,
): number {
  const ee = flat[o + ERROR_VARIANCE] as number
  const es = flat[o + COVARIANCE] as number
  const ss = flat[o + SECOND_VARIANCE] as number
  const miss = found - (flat[o + ERROR] as number)
  const plain = ee + noise
  const far = plain + stepVariance
  const farther = ee + stepVariance
  const likePlain = ((1 - stepped) * (1 - MISREAD) * Math.exp((-0.5 * miss * miss) / plain)) / Math.sqrt(plain)
  const likeFar = Math.exp((-0.5 * miss * miss) / far) / Math.sqrt(far)
  const likeStep = stepped * (1 - MISREAD) * likeFar
  const likeMisread = (1 - stepped) * MISREAD * likeFar
  const total = likePlain + likeStep + likeMisread
  // So far off that all densities vanish: a step is then the one that explains it.
  const lost = !(total > 1e-290)
  const p = lost ? 0 : likePlain / total
  const s = lost ? 1 : likeStep / total
  const m = lost ? 0 : likeMisread / total
  // Gains of error and second state for plain course, step and misreading.
  const gp = ee / plain
  const gs = farther / far
  const gm = ee / far
  const hp = es / plain
  const hf = es / far
  const error = (p * gp + s * gs + m * gm) * miss
  const second = (p * hp + (s + m) * hf) * miss
  const ep = gp * miss - error
  const et = gs * miss - error
  const em = gm * miss - error
  const sp = hp * miss - second
  const sf = hf * miss - second
  flat[o + ERROR] = (flat[o + ERROR] as number) + error
  flat[o + SECOND] = (flat[o + SECOND] as number) + second
  flat[o + ERROR_VARIANCE] =
    p * ((1 - gp) * ee + ep * ep) + s * ((1 - gs) * farther + et * et) + m * ((1 - gm) * ee + em * em)
  flat[o + COVARIANCE] = p * ((1 - gp) * es + ep * sp) + s * ((1 - gs) * es + et * sf) + m * ((1 - gm) * es + em * sf)
  flat[o + SECOND_VARIANCE] = Math.max(ss - (p * hp + (s + m) * hf) * es + p * sp * sp + (s + m) * sf * sf, 1e-30)
  return lost ? -0.5 * ((miss * miss) / far + Math.log(far)) + Math.log(Math.max(stepped, 1e-12)) : Math.log(total)
}

/** Moves what is displayed by a known amount, in place: the level to which it returns moves with it. */
function move(h: DriftHypothesis, flat: Float64Array, o: number, shift: number): void {
  flat[o + ERROR] = (flat[o + ERROR] as number) + shift
  if (h.course === 'reverting') flat[o + SECOND] = (flat[o + SECOND] as number) + shift
}

/**
 * What was done at the visit, in place. An adjustment, or a cleaning that changed the reading, sets the error to what
 * was left; the level to which a reverting sensor returns is shifted by as much.
 */
function leave(h: DriftHypothesis, flat: Float64Array, o: number, asLeft: number, variance: number): void {
  let covariance = 0
  if (h.course === 'reverting') {
    // m' = m - e + what is left: the difference of level and error stays, and both carry the error of the new zero.
    const spread =
      (flat[o + SECOND_VARIANCE] as number) -
      2 * (flat[o + COVARIANCE] as number) +
      (flat[o + ERROR_VARIANCE] as number)
    flat[o + SECOND] = (flat[o + SECOND] as number) + asLeft - (flat[o + ERROR] as number)
    flat[o + SECOND_VARIANCE] = Math.max(spread, 0) + variance
    covariance = variance
  }
  flat[o + COVARIANCE] = covariance
  flat[o + ERROR] = asLeft
  flat[o + ERROR_VARIANCE] = variance
}
