import type { AlarmKind, AlarmSeverity } from '@frustum/core'

export interface AlarmView {
  id: number
  /** Null of what is wrong with the site itself. */
  position: string | null
  place: string | null
  /** What else it is of: the other of two sensors, a standard, who was to be told. */
  subject: string | null
  kind: AlarmKind
  severity: AlarmSeverity
  raisedAt: number
  /** What it read then, and the limit that it was beyond, in the unit that is shown. */
  value: number | null
  limit: number | null
  unit: string
  decimals: number
  /** Null while it lasts. */
  goneAt: number | null
  seen: { at: number; by: string } | null
  /** Until when nobody is told of it. */
  quiet: { until: number; by: string; reason: string } | null
  /** Of several that have one cause: what it is. */
  cause: string | null
}
