import type { Sentence } from '../quantities/sentence.ts'
import type { OrdinaryHour } from '../readings/bins.ts'
import type { AlarmLimits } from './alarmLimits.ts'
import type { Usual } from './usual.ts'
import type { WatchedReading } from './watchedReading.ts'

/** The key of an alarm type, as alarms are stored. */
export type AlarmKind = string

export const ALARM_SEVERITIES = ['notice', 'warning', 'alarm'] as const
export type AlarmSeverity = (typeof ALARM_SEVERITIES)[number]

/** Whether one severity is at least another. */
export const isAtLeast = (one: AlarmSeverity, least: AlarmSeverity): boolean =>
  ALARM_SEVERITIES.indexOf(one) >= ALARM_SEVERITIES.indexOf(least)

/** What is known of an alarm when it is put into words. Values in the displayed unit. */
export interface Raised {
  kind: AlarmKind
  value: number | null
  limit: number | null
  unit: string
  decimals: number
  /** What else it is about: the other of two sensors, a standard, a recipient. */
  subject: string | null
}

/** What a reading asks for. */
export interface Verdict {
  /** Whether the alarm should be active; null where this reading says nothing about it. */
  wants: boolean | null
  /** How long it has to ask for that, ms. */
  delayMs: number
  /** The limit that the reading is beyond. */
  limit?: number | null
}

/** What is known of a sensor while one of its readings is judged. Values in the displayed unit. */
export interface WatchedSensor {
  readonly limits: AlarmLimits | null
  readonly usual: Usual
  /** How far its last adjustment moved what it shows: the days before are off by it. */
  readonly shift: number
  /** One step of the display. */
  readonly step: number
  readonly tolerance: number
  /** The first reading of each minute, of the last hour. */
  readonly minutes: readonly { at: number; value: number }[]
  /** Since when its value hasn't changed. */
  readonly still: { at: number; value: number } | null
  /** The typical hour that an instant belongs to. */
  usualAt(at: number): OrdinaryHour | undefined
  /** Median of the minutes within a span; null without any. */
  middle(from: number, to: number): number | null
}

/**
 * One thing that can be wrong: how it is judged, said and ranked. Types that judge each reading have a `watch`; others are
 * raised by what looks at pairs, at days or at the site.
 */
export interface AlarmType {
  readonly kind: AlarmKind
  /** As a heading or in a table. */
  readonly name: string
  readonly severity: AlarmSeverity
  /** The water may be wrong: messages add the caution to measure by other means. */
  readonly isOfWater?: boolean
  /** The sensor may be off: it is proposed for a check before its date. */
  readonly callsForCheck?: boolean
  /** With a sensor, the text follows its code; of the site, it is a whole sentence. */
  sentence(raised: Raised): Sentence
  readonly watch?: {
    /** Which readings it judges: all, those that came, those with a plausible value, or one of these a minute. */
    readonly judges: 'all' | 'received' | 'plausible' | 'minute'
    /** Returns null where the reading says nothing about it. */
    verdict(sensor: WatchedSensor, reading: WatchedReading, isRaised: boolean): Verdict | null
  }
  /** Whether enough is known of a sensor to watch for it, where it has to be learned. */
  readonly learns?: { isLearned(usual: Usual): boolean; readonly onlyConnected: boolean }
  /** Over by the time it is known: nobody is told when it returns to normal. */
  readonly isPast?: boolean
  /** Its subject is the other of two sensors. */
  readonly isOfPair?: boolean
  /** All sensors of a connection have it together, so that they are shown and told as one. */
  readonly isOfConnection?: boolean
}
