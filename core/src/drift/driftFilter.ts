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

/**
 * What may come suddenly within so many days, a step or a turn of the rate: its probability, and what it adds to the
 * variances when it comes. A turn comes at any moment of these days.
 */
export interface Surprise {
  chance: number
  errorVariance: number
  covariance: number
  secondVariance: number
}

const none: Surprise = { chance: 0, errorVariance: 0, covariance: 0, secondVariance: 0 }

/** What may come suddenly to a sensor within so many days. */
export const surprise = (h: DriftHypothesis, days: number): Surprise =>
  surpriseInto({ ...none }, h, days, happens(h.stepsPerDay, days), happens(h.turnsPerDay, days))

/** Probability of at least one of what happens so often a day. */
const happens = (perDay: number, days: number): number => (perDay === 0 ? 0 : 1 - Math.exp(-perDay * days))

/** The same, written into `into`: it is asked a hundred thousand times for a site. */
function surpriseInto(into: Surprise, h: DriftHypothesis, days: number, stepped: number, turned: number): Surprise {
  const turn = turned === 0 ? 0 : (turned / (stepped + turned)) * h.turnVariance
  into.chance = stepped + turned - stepped * turned
  into.errorVariance =
    turned === 0 ? h.stepVariance : (stepped / (stepped + turned)) * h.stepVariance + (turn * days * days) / 3
  into.covariance = (turn * days) / 2
  into.secondVariance = turn
  return into
}

/** One of the ways a belief may have gone: how likely, and what it is then. */
export interface Way {
  chance: number
  belief: Belief
}

/** Where a belief stands `days` later, without anything sudden on the way and with it. */
export function carriedSuddenly(h: DriftHypothesis, b: Belief, days: number): [Way, Way] {
  const belief = carried(h, b, days)
  const { chance, errorVariance, covariance, secondVariance } = surprise(h, days)
  const after = {
    ...belief,
    errorVariance: belief.errorVariance + errorVariance,
    covariance: belief.covariance + covariance,
    secondVariance: belief.secondVariance + secondVariance,
  }
  return [
    { chance: 1 - chance, belief },
    { chance, belief: after },
  ]
}

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
  const sudden = { ...none }
  for (let i = 0; i < hypotheses.length; i++) {
    const h = hypotheses[i] as DriftHypothesis
    const o = WIDTH * i
    carry(h, beliefs, o, days)
    if (h.stepsPerDay !== stepsPerDay) {
      stepsPerDay = h.stepsPerDay
      stepped = happens(stepsPerDay, days)
    }
    surpriseInto(sudden, h, days, stepped, happens(h.turnsPerDay, days))
    if (found === null) widen(beliefs, o, sudden)
    else {
      const noise = Math.max(variance, LEAST_SD_SHARE * LEAST_SD_SHARE * h.stepVariance)
      const like = takeIn(beliefs, o, found, noise, sudden, h.stepVariance)
      logLikelihoods[i] = MEMORY * (logLikelihoods[i] as number) + like
    }
    if (resets) leave(h, beliefs, o, visit.asLeft, variance)
    move(h, beliefs, o, visit.shift ?? 0)
  }
  return { at: visit.at, beliefs, logLikelihoods, intervals: filter.intervals + (found === null ? 0 : 1) }
}

/** Filters of the same visits under different hypotheses, as one. */
export const joinFilters = (filters: readonly DriftFilter[]): DriftFilter => ({
  ...(filters[0] as DriftFilter),
  beliefs: joined(filters.map((f) => f.beliefs)),
  logLikelihoods: joined(filters.map((f) => f.logLikelihoods)),
})

function joined(parts: readonly Float64Array[]): Float64Array {
  const all = new Float64Array(parts.reduce((sum, p) => sum + p.length, 0))
  parts.reduce((place, part) => {
    all.set(part, place)
    return place + part.length
  }, 0)
  return all
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

/** What may have come suddenly, in place, where no reading tells. */
function widen(flat: Float64Array, o: number, { chance, errorVariance, covariance, secondVariance }: Surprise): void {
  flat[o + ERROR_VARIANCE] = (flat[o + ERROR_VARIANCE] as number) + chance * errorVariance
  flat[o + COVARIANCE] = (flat[o + COVARIANCE] as number) + chance * covariance
  flat[o + SECOND_VARIANCE] = (flat[o + SECOND_VARIANCE] as number) + chance * secondVariance
}

/**
 * Bayes' rule for one reading of the error, in place.
 * @param astray variance of a reading that was wrong in itself
 * @returns its log likelihood
 */
function takeIn(flat: Float64Array, o: number, found: number, noise: number, sudden: Surprise, astray: number): number {
  const ee = flat[o + ERROR_VARIANCE] as number
  const es = flat[o + COVARIANCE] as number
  const ss = flat[o + SECOND_VARIANCE] as number
  const miss = found - (flat[o + ERROR] as number)
  const square = -0.5 * miss * miss
  const { chance } = sudden
  const eeSudden = ee + sudden.errorVariance
  const esSudden = es + sudden.covariance
  const plain = ee + noise
  const far = eeSudden + noise
  const wrong = plain + astray
  const likeFar = Math.exp(square / far) / Math.sqrt(far)
  const likeWrong = wrong === far ? likeFar : Math.exp(square / wrong) / Math.sqrt(wrong)
  const likePlain = ((1 - chance) * (1 - MISREAD) * Math.exp(square / plain)) / Math.sqrt(plain)
  const likeSudden = chance * (1 - MISREAD) * likeFar
  const likeMisread = (1 - chance) * MISREAD * likeWrong
  const total = likePlain + likeSudden + likeMisread
  // So far off that all densities vanish: something sudden is then the one that explains it.
  const lost = !(total > 1e-290)
  const p = lost ? 0 : likePlain / total
  const s = lost ? 1 : likeSudden / total
  const m = lost ? 0 : likeMisread / total
  // Gains of error and second state for plain course, sudden change and misreading.
  const gp = ee / plain
  const gs = eeSudden / far
  const gm = ee / wrong
  const hp = es / plain
  const hs = esSudden / far
  const hm = es / wrong
  const error = (p * gp + s * gs + m * gm) * miss
  const second = (p * hp + s * hs + m * hm) * miss
  const ep = gp * miss - error
  const et = gs * miss - error
  const em = gm * miss - error
  const sp = hp * miss - second
  const st = hs * miss - second
  const sm = hm * miss - second
  flat[o + ERROR] = (flat[o + ERROR] as number) + error
  flat[o + SECOND] = (flat[o + SECOND] as number) + second
  flat[o + ERROR_VARIANCE] =
    p * ((1 - gp) * ee + ep * ep) + s * ((1 - gs) * eeSudden + et * et) + m * ((1 - gm) * ee + em * em)
  flat[o + COVARIANCE] =
    p * ((1 - gp) * es + ep * sp) + s * ((1 - gs) * esSudden + et * st) + m * ((1 - gm) * es + em * sm)
  flat[o + SECOND_VARIANCE] = Math.max(
    p * (ss - hp * es + sp * sp) +
      s * (ss + sudden.secondVariance - hs * esSudden + st * st) +
      m * (ss - hm * es + sm * sm),
    1e-30,
  )
  return lost ? square / far - 0.5 * Math.log(far) + Math.log(Math.max(chance, 1e-12)) : Math.log(total)
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
