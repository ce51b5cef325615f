import { requireWithin } from '../quantities/outOfRange.ts'
import { quantity, type Sentence, say, signedQuantity } from '../quantities/sentence.ts'
import { changePoints } from '../statistics/changePoints.ts'
import { scaledMad } from '../statistics/median.ts'
import { Z95 } from '../statistics/normalDistribution.ts'
import { theilSen } from '../statistics/theilSen.ts'
import { FARTHEST_DAYS } from './driftForecast.ts'
import { DAY_MS } from './observation.ts'

/** A number that ages towards a limit: slope efficiency, pair gap, settling time. */
export interface AgeingSeries {
  /** In the words of the sentence: "slope", "settling time". */
  name: string
  unit: string
  decimals: number
  /** Beyond it the sensor is to be replaced. */
  limit: number
  /** On which side the limit lies. */
  dies: 'below' | 'above'
  points: readonly { at: number; value: number }[]
}

export interface EndOfLife {
  name: string
  /** When the limit is likeliest crossed, epoch ms; null when that lies beyond what the data can tell. */
  at: number | null
  /** 95 % interval; an open end is null. */
  earliest: number | null
  latest: number | null
  reason: Sentence
}

/** Fewer points tell no trend. */
const LEAST_POINTS = 3
/** A trend is not carried on for longer than this many times the span it was seen over. */
const REACH = 3

/**
 * When an ageing number crosses its limit, by the Theil-Sen trend of the points since its course last changed and the
 * confidence interval of its slope, about the middle of these points. Never "never": beyond the data it says so.
 * @param now epoch ms
 * @throws OutOfRange for a limit that is no number
 */
export function endOfLife(series: AgeingSeries, now: number): EndOfLife {
  requireWithin('Limit', series.limit, -1e12, 1e12)
  const { name, unit, decimals, limit } = series
  const points = newestStretch(series.points)
  const text = (v: number) => quantity(v, unit, decimals)
  const last = points.at(-1)
  if (!last || points.length < LEAST_POINTS) {
    return {
      name,
      at: null,
      earliest: null,
      latest: null,
      reason: `Too few visits yet to tell the trend of its ${name}.`,
    }
  }
  const sign = series.dies === 'below' ? -1 : 1
  const beyond = (v: number) => sign * (v - limit) >= 0
  const days = points.map((p) => (p.at - last.at) / DAY_MS)
  const values = points.map((p) => p.value)
  const trend = theilSen(days, values)
  const now0 = trend.intercept
  if (beyond(now0)) {
    return {
      name,
      at: now,
      earliest: now,
      latest: now,
      reason: say`Its ${name} is ${text(now0)}, beyond ${text(limit)} now.`,
    }
  }
  const span = -(days[0] as number)
  const farthest = Math.min(REACH * span, FARTHEST_DAYS)
  const noise =
    (Z95 * scaledMad(values.map((v, i) => v - trend.intercept - trend.slope * (days[i] as number)))) /
    Math.sqrt(points.length)
  const [quick, slow] = sign > 0 ? [trend.slopeHigh, trend.slopeLow] : [trend.slopeLow, trend.slopeHigh]
  // The line turns about the middle of its points, so a steeper one starts nearer to the limit today.
  const middle = span / 2
  const crossing = (slope: number, start: number): number | null => {
    const speed = sign * slope
    if (speed <= 0) return null
    const ahead = Math.max(0, (sign * (limit - start)) / speed)
    return ahead > farthest ? null : last.at + ahead * DAY_MS
  }
  const shifted = (slope: number) => trend.intercept + (slope - trend.slope) * middle
  const at = crossing(trend.slope, trend.intercept)
  const earliest = crossing(quick, shifted(quick) + sign * noise)
  const latest = crossing(slow, shifted(slow) - sign * noise)
  const monthly = trend.slope * 30
  const pace = say`Its ${name} is ${text(now0)} and moves ${signedQuantity(monthly, unit, decimals)} a month; the limit is ${text(limit)}.`
  return {
    name,
    at,
    earliest,
    latest,
    reason: at === null ? say`${pace} No end in sight from these visits.` : pace,
  }
}

/** The points since the course last changed, or as many of the newest as a trend needs. */
function newestStretch(all: AgeingSeries['points']): AgeingSeries['points'] {
  // Of two at one instant the first one counts: a trend cannot tell them apart.
  const points = all.filter((p, i) => Number.isFinite(p.value) && (i === 0 || p.at > (all[i - 1] as { at: number }).at))
  const segments = changePoints(
    points.map((p) => p.at),
    points.map((p) => p.value),
  )
  const start = segments.at(-1)?.start ?? 0
  return points.slice(Math.max(0, Math.min(start, points.length - LEAST_POINTS)))
}

/** The first end of several, and when a spare must be ordered at the latest to be there in time. */
export function firstEnd(ends: readonly EndOfLife[]): EndOfLife | null {
  const known = ends.filter((e) => e.at !== null || e.earliest !== null)
  return known.toSorted((a, b) => (a.at ?? a.earliest ?? 0) - (b.at ?? b.earliest ?? 0))[0] ?? null
}

/**
 * When to order a spare: its lead time before the earliest end that is still likely (2.5 %), never in the past.
 * @throws OutOfRange for a negative lead time
 */
export function orderBy(end: EndOfLife, leadDays: number, now: number): number | null {
  requireWithin('Lead time', leadDays, 0, 1000, 'd')
  const from = end.earliest ?? end.at
  return from === null ? null : Math.max(now, from - leadDays * DAY_MS)
}
