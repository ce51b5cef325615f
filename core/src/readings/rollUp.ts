import { isOfWater, type ReadingState } from './readingState.ts'

/** What the readings of a stretch of time come to. */
export interface RollUp {
  /** All of them, and those that are of the water and have a value: the figures are of these. */
  count: number
  good: number
  /** In the unit that is shown; null where there is no good one. */
  min: number | null
  max: number | null
  mean: number | null
  /** Sum of squared deviations from the mean. */
  squares: number
}

export const EMPTY_ROLL_UP: RollUp = { count: 0, good: 0, min: null, max: null, mean: null, squares: 0 }

/** Rolls readings up, by Welford's recurrence (Technometrics 4, 1962, 419), in which no digits cancel. */
export function rollUpOf(readings: Iterable<{ value: number | null; state: ReadingState }>): RollUp {
  let [count, good, min, max, mean, squares] = [0, 0, Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY, 0, 0]
  for (const { value, state } of readings) {
    count++
    if (value === null || !isOfWater(state)) continue
    good++
    min = Math.min(min, value)
    max = Math.max(max, value)
    const delta = value - mean
    mean += delta / good
    squares += delta * (value - mean)
  }
  return good === 0 ? { ...EMPTY_ROLL_UP, count } : { count, good, min, max, mean, squares }
}

/** Puts two stretches together, by the pairwise formula of Chan, Golub and LeVeque (The American Statistician 37, 1983, 242). */
export function together(a: RollUp, b: RollUp): RollUp {
  const count = a.count + b.count
  if (a.mean === null || b.mean === null) return { ...(a.mean === null ? b : a), count }
  const good = a.good + b.good
  const delta = b.mean - a.mean
  return {
    count,
    good,
    min: Math.min(a.min as number, b.min as number),
    max: Math.max(a.max as number, b.max as number),
    mean: a.mean + (delta * b.good) / good,
    squares: a.squares + b.squares + (delta * delta * a.good * b.good) / good,
  }
}

/** Standard deviation of the good ones of a stretch; null for fewer than two. */
export const deviationOf = ({ good, squares }: RollUp): number | null =>
  good < 2 ? null : Math.sqrt(Math.max(0, squares) / (good - 1))
