import type { AlarmKind, AlarmSeverity, AlarmStatistics, Sentence } from '@frustum/core'

export interface AlarmView {
  id: number
  /** Null for an alarm of the site itself. */
  position: string | null
  place: string | null
  /** Name of the connection of the sensor's device; null without one. */
  connection: string | null
  /** What else it is about: the other of two sensors, a recipient, calibration values. */
  subject: string | null
  kind: AlarmKind
  name: string
  severity: AlarmSeverity
  /** What is wrong; with a sensor, it follows its code. */
  sentence: Sentence
  /** Active alarms of one connection with this are shown as one. */
  isOfConnection: boolean
  raisedAt: number
  /** The reading when it was raised, and the limit it exceeded, in the displayed unit. */
  value: number | null
  limit: number | null
  unit: string
  decimals: number
  /** When it returned to normal; null while active. */
  returnedAt: number | null
  acknowledged: { at: number; by: string } | null
  /** While shelved, nobody is notified of it. */
  shelved: { until: number; by: string; reason: string } | null
}

export interface AlarmHistoryView {
  from: number
  to: number
  /** All that were active within the period, the newest first. */
  alarms: AlarmView[]
  statistics: AlarmStatistics
}

/** An alarm that needs to know what is usual, and the sensors of which too little is known yet. */
export interface LearningView {
  kind: AlarmKind
  name: string
  positions: string[]
}
