import type { OrdinaryHour } from '../readings/bins.ts'
import type { ReadingState } from '../readings/readingState.ts'
import { median } from '../statistics/median.ts'
import { type AlarmChange, type AlarmLimits, READING_ALARMS, type ReadingAlarm } from './alarmKinds.ts'
import { Delayed } from './delayed.ts'
import { isNextMinute, NOISE_POINTS, noiseOf, type Usual } from './usual.ts'
import type { WatchedReading } from './watchedReading.ts'

const MINUTE_MS = 60_000
const HOUR_MS = 60 * MINUTE_MS

/**
 * How long what is no limit of a value has to last until it is raised, ms (common practice, no source): a line may slip
 * once, a hand may be in the water for some minutes, and what is only unusual may be the weather.
 */
export const DELAYS = {
  blind: 2 * MINUTE_MS,
  impossible: MINUTE_MS,
  unit: 10 * MINUTE_MS,
  noise: 30 * MINUTE_MS,
  unusual: 2 * HOUR_MS,
} as const

/** A value has to stand still for at least so long, ms, and for so many times the longest that is usual. */
const STILL_LEAST_MS = HOUR_MS
const STILL_TIMES = 3
/** Of what stands still for so long on usual days nobody can tell whether it hangs, ms. */
const STILL_MOST_MS = 24 * HOUR_MS
/** Noise is above its usual by so many times its median, and so many times its worst. */
const NOISE_TIMES = { usual: 4, worst: 2 } as const
/** It is well again below this share of what raised it. */
const BACK_SHARE = 0.8
/** So many times the usual value, or as small a part of it, is no water but another unit. */
const UNIT_TIMES = 5
/** What is compared with the usual is the middle of so long, ms: a spike is none. */
const MIDDLE_MS = 30 * MINUTE_MS
const UNIT_MIDDLE_MS = 10 * MINUTE_MS
/** The change of an hour is that between the middles of so long, ms, at its ends. */
const END_MS = 6 * MINUTE_MS
/** Minutes are remembered for the change of an hour, and at least so many for the noise of slow lines. */
const REMEMBERED_MS = HOUR_MS + END_MS

/** Parts of a watch that a site does without. */
export interface Watching {
  /** Raised already, as after a restart. */
  raised?: Iterable<ReadingAlarm>
  /** 0 to 23 by the site's own clock. */
  hourOfDay?: (at: number) => number
  /** One step of the display, in the unit that is shown. */
  step?: number
  /** What the sensor may err by, in the unit that is shown. */
  tolerance?: number
}

/** States in which a sensor reads something else than the water: nothing is judged by them. */
const ELSEWHERE: readonly ReadingState[] = ['in-visit', 'held']

/** What a reading asks for. */
interface Verdict {
  /** Whether it should be raised; null where this reading says nothing of it. */
  wants: boolean | null
  delayMs: number
  limit?: number | null
}

/**
 * Watches what one sensor reads. What is beyond a limit for longer than its delay is raised; it is well again once it is
 * back inside by the hysteresis for as long: in between it neither comes nor goes, so that nothing flaps (ISA-18.2 and
 * IEC 62682 call both "on-delay", "off-delay" and "deadband"). In a visit, or while outputs are held, nothing is raised
 * and nothing ends; a gap begins every delay anew. What is typed was looked at by somebody: it waits for nothing.
 */
export class AlarmWatch {
  private readonly alarms: Record<ReadingAlarm, Delayed>
  private usual: Usual = { ordinary: [], noise: null, stillMs: null }
  /** How much more than usual it may be off since its last adjustment, in the unit that is shown. */
  private shift = 0
  private ordinaryOf = new Map<number, OrdinaryHour>()
  /** The first reading of each minute, of the last hour. */
  private minutes: { at: number; value: number }[] = []
  private still: { at: number; value: number } | null = null
  private readonly hourOfDay: (at: number) => number
  private readonly step: number
  private readonly tolerance: number

  constructor(
    private limits: AlarmLimits | null,
    {
      raised = [],
      hourOfDay = (at) => new Date(at).getUTCHours(),
      step = 0,
      tolerance = Number.POSITIVE_INFINITY,
    }: Watching = {},
  ) {
    const already = new Set(raised)
    this.alarms = Object.fromEntries(READING_ALARMS.map((kind) => [kind, new Delayed(already.has(kind))])) as Record<
      ReadingAlarm,
      Delayed
    >
    this.hourOfDay = hourOfDay
    this.step = step
    this.tolerance = tolerance
  }

  /** From now on by other limits: what is raised is judged by them at the next reading. */
  setLimits(limits: AlarmLimits | null): void {
    this.limits = limits
    for (const alarm of Object.values(this.alarms)) alarm.gap()
  }

  /**
   * From now on by what is usual.
   * @param shift how far its last adjustment moved what it shows, in the unit that is shown: the days before are off by it
   */
  setUsual(usual: Usual, shift = 0): void {
    this.usual = usual
    this.shift = Math.abs(shift)
    this.ordinaryOf = new Map(usual.ordinary.map((o) => [o.hour, o]))
  }

  /** After how long a value that does not change at all is said to hang, ms; null where nobody can tell. */
  get stillDelayMs(): number | null {
    if (this.usual.stillMs === null) return null
    const delay = Math.max(STILL_LEAST_MS, STILL_TIMES * this.usual.stillMs)
    return delay > STILL_MOST_MS ? null : delay
  }

  /** Whether something is raised. */
  isRaised(kind: ReadingAlarm): boolean {
    return this.alarms[kind].isRaised
  }

  /** Readings come in the order of their times. Returns what changed by this one. */
  push(reading: WatchedReading): AlarmChange[] {
    if (ELSEWHERE.includes(reading.state)) {
      for (const alarm of Object.values(this.alarms)) alarm.gap()
      this.minutes = []
      this.still = null
      return []
    }
    const isNewMinute = this.remember(reading)
    const changes: AlarmChange[] = []
    for (const kind of READING_ALARMS) {
      const verdict = this.verdict(kind, reading, isNewMinute)
      if (!verdict) continue
      const { wants, delayMs, limit = null } = verdict
      const alarm = this.alarms[kind]
      // What is typed comes once a day: what it says is so.
      if (alarm.push(reading.at, wants, reading.state === 'typed' ? 0 : delayMs))
        changes.push({ kind, raised: alarm.isRaised, at: reading.at, value: reading.value, limit })
    }
    return changes
  }

  private remember({ at, value, state }: WatchedReading): boolean {
    if (value === null || state !== 'good') {
      if (state === 'blind') this.still = null
      return false
    }
    if (this.still?.value !== value) this.still = { at, value }
    // Learning takes the first reading of each minute, too. The most extreme one would look noisier than it learned.
    if (!isNextMinute(this.minutes.at(-1)?.at, at)) return false
    this.minutes.push({ at, value })
    const drop = this.minutes.findIndex((m) => m.at >= at - REMEMBERED_MS)
    const most = Math.max(0, this.minutes.length - NOISE_POINTS)
    if (drop > 0 && most > 0) this.minutes.splice(0, Math.min(drop, most))
    return true
  }

  private verdict(kind: ReadingAlarm, reading: WatchedReading, isNewMinute: boolean): Verdict | null {
    const { value, state, at } = reading
    const { isRaised } = this.alarms[kind]
    if (kind === 'blind') return { wants: state === 'blind', delayMs: isRaised ? 0 : DELAYS.blind }
    // Two sensors, or days, are judged elsewhere.
    if (kind === 'apart' || kind === 'shifted') return null
    if (state === 'blind') {
      // Without a reading nothing is known of the water.
      this.alarms[kind].gap()
      return null
    }
    if (kind === 'impossible') return { wants: state === 'out-of-range', delayMs: isRaised ? 0 : DELAYS.impossible }
    // What cannot be says nothing of the water.
    if (value === null || state === 'out-of-range') {
      this.alarms[kind].gap()
      return null
    }
    if (kind === 'frozen') return this.frozen(at, isRaised)
    if (kind === 'high' || kind === 'low' || kind === 'high-high' || kind === 'low-low')
      return this.beyond(kind, value, isRaised)
    // The rest is slow: once a minute is often enough.
    if (!isNewMinute && state !== 'typed') return null
    if (kind === 'change') return this.change(at, isRaised)
    if (kind === 'noise') return this.noise(isRaised)
    return kind === 'unit' ? this.unit(reading, isRaised) : this.unusual(reading, isRaised)
  }

  private beyond(kind: 'high' | 'low' | 'high-high' | 'low-low', value: number, isRaised: boolean): Verdict {
    const { limits } = this
    const of = { 'high-high': limits?.highHigh, high: limits?.high, low: limits?.low, 'low-low': limits?.lowLow }
    const limit = of[kind] ?? null
    const delayMs = 1000 * (limits?.delaySeconds ?? 0)
    if (limit === null) return { wants: false, delayMs: 0 }
    const by = kind === 'high' || kind === 'high-high' ? value - limit : limit - value
    return { wants: isRaised ? by > -(limits?.hysteresis ?? 0) : by > 0, delayMs, limit }
  }

  private frozen(at: number, isRaised: boolean): Verdict {
    const delay = this.stillDelayMs
    // That it moves again is seen at once.
    if (delay === null || !this.still) return { wants: isRaised ? null : false, delayMs: 0 }
    return { wants: at - this.still.at >= delay, delayMs: 0 }
  }

  private change(at: number, isRaised: boolean): Verdict | null {
    const perHour = this.limits?.perHour
    if (perHour === undefined) return { wants: false, delayMs: 0 }
    const now = this.middle(at - END_MS, at)
    const then = this.middle(at - HOUR_MS - END_MS / 2, at - HOUR_MS + END_MS / 2)
    if (now === null || then === null) return null
    const by = Math.abs(now - then)
    const wants = by > (isRaised ? BACK_SHARE * perHour : perHour)
    return { wants, delayMs: 1000 * (this.limits?.delaySeconds ?? 0), limit: perHour }
  }

  private noise(isRaised: boolean): Verdict | null {
    const { noise } = this.usual
    if (!noise || this.minutes.length < NOISE_POINTS) return null
    const last = this.minutes.slice(-NOISE_POINTS)
    const span = (last[NOISE_POINTS - 1]?.at ?? 0) - (last[0]?.at ?? 0)
    const now = noiseOf(last.map((m) => m.value)) as number
    const limit = Math.max(NOISE_TIMES.usual * noise.usual, NOISE_TIMES.worst * noise.worst, this.step)
    // On a slow line one spike is seen for as long as the stretch is: it takes two.
    return { wants: now > (isRaised ? BACK_SHARE * limit : limit), delayMs: Math.max(DELAYS.noise, 2 * span), limit }
  }

  private unit({ at, value, state }: WatchedReading, isRaised: boolean): Verdict | null {
    const usual = this.ordinaryOf.get(this.hourOfDay(at))
    if (!usual || value === null || !(usual.low > 0)) return null
    const isOther = (v: number) => v > UNIT_TIMES * usual.high || v < usual.low / UNIT_TIMES
    const wants = this.lasting(isOther, { at, value, state }, UNIT_MIDDLE_MS)
    return { wants, delayMs: isRaised ? 0 : DELAYS.unit, limit: (usual.low + usual.high) / 2 }
  }

  private unusual({ at, value, state }: WatchedReading, isRaised: boolean): Verdict | null {
    const usual = this.ordinaryOf.get(this.hourOfDay(at))
    if (!usual || value === null) return null
    const width = Math.max(usual.high - usual.low, this.tolerance) + this.shift
    const margin = isRaised ? BACK_SHARE * width : width
    const [low, high] = [usual.low - margin, usual.high + margin]
    const wants = this.lasting((v) => v < low || v > high, { at, value, state }, MIDDLE_MS)
    return { wants, delayMs: DELAYS.unusual, limit: value < usual.low ? usual.low : usual.high }
  }

  /** Whether something is so of a reading, and of the middle of those before it; of a typed one it is so at once. */
  private lasting(
    isSo: (value: number) => boolean,
    { at, value, state }: WatchedReading & { value: number },
    ms: number,
  ): boolean {
    if (!isSo(value)) return false
    return state === 'typed' || isSo(this.middle(at - ms, at) ?? value)
  }

  private middle(from: number, to: number): number | null {
    const within: number[] = []
    for (let i = this.minutes.length - 1; i >= 0; i--) {
      const { at, value } = this.minutes[i] as { at: number; value: number }
      if (at < from) break
      if (at <= to) within.push(value)
    }
    return within.length === 0 ? null : median(within)
  }
}
