import { difference, quantity, type Sentence, say } from '../../quantities/sentence.ts'
import type { AlarmLimits } from '../alarmLimits.ts'
import type { AlarmType, Raised, Verdict, WatchedSensor } from '../alarmType.ts'

const HOUR_MS = 3_600_000
/** The change of an hour is that between the middles of so long, ms, at its ends. */
const END_MS = 6 * 60_000
/** Readings of this span are needed to judge the change of an hour, ms. */
export const CHANGE_SPAN_MS = HOUR_MS + END_MS
/** A rate of change or noise is normal again below this share of its limit. */
export const BACK_SHARE = 0.8

/** A value in the displayed unit. */
export const shown = (value: number | null, { unit, decimals }: Pick<Raised, 'unit' | 'decimals'>): Sentence =>
  value === null ? '' : [quantity(value, unit, decimals)]

/** A difference in the displayed unit. */
export const apart = (value: number | null, { unit, decimals }: Pick<Raised, 'unit' | 'decimals'>): Sentence =>
  value === null ? '' : [difference(Math.abs(value), unit, decimals)]

function limit(
  kind: string,
  name: string,
  {
    severity,
    key,
    side,
  }: { severity: AlarmType['severity']; key: 'lowLow' | 'low' | 'high' | 'highHigh'; side: 1 | -1 },
): AlarmType {
  return {
    kind,
    name,
    severity,
    isOfWater: true,
    sentence: (a) => say`${name.toLowerCase()}: ${shown(a.value, a)}, limit ${shown(a.limit, a)}`,
    watch: {
      judges: 'plausible',
      verdict: ({ limits }, { value }, isRaised) => beyond(limits, limits?.[key], side * (value ?? 0), isRaised, side),
    },
  }
}

/** Returned to normal once it is back by the deadband (ISA-18.2, IEC 62682). */
function beyond(
  limits: AlarmLimits | null,
  of: number | undefined,
  value: number,
  isRaised: boolean,
  side: 1 | -1,
): Verdict {
  if (!limits || of === undefined) return { wants: false, delayMs: 0, limit: null }
  const by = value - side * of
  return { wants: isRaised ? by > -limits.hysteresis : by > 0, delayMs: 1000 * limits.delaySeconds, limit: of }
}

export const HIGH_HIGH = limit('high-high', 'High-high', { severity: 'alarm', key: 'highHigh', side: 1 })
export const HIGH = limit('high', 'High', { severity: 'warning', key: 'high', side: 1 })
export const LOW = limit('low', 'Low', { severity: 'warning', key: 'low', side: -1 })
export const LOW_LOW = limit('low-low', 'Low-low', { severity: 'alarm', key: 'lowLow', side: -1 })

export const RATE_OF_CHANGE: AlarmType = {
  kind: 'change',
  name: 'Rate of change',
  severity: 'warning',
  isOfWater: true,
  sentence: (a) => say`changes by more than ${apart(a.limit, a)} per hour, now ${shown(a.value, a)}`,
  watch: {
    judges: 'minute',
    verdict: (sensor, { at }, isRaised) => changed(sensor, at, isRaised),
  },
}

function changed({ limits, middle }: WatchedSensor, at: number, isRaised: boolean): Verdict | null {
  const perHour = limits?.perHour
  if (perHour === undefined) return { wants: false, delayMs: 0 }
  const now = middle(at - END_MS, at)
  const then = middle(at - HOUR_MS - END_MS / 2, at - HOUR_MS + END_MS / 2)
  if (now === null || then === null) return null
  const by = Math.abs(now - then)
  return {
    wants: by > (isRaised ? BACK_SHARE * perHour : perHour),
    delayMs: 1000 * (limits?.delaySeconds ?? 0),
    limit: perHour,
  }
}
