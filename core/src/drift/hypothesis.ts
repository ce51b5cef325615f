import type { UsualDrift } from './observation.ts'

/**
 * One way in which the error of a sensor may go between visits: a linear model with two states, the error e and a
 * second one. Time in days.
 * - `trend`: the second state is the drift rate b. de = b dt + walk, db = pace b dt + wander. A `pace` above zero is
 *   a sensor whose drift speeds up with age.
 * - `reverting`: the second state is the level m at which the error comes to rest. de = pace (m - e) dt + walk.
 */
export interface DriftHypothesis {
  course: 'trend' | 'reverting'
  /** Random walk of the error, variance per day. */
  walk: number
  /** Standard deviation of the second state before anything is known; its mean is 0. */
  spread: number
  /** Random walk of the second state, variance per day. */
  wander: number
  /** Per day: growth of the rate, or speed of the return. */
  pace: number
  /** Sudden steps: how often a day, and the variance of one. */
  stepsPerDay: number
  stepVariance: number
  /** Sudden changes of the drift rate: how often a day, and the variance of one. */
  turnsPerDay: number
  turnVariance: number
  /** Share of the hypotheses before the site's own sensors speak; they add up to 1. */
  prior: number
}

/** Sudden steps: how often, and as large as what an ordinary sensor drifts in so many days. */
const RARE_STEPS = { perDay: 0.02 / 365, days: 150 }
const OFTEN_STEPS = { perDay: 1 / 365, days: 50 }
/** Multiples of the usual figures of the kind. Sites differ by an order of magnitude and sensors by as much again. */
const RATES = [
  { times: 0.12, share: 0.3 },
  { times: 0.4, share: 0.3 },
  { times: 1.2, share: 0.25 },
  { times: 3.5, share: 0.15 },
]
const WALKS = [
  { times: 0.04, share: 0.3 },
  { times: 0.3, share: 0.35 },
  { times: 2, share: 0.25 },
  { times: 14, share: 0.1 },
]
/** Sudden changes of the rate (a glass that begins to fail): how often, and how large, as a multiple of its spread. */
const TURNS = { perDay: 0.5 / 365, times: 3 }
interface Manner {
  wanders: number
  pace: number
  steps: { perDay: number; days: number }
  turnsPerDay: number
  share: number
}
const STEADY = { wanders: 0.15, pace: 0, steps: RARE_STEPS, turnsPerDay: 0 }
/** How far the rate wanders in a quarter of a year, as a share of its spread; how fast it grows, per day; steps and turns. */
const MANNERS: readonly Manner[] = [
  { ...STEADY, share: 0.32 },
  { ...STEADY, steps: OFTEN_STEPS, share: 0.08 },
  { ...STEADY, wanders: 0.7, share: 0.28 },
  { ...STEADY, turnsPerDay: TURNS.perDay, share: 0.12 },
  { ...STEADY, pace: 1 / 250, share: 0.2 },
]
const QUARTER = 91
/** Where a reverting sensor comes to rest: what an ordinary one drifts in so many days. */
const LEVEL_DAYS = 50
const RETURNS = [1 / 20, 1 / 80]
const REVERTING_SHARE = 0.15

/**
 * The hypotheses that are weighed for a kind of sensor. Their figures are this product's own choice, wide enough to
 * be right for sensors that drift ten times more or less than usual; which of them hold is learnt from the visits.
 */
export function driftHypotheses(usual: UsualDrift): DriftHypothesis[] {
  const { rateSd, walk } = usual
  const reverting = RETURNS.flatMap((pace) =>
    WALKS.map(
      (w): DriftHypothesis => ({
        course: 'reverting',
        walk: 2 * w.times * walk,
        spread: LEVEL_DAYS * rateSd,
        wander: 0,
        pace,
        stepsPerDay: RARE_STEPS.perDay,
        stepVariance: (RARE_STEPS.days * rateSd) ** 2,
        turnsPerDay: 0,
        turnVariance: 0,
        prior: (REVERTING_SHARE * w.share) / RETURNS.length,
      }),
    ),
  )
  return [...trends(usual, MANNERS, WALKS, 1 - REVERTING_SHARE), ...reverting]
}

function trends(
  { rateSd, walk }: UsualDrift,
  manners: readonly Manner[],
  walks: typeof WALKS,
  allShare: number,
): DriftHypothesis[] {
  return RATES.flatMap((rate) =>
    walks.flatMap((w) =>
      manners.map(
        ({ wanders, pace, steps, turnsPerDay, share }): DriftHypothesis => ({
          course: 'trend',
          walk: w.times * walk,
          spread: rate.times * rateSd,
          wander: (wanders * rate.times * rateSd) ** 2 / QUARTER,
          pace,
          stepsPerDay: steps.perDay,
          stepVariance: (steps.days * rateSd) ** 2,
          turnsPerDay,
          turnVariance: (TURNS.times * rate.times * rateSd) ** 2,
          prior: allShare * share * rate.share * w.share,
        }),
      ),
    ),
  )
}

/** How an ageing number may go: as drift does, and such that quick wear fades. */
const AGEING_MANNERS: readonly Manner[] = [
  { ...STEADY, share: 0.25 },
  { ...STEADY, steps: OFTEN_STEPS, share: 0.1 },
  { ...STEADY, wanders: 0.7, share: 0.2 },
  { ...STEADY, turnsPerDay: TURNS.perDay, share: 0.15 },
  { ...STEADY, pace: 1 / 250, share: 0.2 },
  { ...STEADY, pace: -1 / 250, share: 0.1 },
]

/** In a month it walks about as far as it ages in eight days; such as walk farther are rarer than with drift. */
const AGEING_WALK_DAYS = 8
const AGEING_WALKS = [
  { times: 0.15, share: 0.6 },
  { times: 3, share: 0.4 },
]

/** The hypotheses that are weighed for a number that ages by about so much a day. */
export const ageingHypotheses = (rateSd: number): DriftHypothesis[] =>
  trends({ rateSd, walk: (AGEING_WALK_DAYS * rateSd) ** 2 / 30 }, AGEING_MANNERS, AGEING_WALKS, 1)
