import { DAY_MS } from '../drift/observation.ts'
import { requireWithin } from '../quantities/outOfRange.ts'

/** A sensor as the plan sees it. */
export interface PlannedSensor {
  position: string
  place: string
  /** The last visit, epoch ms. */
  from: number
  /** Days from a visit to the next date; taken to stay what it is. */
  days: number
  /** When it is due, where that is not by its interval, epoch ms. */
  dueAt?: number
  /** Never sooner after a visit than this, days. */
  floorDays: number
  /** Put on this day by hand, epoch ms; null where nobody moved it. */
  movedTo: number | null
}

export interface PlannedVisit {
  position: string
  /** Its own next date, and the first day on which it may be taken along, epoch ms. */
  due: number
  opens: number
  moved: boolean
}

export interface PlannedTrip {
  place: string
  /** Start of the day, epoch ms. */
  day: number
  visits: PlannedVisit[]
}

/** From this share of its interval on a sensor may be taken along: sooner would throw too much of the interval away. */
const WINDOW_OPENS = 0.6

/**
 * Proposed trips: sensors of one place are visited together where their windows meet, so that nobody leaves tolerance
 * and the fewest trips are made. Each trip is put on the latest day on which its most urgent sensor is still in its
 * window, and takes along whoever's window is open then (interval stabbing; greedy from the earliest end is optimal,
 * Gupta, Lee and Leung, Networks 12 (1982) 459). A sensor that is late already is proposed for today.
 * @param today start of the day, epoch ms
 * @param daysAhead how far to plan; visits repeat with their interval
 * @param startOfDay of an instant, in the site's time zone
 * @throws OutOfRange for an interval below a day
 */
export function planTrips(
  sensors: readonly PlannedSensor[],
  today: number,
  daysAhead: number,
  startOfDay: (at: number) => number,
): PlannedTrip[] {
  const end = today + daysAhead * DAY_MS
  for (const s of sensors) requireWithin(`Interval of ${s.position}`, s.days, 1, 36_500, 'd')
  const trips: PlannedTrip[] = []
  for (const place of new Set(sensors.map((s) => s.place))) {
    const open = sensors
      .filter((s) => s.place === place)
      .map((s) => ({ sensor: s, ...windowOf(s, s.from, startOfDay) }))
    for (const o of open) {
      if (o.sensor.dueAt === undefined) continue
      o.due = startOfDay(o.sensor.dueAt)
      o.opens = Math.min(o.opens, o.due)
    }
    for (const o of open) {
      if (o.sensor.movedTo === null) continue
      o.opens = Math.max(startOfDay(o.sensor.movedTo), today)
      o.due = o.opens
    }
    while (open.length > 0) {
      const urgent = open.reduce((a, b) => (b.due < a.due ? b : a))
      const day = Math.max(urgent.due, today)
      if (day > end) break
      // One that was moved by hand goes on its day only; the others come along when their window is open.
      const along = open.filter((o) =>
        o.sensor.movedTo === null || o.moved === false ? o.opens <= day : o.due === day,
      )
      trips.push({
        place,
        day,
        visits: along.map(({ sensor, due, opens, moved }) => ({ position: sensor.position, due, opens, moved })),
      })
      for (const o of along) {
        Object.assign(o, windowOf(o.sensor, day, startOfDay))
        o.moved = false
      }
    }
  }
  return trips.toSorted((a, b) => a.day - b.day || a.place.localeCompare(b.place))
}

function windowOf(sensor: PlannedSensor, from: number, startOfDay: (at: number) => number) {
  const due = startOfDay(from + sensor.days * DAY_MS)
  const soonest = Math.max(WINDOW_OPENS * sensor.days, Math.min(sensor.floorDays, sensor.days))
  return { due, opens: Math.min(due, startOfDay(from + soonest * DAY_MS)), moved: sensor.movedTo !== null }
}
