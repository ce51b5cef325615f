import { DAY_MS } from '../drift/observation.ts'
import type { RollUp } from '../readings/rollUp.ts'
import { median } from '../statistics/median.ts'

/** Days from which the level is judged. */
export const LEVEL_DAYS = 120
/** Hours with readings that a day needs. */
const LEAST_HOURS = 16
/** Days that make the level before, and the level now. */
const BEFORE_DAYS = 5
const NOW_DAYS = 3
/** Days between both, at least. */
const APART_DAYS = 3
/** Day-to-day changes that have to be known. */
const LEAST_CHANGES = 14
/** Over so many days the changes of the days before the last visit are measured. */
const LAGS = [7, 14, 21, 28, 42, 56]
/** Of a lag, so many changes have to be known. */
const LEAST_OF_LAG = 14
/** Standard deviations that the water exceeds by chance less than once in years. */
const SURE = 4
const BACK_SHARE = 0.8
/** The shift began when it had reached this share. */
const ONSET_SHARE = 0.2

/** The mean reading of a day, in the displayed unit. */
export interface DayLevel {
  /** Midnight UTC, epoch ms. */
  day: number
  level: number
}

export interface LevelShift {
  /** How far the level moved, in the displayed unit, up above 0. */
  by: number
  /** How far this water may move in the same time, in the displayed unit; above 0. */
  limit: number
  /** Midnight UTC of the day on which it began, epoch ms. */
  since: number
}

/** Returns the level of each day of which enough hours are known: the mean of their means, so that each hour counts alike. */
export function dayLevels(hours: readonly { at: number; rollUp: RollUp }[]): DayLevel[] {
  const byDay = new Map<number, number[]>()
  for (const { at, rollUp } of hours) {
    if (rollUp.mean === null) continue
    const day = Math.floor(at / DAY_MS) * DAY_MS
    byDay.set(day, [...(byDay.get(day) ?? []), rollUp.mean])
  }
  return [...byDay]
    .filter(([, means]) => means.length >= LEAST_HOURS)
    .map(([day, means]) => ({ day, level: means.reduce((sum, m) => sum + m, 0) / means.length }))
    .sort((a, b) => a.day - b.day)
}

/**
 * Judges whether the level of a sensor's days has moved farther since its last visit than its water does. How far that
 * is, the days before the visit show: by the mean square of their changes over as many days (a variogram). While too few
 * of them are known, the water is taken for a random walk with the variance of its changes from day to day, which moves
 * farther than water that returns (own rule, tested on simulated water).
 * @param levels in the order of their days
 * @param since last visit, or start of use, epoch ms: days before it only show how far the water moves
 * @param tolerance of the sensor, in the displayed unit; above 0. Smaller shifts don't matter
 * @param isRaised whether it is raised already: then it ends at 80 %
 * @returns null where nothing is known, or where the level has not moved beyond
 */
export function levelShift(
  levels: readonly DayLevel[],
  { since, tolerance, isRaised = false }: { since: number; tolerance: number; isRaised?: boolean },
): LevelShift | null {
  const own = levels.filter((l) => l.day >= since)
  const before = own.slice(0, BEFORE_DAYS)
  const now = own.slice(-NOW_DAYS)
  const [lastBefore, firstNow] = [before.at(-1), now[0]]
  if (!lastBefore || !firstNow || own.length < BEFORE_DAYS + NOW_DAYS) return null
  const days = (middleDay(now) - middleDay(before)) / DAY_MS
  if (firstNow.day - lastBefore.day < APART_DAYS * DAY_MS) return null
  const variance = changeVariance(levels, since, days)
  if (variance === null) return null
  const start = levelOf(before)
  const by = levelOf(now) - start
  const limit = Math.max(tolerance, SURE * Math.sqrt(variance))
  if (Math.abs(by) <= (isRaised ? BACK_SHARE * limit : limit)) return null
  const onset = own.findLast((l) => (l.level - start) / by < ONSET_SHARE) ?? lastBefore
  return { by, limit, since: onset.day }
}

const middleDay = (days: readonly DayLevel[]): number => median(days.map((l) => l.day))

const levelOf = (days: readonly DayLevel[]): number => median(days.map((l) => l.level))

/** Mean square of the change over so many days; null while too little is known. */
function changeVariance(levels: readonly DayLevel[], since: number, days: number): number | null {
  const earlier = levels.filter((l) => l.day < since)
  const squaresOf = (lag: number) =>
    earlier.flatMap((_, i) => {
      const [before, now] = [earlier.slice(i, i + BEFORE_DAYS), earlier.slice(i + lag, i + lag + NOW_DAYS)]
      return now.length === NOW_DAYS ? (levelOf(now) - levelOf(before)) ** 2 : []
    })
  const known = LAGS.map((lag) => ({ lag, squares: squaresOf(lag) })).filter((l) => l.squares.length >= LEAST_OF_LAG)
  const longest = known.at(-1)
  if (!longest || longest.lag < days / 2) {
    const daily = dailyVariance(levels, since)
    return daily === null ? null : daily * days
  }
  // Over longer times than were seen it may move farther, as a walk does.
  const variances = known.filter((l) => l.lag <= days || l.lag === LAGS[0]).map((l) => mean(l.squares))
  return Math.max(...variances) * Math.max(1, days / longest.lag)
}

/** Variance of the change from day to day; null while too few changes are known. */
function dailyVariance(levels: readonly DayLevel[], since: number): number | null {
  const changes = levels.flatMap((to, i) => {
    const from = levels[i - 1]
    return from && to.day - from.day === DAY_MS ? { change: to.level - from.level, isNow: from.day >= since } : []
  })
  if (changes.length < LEAST_CHANGES) return null
  const of = (isNow: boolean) => changes.filter((c) => c.isNow === isNow).map((c) => c.change)
  const earlier = of(false)
  const now = withoutJump(of(true), earlier)
  // What drifts now must not hide itself: its own mean change is taken off.
  const drift = now.length > 0 ? mean(now) : 0
  return mean([...earlier, ...now.map((c) => c - drift)].map((c) => c * c))
}

/** Leaves out a jump since the last visit if there was no second one of half its size: once is not what water does. */
function withoutJump(now: readonly number[], earlier: readonly number[]): readonly number[] {
  const largest = now.reduce((a, b) => (Math.abs(b) > Math.abs(a) ? b : a), 0)
  const isLarge = (c: number) => Math.abs(c) > Math.abs(largest) / 2
  return [...now, ...earlier].filter(isLarge).length === 1 ? now.filter((c) => c !== largest) : now
}

const mean = (values: readonly number[]): number => values.reduce((sum, v) => sum + v, 0) / values.length
