import type { Timeline } from '@frustum/core'
import type { UnfitSensor } from './rounds.ts'

/** One sensor on a planned trip. */
export interface PlannedVisitView {
  position: string
  quantity: string
  spot: string
  due: number
  opens: number
  moved: boolean
  procedure: string
  minutes: number
  consequence: number
  /** Probability of being outside tolerance on the day of the trip; null for a visit that follows another planned one. */
  outside: number | null
}

export interface KitLine {
  label: string
  lot: string | null
  pours: number
  milliliters: number
  /** What speaks against this lot on that day. */
  warning: string | null
}

export interface PlannedTripView {
  id: string
  place: string
  /** Start of the day, and when one arrives, epoch ms. */
  day: number
  arrival: number
  visits: PlannedVisitView[]
  timeline: Timeline
  kit: KitLine[]
  needs: string[]
}

export interface ConsumableView {
  id: number
  place: string
  name: string
  everyDays: number
  last: number
  due: number
}

export interface PlanView {
  today: number
  daysAhead: number
  trips: PlannedTripView[]
  /** Probability of being outside tolerance on each day from today, by position. */
  risks: Record<string, number[]>
  consumables: ConsumableView[]
  /** Trips that it would take to visit each sensor on its own date. */
  tripsAlone: number
  /** Null for those who may not hand it out. */
  calendarPath: string | null
  /** Sensors without a date, since something of them cannot be computed. */
  unfit: UnfitSensor[]
}
