import type { AlarmKind, AlarmLimits, OrdinaryHour, ReadingState, SpanSummary } from '@frustum/core'

/** What the readings of a stretch of time come to, in the unit that is shown. */
export interface BinView {
  at: number
  /** Readings in it that are of the water. */
  good: number
  min: number
  max: number
  mean: number
  deviation: number | null
  temperature: number | null
}

/** A reading that was typed, as it was shown. */
export interface TypedView {
  at: number
  value: number
  /** Null for one that counts. */
  takenBack: { at: number; by: string; reason: string } | null
}

/** What a sensor read in a span of time, in bins of one width. */
export interface SeriesView {
  position: string
  quantity: string
  unit: string
  decimals: number
  from: number
  to: number
  binMs: number
  bins: BinView[]
  /** Stretches in which it did not read the water, and why. */
  otherwise: { from: number; to: number; state: ReadingState }[]
  /** What was typed on the way round in up to a week, the newest first, with those that were taken back. */
  typed: TypedView[]
  /** What the span comes to. */
  whole: SpanSummary | null
  /** Its first and last reading that there is; null where there is none. */
  known: { from: number; to: number } | null
  /** The usual value of the water, and how far from it its reading may be wrong. */
  process: number
  /** What is usual by hour of the day, from the last thirty days; empty where it was not asked for. */
  ordinary: OrdinaryHour[]
  /** Between which values it should be; null where nobody said. */
  limits: AlarmLimits | null
  /** What the device can show. */
  range: { low: number; high: number }
  tolerance: number
  /** Other sensors of its kind in the same water that show the same unit. */
  twins: string[]
  alarms: { id: number; kind: AlarmKind; from: number; to: number | null }[]
  /** Its means corrected for each error beyond the tolerance that a visit found, from the visit before on. */
  corrected: {
    visit: string | null
    from: number
    to: number
    found: number
    points: { at: number; value: number }[]
  }[]
  /** When its outputs were held; `to` is null while they are. */
  holds: { from: number; to: number | null }[]
  visits: { id: string; at: number; to: number | null; name: string }[]
  events: { at: number; label: string }[]
}

/** What each sensor read in the last day, by position: an hour each. */
export type LastDaysView = Record<string, { at: number; low: number; mean: number; high: number }[]>
