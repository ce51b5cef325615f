import { DAY_MS } from '../drift/observation.ts'
import { requireWithin } from '../quantities/outOfRange.ts'

/** An hour meter as it was read. */
export interface MeterReading {
  /** Epoch ms. */
  at: number
  /** h */
  hours: number
}

/** Hours in use as the meter counted them. */
export interface HoursCounted {
  /** When the meter was last read, epoch ms. */
  at: number
  /** h from the last visit to that moment. */
  sinceVisit: number
  /** Of late, h a day; at most 24. */
  perDay: number
}

/** How far back the pace is taken from, days: long enough for weekends, short enough for the season. */
const LATELY_DAYS = 90
/** Two readings closer than this tell no pace, days. */
const LEAST_DAYS = 0.5

/**
 * Hours in use since the last visit, and the pace of late, from readings of an hour meter. A meter that shows less than
 * before was changed: it is taken to have started at zero. Null while there are not two readings half a day apart.
 * @param readings in any order
 * @param visitAt epoch ms of the last visit; between two readings the hours are shared out evenly
 * @throws OutOfRange for a reading below zero or beyond a million hours
 */
export function countHours(readings: readonly MeterReading[], visitAt: number): HoursCounted | null {
  const counted = runningTotal(readings)
  const [first, last] = [counted[0], counted.at(-1)]
  if (!first || !last || last.at - first.at < LEAST_DAYS * DAY_MS) return null
  const from = Math.max(first.at, last.at - LATELY_DAYS * DAY_MS)
  const perDay = Math.min(24, ((last.hours - hoursAt(counted, from)) * DAY_MS) / (last.at - from))
  // Before the first and after the last reading the pace of late stands in.
  const atVisit =
    visitAt < first.at
      ? first.hours - (perDay * (first.at - visitAt)) / DAY_MS
      : visitAt > last.at
        ? last.hours + (perDay * (visitAt - last.at)) / DAY_MS
        : hoursAt(counted, visitAt)
  const at = Math.max(last.at, visitAt)
  return { at, sinceVisit: visitAt > last.at ? 0 : last.hours - atVisit, perDay }
}

/** Readings in order, as hours since the first of them, whatever meter showed them. */
function runningTotal(readings: readonly MeterReading[]): MeterReading[] {
  let total = 0
  let shown: number | null = null
  return readings
    .toSorted((a, b) => a.at - b.at)
    .map(({ at, hours }) => {
      requireWithin('Hour meter', hours, 0, 1e6, 'h')
      if (shown !== null) total += hours >= shown ? hours - shown : hours
      shown = hours
      return { at, hours: total }
    })
}

/** By a straight line between the two readings around an instant within the readings. */
function hoursAt(counted: readonly MeterReading[], at: number): number {
  const after = Math.max(
    1,
    counted.findIndex((r) => r.at >= at),
  )
  const [a, b] = [counted[after - 1] as MeterReading, counted[after] as MeterReading]
  return b.at === a.at ? b.hours : a.hours + ((b.hours - a.hours) * (at - a.at)) / (b.at - a.at)
}
