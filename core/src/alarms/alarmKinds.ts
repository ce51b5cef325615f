/** What can be wrong with what one sensor reads, the gravest first. */
export const READING_ALARMS = [
  'high-high',
  'low-low',
  'impossible',
  'unit',
  'high',
  'low',
  'change',
  'blind',
  'frozen',
  'apart',
  'noise',
  'unusual',
  'shifted',
] as const
export type ReadingAlarm = (typeof READING_ALARMS)[number]

/** What can be wrong with the keeping of the site itself. */
export const SITE_ALARMS = [
  'no-room',
  'not-told',
  'not-watched',
  'clock-set',
  'numbers-changed',
  'hold-forgotten',
] as const
export type SiteAlarm = (typeof SITE_ALARMS)[number]

/** All of them in the order of their consequence. */
export const ALARM_KINDS = [
  'high-high',
  'low-low',
  'no-room',
  'not-told',
  'impossible',
  'unit',
  'high',
  'low',
  'change',
  'blind',
  'frozen',
  'not-watched',
  'hold-forgotten',
  'apart',
  'noise',
  'unusual',
  'shifted',
  'numbers-changed',
  'clock-set',
] as const satisfies readonly (ReadingAlarm | SiteAlarm)[]
export type AlarmKind = (typeof ALARM_KINDS)[number]

/** The name of each kind, as a heading or in a table. */
export const ALARM_NAMES: Record<AlarmKind, string> = {
  'high-high': 'High-high',
  'low-low': 'Low-low',
  high: 'High',
  low: 'Low',
  change: 'Rate of change',
  impossible: 'Implausible reading',
  unit: 'Different unit',
  blind: 'No data',
  frozen: 'Frozen',
  apart: 'Redundant sensors differ',
  noise: 'Noise',
  unusual: 'Unusual for the time of day',
  shifted: 'Level shift',
  'no-room': 'Disk nearly full',
  'not-told': 'Messages not delivered',
  'not-watched': 'Frustum was off',
  'clock-set': 'Clock changed',
  'hold-forgotten': 'Outputs on hold too long',
  'numbers-changed': 'Calibration changed in the device',
}

export const ALARM_SEVERITIES = ['notice', 'warning', 'alarm'] as const
export type AlarmSeverity = (typeof ALARM_SEVERITIES)[number]

const SEVERITIES: Partial<Record<AlarmKind, AlarmSeverity>> = {
  'high-high': 'alarm',
  'low-low': 'alarm',
  'no-room': 'alarm',
  'not-told': 'warning',
  impossible: 'warning',
  unit: 'warning',
  high: 'warning',
  low: 'warning',
  change: 'warning',
  blind: 'warning',
  frozen: 'warning',
  'hold-forgotten': 'warning',
}

/** How grave each is: what can kill, what wants somebody today, and what wants a look with the next round. */
export const severityOf = (kind: AlarmKind): AlarmSeverity => SEVERITIES[kind] ?? 'notice'

/** Whether one is at least as grave as another. */
export const isAtLeast = (one: AlarmSeverity, least: AlarmSeverity): boolean =>
  ALARM_SEVERITIES.indexOf(one) >= ALARM_SEVERITIES.indexOf(least)

/** Between which values the water should be, in the unit that is shown; what is missing is not watched. */
export interface AlarmLimits {
  lowLow?: number | undefined
  low?: number | undefined
  high?: number | undefined
  highHigh?: number | undefined
  /** How much it may change in an hour, in the same unit; above 0. */
  perHour?: number | undefined
  /** How far it may be from a sensor of its kind in the same water; above 0. Missing: what both can explain. */
  apart?: number | undefined
  /** How far back inside a limit it has to be to be well again, in the same unit; 0 or more. */
  hysteresis: number
  /** How long it has to be beyond, and back again, s. */
  delaySeconds: number
}

/** Something was raised, or is well again. */
export interface AlarmChange {
  kind: ReadingAlarm
  raised: boolean
  /** Epoch ms. */
  at: number
  value: number | null
  /** What it is beyond; null where it is nothing of a value. */
  limit: number | null
}

/**
 * What is wrong with limits as they were typed, in a sentence; null where nothing is.
 * @param range what the device can show
 */
export function limitsProblem(limits: AlarmLimits, range: { low: number; high: number }): string | null {
  const { lowLow, low, high, highHigh, perHour, apart, hysteresis, delaySeconds } = limits
  const order = [lowLow, low, high, highHigh].filter((v): v is number => v !== undefined)
  if (order.some((v) => !Number.isFinite(v) || v < range.low || v > range.high))
    return `Limits lie between ${range.low} and ${range.high}.`
  if (order.some((v, i) => i > 0 && v <= (order[i - 1] as number))) return 'Limits rise: lowest, low, high, highest.'
  if ([perHour, apart].some((v) => v !== undefined && !(v > 0 && Number.isFinite(v))))
    return 'A change in an hour, and a difference, are above 0.'
  const width = low !== undefined && high !== undefined ? high - low : Number.POSITIVE_INFINITY
  if (!(hysteresis >= 0) || hysteresis * 2 >= width) return 'The way back is less than half the width of the limits.'
  if (!(delaySeconds >= 0) || delaySeconds > 86_400) return 'It may wait for a day at most.'
  return null
}
