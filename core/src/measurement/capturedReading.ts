import type { StabilityReason, StabilityState } from '../stability/opinion.ts'
import type { SettlingSignature } from '../stability/settlingSignature.ts'
import type { TemperatureSource } from './temperatureSource.ts'

/**
 * What was read of a reading, the rest being worked out from it: signal and display over a line, or one of them where
 * the device gives no more; only what was typed by hand. Records of before this was noted do not say.
 */
export const READING_SOURCES = [
  'line',
  'line-signal',
  'line-display',
  'signal-typed',
  'display-typed',
  'not-noted',
] as const
export type ReadingSource = (typeof READING_SOURCES)[number]

/** Whether a reading came over a line, at the pace of the sensor and not of a person. */
export const isOverLine = (source: ReadingSource): boolean => source.startsWith('line')

/** Whether only the display was read, and the signal was worked out from it. */
export const isDisplayAlone = (source: ReadingSource): boolean =>
  source === 'display-typed' || source === 'line-display'

/** A settled reading, as stored. */
export interface CapturedReading {
  source: ReadingSource
  /** In the signal unit of its kind; worked back through the calibration in force where only the display was read. */
  signal: number
  /** Half-width of its 95 % interval. */
  signalUncertainty: number
  /** Standard deviation of its scatter when it was taken, in the signal's unit; unknown of typed readings. */
  noise?: number
  /** As the device reports them: glass in MOhm at this temperature, junction in kOhm. */
  resistances?: { glass?: number; junction?: number }
  /** degC */
  temperature: number
  /** Missing in records of before it was noted. */
  temperatureFrom?: TemperatureSource
  /** What the device showed, in its own unit, as it was read or typed; null where nobody read it. */
  shown: number | null
  /** Unknown of what was noted elsewhere. */
  stability: {
    state: StabilityState | 'unknown'
    reason: StabilityReason | 'not-noted'
    /** In all, with what was waited for rest and by whoever stood there. */
    seconds: number
    /** Seconds until its end was known: the pace of the sensor. Missing in records of before it was noted. */
    knownAfter?: number
    confidence: number
  }
  /** Set when taken before it was stable. */
  earlyReason?: string
  /** At most 80 points of the trace: seconds, and what was judged. */
  trace: [number, number][]
  signature: SettlingSignature | null
  standard?: {
    code: string
    /** At the measured temperature, in the core unit of its kind. */
    value: number
    lot: string | null
    expired: boolean
    openTooLong: boolean
    daysOver: number
    /** The lot's own printed table, where it has one. */
    lotTable?: { temperatures: readonly number[]; values: readonly number[] }
  }
}

/** The pace of a sensor at a reading, s: how long until its end was known, or how long it was waited for in all. */
export const settledAfter = ({ stability }: Pick<CapturedReading, 'stability'>): number =>
  stability.knownAfter ?? stability.seconds
