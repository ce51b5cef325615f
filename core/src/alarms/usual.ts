import { DAY_MS } from '../drift/observation.ts'
import { type OrdinaryHour, ordinaryDay } from '../readings/bins.ts'
import { isOfWater } from '../readings/readingState.ts'
import { type RollUp, rollUpOf } from '../readings/rollUp.ts'
import { quantile } from '../statistics/median.ts'
import type { WatchedReading } from './watchedReading.ts'

const MINUTE_MS = 60_000
const HOUR_MS = 60 * MINUTE_MS
/** Readings of which the noise is that of a stretch. */
export const NOISE_POINTS = 15
/** Days of which somebody has to know before a stretch without change, or noise, is called unusual. */
const LEAST_DAYS = 3

/** What a day of readings was like: what is usual is learned of days. */
export interface DaySummary {
  /** Longest stretch in which the value did not change at all, ms. */
  stillMs: number
  /** Noise of each stretch of 15 readings, in the unit that is shown. */
  noises: number[]
  hours: { at: number; rollUp: RollUp }[]
}

/** What a sensor usually reads like; what is not known yet is null. */
export interface Usual {
  ordinary: OrdinaryHour[]
  /** Noise of a single reading, as it usually is and as it is at its worst. */
  noise: { usual: number; worst: number } | null
  stillMs: number | null
}

/**
 * Noise of a single reading about a straight course, of successive readings: from their second differences, in which a
 * steady climb cancels. Of white noise of deviation s a second difference has variance 6 s^2 (von Neumann's ratio taken
 * one further; common in the analysis of chromatograms). Null for fewer than three.
 */
export function noiseOf(values: readonly number[]): number | null {
  if (values.length < 3) return null
  let squares = 0
  for (let i = 2; i < values.length; i++) {
    const second = (values[i] as number) - 2 * (values[i - 1] as number) + (values[i - 2] as number)
    squares += second * second
  }
  return Math.sqrt(squares / (6 * (values.length - 2)))
}

/** Whether a reading is the first of its minute. One a minute is judged, whatever the poll interval. */
export const isNextMinute = (last: number | undefined, at: number): boolean =>
  last === undefined || Math.floor(last / MINUTE_MS) !== Math.floor(at / MINUTE_MS)

/**
 * Summarizes a day of readings of the water, by the first of each minute.
 * @param readings in the order of their times
 */
export function daySummary(readings: readonly WatchedReading[]): DaySummary {
  let stillMs = 0
  let stillSince = 0
  let stillAt: number | null = null
  const noises: number[] = []
  let block: number[] = []
  const byHour = new Map<number, WatchedReading[]>()
  let last: number | undefined
  for (const reading of readings) {
    const { at, value, state } = reading
    if (!isNextMinute(last, at)) continue
    last = at
    if (value === null || !isOfWater(state)) {
      stillAt = null
      block = []
      continue
    }
    if (stillAt !== value) stillSince = at
    stillAt = value
    stillMs = Math.max(stillMs, at - stillSince)
    block.push(value)
    if (block.length === NOISE_POINTS) {
      noises.push(noiseOf(block) as number)
      block = []
    }
    const hour = Math.floor(at / HOUR_MS)
    const of = byHour.get(hour)
    if (of) of.push(reading)
    else byHour.set(hour, [reading])
  }
  const hours = [...byHour].map(([hour, of]) => ({ at: hour * HOUR_MS, rollUp: rollUpOf(of) }))
  return { stillMs, noises, hours }
}

/**
 * What is usual, of the days before.
 * @param hourOfDay 0 to 23 by the site's own clock
 */
export function usualOf(days: readonly DaySummary[], hourOfDay: (at: number) => number): Usual {
  const ordinary = ordinaryDay(
    days.flatMap((day) => day.hours),
    hourOfDay,
  )
  const known = days.filter((day) => day.noises.length > 0)
  if (known.length < LEAST_DAYS) return { ordinary, noise: null, stillMs: null }
  const noises = known.flatMap((day) => day.noises)
  return {
    ordinary,
    // Neither a bad hour nor a day on which it hung makes that the usual.
    noise: { usual: quantile(noises, 0.5), worst: quantile(noises, 0.95) },
    stillMs: quantile(
      known.map((day) => day.stillMs),
      0.8,
    ),
  }
}

/** Midnight of UTC before an instant: days are summed up by it. */
export const dayStart = (at: number): number => Math.floor(at / DAY_MS) * DAY_MS
