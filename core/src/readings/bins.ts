import { quantile } from '../statistics/median.ts'
import { type RollUp, together } from './rollUp.ts'

const MINUTE = 60_000
const HOUR = 60 * MINUTE
const DAY = 24 * HOUR

/** Widths that a bin may have, ms: round ones, so that bins stay where they are while one looks elsewhere. */
const WIDTHS = [
  10_000,
  30_000,
  ...[1, 2, 5, 10, 15, 30].map((m) => m * MINUTE),
  ...[1, 2, 3, 6, 12].map((h) => h * HOUR),
  ...[1, 2, 5, 10, 30].map((d) => d * DAY),
]

/** The width of the bins of a span so that there are no more than so many, ms. @throws RangeError for no span, or no bin */
export function binWidth(span: number, most: number): number {
  if (!(span > 0) || !(most >= 1)) throw new RangeError('A span, and one bin at least.')
  return WIDTHS.find((width) => span / width <= most) ?? Math.ceil(span / most / DAY) * DAY
}

export interface Bin extends RollUp {
  /** Epoch ms at which it begins. */
  at: number
  temperature: number | null
}

/** Puts what came at certain times into bins of a width, those that have something in them, in their order. */
export function binned(
  rolled: Iterable<{ at: number; rollUp: RollUp; temperature: number | null }>,
  width: number,
): Bin[] {
  const bins = new Map<number, Bin & { temperatures: number }>()
  for (const { at, rollUp, temperature } of rolled) {
    const start = Math.floor(at / width) * width
    const before = bins.get(start)
    if (!before) {
      bins.set(start, { ...rollUp, at: start, temperature, temperatures: temperature === null ? 0 : 1 })
      continue
    }
    Object.assign(before, together(before, rollUp))
    if (temperature === null) continue
    before.temperatures++
    before.temperature = (before.temperature ?? 0) + (temperature - (before.temperature ?? 0)) / before.temperatures
  }
  return [...bins.values()].sort((a, b) => a.at - b.at).map(({ temperatures: _, ...bin }) => bin)
}

/** What bins of one width come to. */
export interface SpanSummary {
  /** Readings in them that are of the water. */
  good: number
  min: number
  max: number
  mean: number
  /** Null for fewer than two readings. */
  deviation: number | null
}

/**
 * What a span comes to: mean and standard deviation over its time, in which each bin counts alike. Readings are kept
 * more densely where they move, and would outweigh the quiet hours by that. Null where nothing was read.
 */
export function summaryOf(bins: readonly RollUp[]): SpanSummary | null {
  const read = bins.flatMap(({ good, min, max, mean, squares }) =>
    min === null || max === null || mean === null ? [] : [{ good, min, max, mean, spread: squares / good }],
  )
  if (read.length === 0) return null
  const good = read.reduce((sum, b) => sum + b.good, 0)
  const mean = read.reduce((sum, b) => sum + b.mean, 0) / read.length
  const variance = read.reduce((sum, b) => sum + b.spread + (b.mean - mean) ** 2, 0) / read.length
  return {
    good,
    min: read.reduce((low, b) => Math.min(low, b.min), Number.POSITIVE_INFINITY),
    max: read.reduce((high, b) => Math.max(high, b.max), Number.NEGATIVE_INFINITY),
    mean,
    deviation: good < 2 ? null : Math.sqrt(variance),
  }
}

/** What is usual at an hour of the day, in the unit that is shown. */
export interface OrdinaryHour {
  hour: number
  low: number
  high: number
}

/** So many days of an hour are wanted before anything is called usual. */
const LEAST_DAYS = 5
/** Of how many days the lowest and the highest are no longer usual: common practice, no source. */
const TRIMMED = 0.1

/**
 * The ordinary day: for each hour of the day the band in which nine of ten days lay, lowest and highest of each, of the
 * days that are given. Hours with too few days are left out.
 * @param hourOfDay 0 to 23 by the site's own clock
 */
export function ordinaryDay(
  hours: Iterable<{ at: number; rollUp: RollUp }>,
  hourOfDay: (at: number) => number,
): OrdinaryHour[] {
  const byHour = new Map<number, { lows: number[]; highs: number[] }>()
  for (const { at, rollUp } of hours) {
    if (rollUp.min === null || rollUp.max === null) continue
    const hour = hourOfDay(at)
    const of = byHour.get(hour) ?? { lows: [], highs: [] }
    byHour.set(hour, of)
    of.lows.push(rollUp.min)
    of.highs.push(rollUp.max)
  }
  return [...byHour]
    .filter(([, { lows }]) => lows.length >= LEAST_DAYS)
    .map(([hour, { lows, highs }]) => ({
      hour,
      low: quantile(lows, TRIMMED / 2),
      high: quantile(highs, 1 - TRIMMED / 2),
    }))
    .sort((a, b) => a.hour - b.hour)
}
