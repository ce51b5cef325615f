import type { OrdinaryHour } from '../readings/bins.ts'
import type { ReadingState } from '../readings/readingState.ts'
import { median } from '../statistics/median.ts'
import type { AlarmLimits } from './alarmLimits.ts'
import type { AlarmKind, AlarmType, WatchedSensor } from './alarmType.ts'
import { alarmTypes } from './alarmTypes.ts'
import { Delayed } from './delayed.ts'
import { CHANGE_SPAN_MS } from './types/limits.ts'
import { frozenAfterMs } from './types/reading.ts'
import { isNextMinute, NOISE_POINTS, type Usual } from './usual.ts'
import type { WatchedReading } from './watchedReading.ts'

/** An alarm became active, or returned to normal. */
export interface AlarmChange {
  kind: AlarmKind
  raised: boolean
  /** Epoch ms. */
  at: number
  value: number | null
  /** The limit it is beyond; null where there is none. */
  limit: number | null
}

type WatchedType = AlarmType & { watch: NonNullable<AlarmType['watch']> }
const watchedTypes = () => alarmTypes().filter((type): type is WatchedType => type.watch !== undefined)

/** Parts of a watch that a site does without. */
export interface Watching {
  /** Raised already, as after a restart. */
  raised?: Iterable<AlarmKind>
  /** 0 to 23 by the site's own clock. */
  hourOfDay?: (at: number) => number
  /** One step of the display, in the unit that is shown. */
  step?: number
  /** What the sensor may err by, in the unit that is shown. */
  tolerance?: number
}

/** States in which a sensor reads something else than the water: nothing is judged by them. */
const ELSEWHERE: readonly ReadingState[] = ['in-visit', 'held']

/**
 * Watches what one sensor reads. What is beyond a limit for longer than its delay is raised; it is well again once it is
 * back inside by the hysteresis for as long: in between it neither comes nor goes, so that nothing flaps (ISA-18.2 and
 * IEC 62682 call both "on-delay", "off-delay" and "deadband"). In a visit, or while outputs are held, nothing is raised
 * and nothing ends; a gap begins every delay anew. What is typed was looked at by somebody: it waits for nothing.
 */
export class AlarmWatch implements WatchedSensor {
  private readonly alarms: ReadonlyMap<AlarmKind, { type: WatchedType; alarm: Delayed }>
  usual: Usual = { ordinary: [], noise: null, stillMs: null }
  shift = 0
  private ordinaryOf = new Map<number, OrdinaryHour>()
  minutes: { at: number; value: number }[] = []
  still: { at: number; value: number } | null = null
  private readonly hourOfDay: (at: number) => number
  readonly step: number
  readonly tolerance: number

  constructor(
    public limits: AlarmLimits | null,
    {
      raised = [],
      hourOfDay = (at) => new Date(at).getUTCHours(),
      step = 0,
      tolerance = Number.POSITIVE_INFINITY,
    }: Watching = {},
  ) {
    const already = new Set(raised)
    this.alarms = new Map(
      watchedTypes().map((type) => [type.kind, { type, alarm: new Delayed(already.has(type.kind)) }]),
    )
    this.hourOfDay = hourOfDay
    this.step = step
    this.tolerance = tolerance
  }

  /** From now on by other limits: what is raised is judged by them at the next reading. */
  setLimits(limits: AlarmLimits | null): void {
    this.limits = limits
    for (const { alarm } of this.alarms.values()) alarm.gap()
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

  /** After how long without any change its value counts as frozen, ms; null where nobody can tell. */
  get stillDelayMs(): number | null {
    return frozenAfterMs(this.usual)
  }

  /** Alarms that are active. */
  raised(): AlarmKind[] {
    return [...this.alarms].filter(([, { alarm }]) => alarm.isRaised).map(([kind]) => kind)
  }

  /** Readings come in the order of their times. Returns what changed by this one. */
  push(reading: WatchedReading): AlarmChange[] {
    if (ELSEWHERE.includes(reading.state)) {
      for (const { alarm } of this.alarms.values()) alarm.gap()
      this.minutes = []
      this.still = null
      return []
    }
    const isNewMinute = this.remember(reading)
    const changes: AlarmChange[] = []
    for (const [kind, { type, alarm }] of this.alarms) {
      if (!this.isJudged(type, reading, isNewMinute)) {
        // Without a plausible reading nothing is known of the water.
        if (!isPlausible(reading)) alarm.gap()
        continue
      }
      const verdict = type.watch.verdict(this, reading, alarm.isRaised)
      if (!verdict) continue
      const { wants, delayMs, limit = null } = verdict
      // A manual reading comes once a day: it counts at once.
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
    // The change of an hour needs this span; noise at a long poll interval needs at least so many points.
    const drop = this.minutes.findIndex((m) => m.at >= at - CHANGE_SPAN_MS)
    const most = Math.max(0, this.minutes.length - NOISE_POINTS)
    if (drop > 0 && most > 0) this.minutes.splice(0, Math.min(drop, most))
    return true
  }

  private isJudged({ watch }: WatchedType, reading: WatchedReading, isNewMinute: boolean): boolean {
    switch (watch.judges) {
      case 'all':
        return true
      case 'received':
        return reading.state !== 'blind'
      case 'plausible':
        return isPlausible(reading)
      case 'minute':
        return isPlausible(reading) && (isNewMinute || reading.state === 'typed')
    }
  }

  usualAt = (at: number): OrdinaryHour | undefined => this.ordinaryOf.get(this.hourOfDay(at))

  middle = (from: number, to: number): number | null => {
    const within: number[] = []
    for (let i = this.minutes.length - 1; i >= 0; i--) {
      const { at, value } = this.minutes[i] as { at: number; value: number }
      if (at < from) break
      if (at <= to) within.push(value)
    }
    return within.length === 0 ? null : median(within)
  }
}

const isPlausible = ({ value, state }: WatchedReading): boolean =>
  value !== null && state !== 'blind' && state !== 'out-of-range'
