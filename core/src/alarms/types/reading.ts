import { say, signedQuantity } from '../../quantities/sentence.ts'
import type { AlarmType, WatchedSensor } from '../alarmType.ts'
import { NOISE_POINTS, noiseOf, type Usual } from '../usual.ts'
import type { WatchedReading } from '../watchedReading.ts'
import { apart, BACK_SHARE, shown } from './limits.ts'

const MINUTE_MS = 60_000
const HOUR_MS = 60 * MINUTE_MS

/**
 * How long it has to last until it is raised, ms (common practice, no source): a connection may drop a reading or two, a
 * hand may be in the water for some minutes, and what is only unusual may be the weather.
 */
export const DELAYS = {
  blind: 2 * MINUTE_MS,
  impossible: MINUTE_MS,
  unit: 10 * MINUTE_MS,
  noise: 30 * MINUTE_MS,
  unusual: 2 * HOUR_MS,
} as const

export const NO_DATA: AlarmType = {
  kind: 'blind',
  name: 'No data',
  severity: 'warning',
  isOfConnection: true,
  sentence: () => 'sends no data',
  watch: {
    judges: 'all',
    verdict: (_, { state }, isRaised) => ({ wants: state === 'blind', delayMs: isRaised ? 0 : DELAYS.blind }),
  },
}

export const IMPLAUSIBLE: AlarmType = {
  kind: 'impossible',
  name: 'Implausible reading',
  severity: 'warning',
  sentence: (a) => say`shows an implausible reading: ${shown(a.value, a)}`,
  watch: {
    judges: 'received',
    verdict: (_, { state }, isRaised) => ({
      wants: state === 'out-of-range',
      delayMs: isRaised ? 0 : DELAYS.impossible,
    }),
  },
}

/** A value has to be still for at least so long, ms, and for so many times the longest that is usual. */
const STILL_LEAST_MS = HOUR_MS
const STILL_TIMES = 3
/** Of a sensor that is still for so long on usual days nobody can tell whether it is frozen, ms. */
const STILL_MOST_MS = 24 * HOUR_MS

/** After how long without any change a value counts as frozen, ms; null where nobody can tell. */
export function frozenAfterMs({ stillMs }: Usual): number | null {
  if (stillMs === null) return null
  const delay = Math.max(STILL_LEAST_MS, STILL_TIMES * stillMs)
  return delay > STILL_MOST_MS ? null : delay
}

export const FROZEN: AlarmType = {
  kind: 'frozen',
  name: 'Frozen',
  severity: 'warning',
  callsForCheck: true,
  sentence: (a) => say`is frozen at ${shown(a.value, a)}, for much longer than usual`,
  learns: { isLearned: ({ stillMs }) => stillMs !== null, onlyConnected: true },
  watch: {
    judges: 'plausible',
    verdict: ({ usual, still }, { at }, isRaised) => {
      const after = frozenAfterMs(usual)
      // That it moves again is seen at once.
      if (after === null || !still) return { wants: isRaised ? null : false, delayMs: 0 }
      return { wants: at - still.at >= after, delayMs: 0 }
    },
  },
}

/** Noise is above its usual by so many times its median, and so many times its worst. */
const NOISE_TIMES = { usual: 4, worst: 2 } as const

export const NOISE: AlarmType = {
  kind: 'noise',
  name: 'Noise',
  severity: 'notice',
  callsForCheck: true,
  sentence: (a) => say`is noisier than usual, now ${shown(a.value, a)}`,
  learns: { isLearned: ({ noise }) => noise !== null, onlyConnected: true },
  watch: {
    judges: 'minute',
    verdict: ({ usual: { noise }, minutes, step }, _, isRaised) => {
      if (!noise || minutes.length < NOISE_POINTS) return null
      const last = minutes.slice(-NOISE_POINTS)
      const span = (last[NOISE_POINTS - 1]?.at ?? 0) - (last[0]?.at ?? 0)
      const now = noiseOf(last.map((m) => m.value)) as number
      const limit = Math.max(NOISE_TIMES.usual * noise.usual, NOISE_TIMES.worst * noise.worst, step)
      // At a long poll interval one spike is seen for as long as the stretch is: it takes two.
      return { wants: now > (isRaised ? BACK_SHARE * limit : limit), delayMs: Math.max(DELAYS.noise, 2 * span), limit }
    },
  },
}

/** So many times the usual value, or as small a part of it, is another unit and not the water. */
const UNIT_TIMES = 5
const UNIT_MIDDLE_MS = 10 * MINUTE_MS

export const DIFFERENT_UNIT: AlarmType = {
  kind: 'unit',
  name: 'Different unit',
  severity: 'warning',
  callsForCheck: true,
  sentence: (a) =>
    say`shows ${shown(a.value, a)}, usually about ${shown(a.limit, a)}: a different unit, or a device fault`,
  watch: {
    judges: 'minute',
    verdict: (sensor, reading, isRaised) => {
      const usual = sensor.usualAt(reading.at)
      if (!usual || !(usual.low > 0)) return null
      const isOther = (v: number) => v > UNIT_TIMES * usual.high || v < usual.low / UNIT_TIMES
      const wants = lasts(isOther, sensor, reading, UNIT_MIDDLE_MS)
      return { wants, delayMs: isRaised ? 0 : DELAYS.unit, limit: (usual.low + usual.high) / 2 }
    },
  },
}

/** What is compared with the usual is the middle of so long, ms: a spike doesn't count. */
const MIDDLE_MS = 30 * MINUTE_MS

export const UNUSUAL: AlarmType = {
  kind: 'unusual',
  name: 'Unusual for the time of day',
  severity: 'notice',
  isOfWater: true,
  callsForCheck: true,
  sentence: (a) =>
    a.value !== null && a.limit !== null && a.value < a.limit
      ? say`is unusually low: ${shown(a.value, a)}, usually at least ${shown(a.limit, a)} at this hour`
      : say`is unusually high: ${shown(a.value, a)}, usually at most ${shown(a.limit, a)} at this hour`,
  learns: { isLearned: ({ ordinary }) => ordinary.length > 0, onlyConnected: false },
  watch: {
    judges: 'minute',
    verdict: (sensor, reading, isRaised) => {
      const usual = sensor.usualAt(reading.at)
      if (!usual || reading.value === null) return null
      const width = Math.max(usual.high - usual.low, sensor.tolerance) + sensor.shift
      const margin = isRaised ? BACK_SHARE * width : width
      const [low, high] = [usual.low - margin, usual.high + margin]
      const wants = lasts((v) => v < low || v > high, sensor, reading, MIDDLE_MS)
      return { wants, delayMs: DELAYS.unusual, limit: reading.value < usual.low ? usual.low : usual.high }
    },
  },
}

/** Whether something is so of a reading and of the middle of those before it; of a manual reading it is so at once. */
function lasts(
  isSo: (value: number) => boolean,
  { middle }: WatchedSensor,
  { at, value, state }: WatchedReading,
  ms: number,
): boolean {
  if (value === null || !isSo(value)) return false
  return state === 'typed' || isSo(middle(at - ms, at) ?? value)
}

/** Judged by `ApartWatch`. */
export const REDUNDANT_DIFFER: AlarmType = {
  kind: 'apart',
  name: 'Redundant sensors differ',
  severity: 'notice',
  isOfWater: true,
  callsForCheck: true,
  isOfPair: true,
  sentence: (a) => say`and ${a.subject ?? ''} differ by ${apart(a.value, a)}; expected at most ${apart(a.limit, a)}`,
}

const DAY = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', timeZone: 'UTC' })
/** "2026-10-12" as "12 Oct": a calendar day is the same in every time zone. */
const dayText = (day: string | null): string => (day === null ? '' : DAY.format(Date.parse(day)))

/** Judged by `levelShift`, once a day. */
export const LEVEL_SHIFT: AlarmType = {
  kind: 'shifted',
  name: 'Level shift',
  severity: 'notice',
  callsForCheck: true,
  sentence: (a) =>
    say`has shifted by ${a.value === null ? '' : [signedQuantity(a.value, a.unit, a.decimals)]} since ${dayText(a.subject)}; expected at most ${apart(a.limit, a)}`,
}
