import type { ReadingState } from '../readings/readingState.ts'

/** What can be wrong with what a sensor reads, the gravest first. */
export const ALARM_KINDS = ['high-high', 'low-low', 'impossible', 'high', 'low', 'blind'] as const
export type AlarmKind = (typeof ALARM_KINDS)[number]

export type AlarmSeverity = 'alarm' | 'warning'

/** How grave each is: what can kill, and what wants a look. */
export const severityOf = (kind: AlarmKind): AlarmSeverity =>
  kind === 'high-high' || kind === 'low-low' ? 'alarm' : 'warning'

/** Between which values the water should be, in the unit that is shown; what is missing is not watched. */
export interface AlarmLimits {
  lowLow?: number | undefined
  low?: number | undefined
  high?: number | undefined
  highHigh?: number | undefined
  /** How far back inside a limit it has to be to be well again, in the same unit; 0 or more. */
  hysteresis: number
  /** How long it has to be beyond, and back again, s. */
  delaySeconds: number
}

/** A device that does not answer for so long is said to be blind, s. */
export const BLIND_SECONDS = 120
/** A value that cannot be is believed to be meant after so long, s: a single slip of a line is none. */
export const IMPOSSIBLE_SECONDS = 60

interface Reading {
  /** Epoch ms. */
  at: number
  /** In the unit that is shown; null where there is none. */
  value: number | null
  state: ReadingState
}

/** Something was raised, or is well again. */
export interface AlarmChange {
  kind: AlarmKind
  raised: boolean
  at: number
  value: number | null
  /** The limit that it is beyond; null where it is none of a value. */
  limit: number | null
}

/** States in which a sensor reads something else than the water: nothing is judged by them. */
const ELSEWHERE: readonly ReadingState[] = ['in-visit', 'held']

/**
 * Watches what one sensor reads. What is beyond a limit for longer than its delay is raised; it is well again once it is
 * back inside by the hysteresis for as long: in between it neither comes nor goes, so that nothing flaps (ISA-18.2 and
 * IEC 62682 call both "on-delay", "off-delay" and "deadband"). In a visit, or while outputs are held, nothing is raised
 * and nothing ends; a gap begins every delay anew.
 */
export class AlarmWatch {
  private readonly raised = new Set<AlarmKind>()
  /** Since when readings ask for the other state of each, epoch ms: start of its on-delay or off-delay. */
  private readonly since = new Map<AlarmKind, number>()

  /** @param raised those that are raised already, as after a restart */
  constructor(
    private limits: AlarmLimits | null,
    raised: Iterable<AlarmKind> = [],
  ) {
    for (const kind of raised) this.raised.add(kind)
  }

  /** From now on by other limits: what is raised is judged by them at the next reading. */
  setLimits(limits: AlarmLimits | null): void {
    this.limits = limits
    this.since.clear()
  }

  /** Readings come in the order of their times. Returns what changed by this one. */
  push(reading: Reading): AlarmChange[] {
    if (ELSEWHERE.includes(reading.state)) {
      this.since.clear()
      return []
    }
    return ALARM_KINDS.flatMap((kind) => this.judge(kind, reading) ?? [])
  }

  private judge(kind: AlarmKind, reading: Reading): AlarmChange | null {
    const isRaised = this.raised.has(kind)
    const limit = this.limitOf(kind)
    const wants = wanted(kind, reading, { limit, isRaised, hysteresis: this.limits?.hysteresis ?? 0 })
    // Without a reading nothing is known of the water, and with no limit nothing is beyond it.
    if (wants === null || wants === isRaised) {
      if (wants !== null || reading.value === null) this.since.delete(kind)
      return null
    }
    const since = this.since.get(kind) ?? reading.at
    this.since.set(kind, since)
    if (reading.at - since < 1000 * this.delayOf(kind, wants)) return null
    this.since.delete(kind)
    if (wants) this.raised.add(kind)
    else this.raised.delete(kind)
    return { kind, raised: wants, at: reading.at, value: reading.value, limit }
  }

  private limitOf(kind: AlarmKind): number | null {
    const { limits } = this
    const of = { 'high-high': limits?.highHigh, high: limits?.high, low: limits?.low, 'low-low': limits?.lowLow }
    return kind === 'impossible' || kind === 'blind' ? null : (of[kind] ?? null)
  }

  /** That it answers again, or reads what can be, is seen at once. */
  private delayOf(kind: AlarmKind, raising: boolean): number {
    if (kind === 'blind') return raising ? BLIND_SECONDS : 0
    if (kind === 'impossible') return raising ? IMPOSSIBLE_SECONDS : 0
    return this.limits?.delaySeconds ?? 0
  }
}

/** Whether a reading asks for an alarm to be raised; null where it says nothing of it. */
function wanted(
  kind: AlarmKind,
  { value, state }: Reading,
  { limit, isRaised, hysteresis }: { limit: number | null; isRaised: boolean; hysteresis: number },
): boolean | null {
  if (kind === 'blind') return state === 'blind'
  if (state === 'blind') return null
  if (kind === 'impossible') return state === 'out-of-range'
  if (limit === null) return false
  // What cannot be says nothing of the water.
  if (value === null || state === 'out-of-range') return null
  const beyond = kind === 'high' || kind === 'high-high' ? value - limit : limit - value
  return isRaised ? beyond > -hysteresis : beyond > 0
}

/**
 * What is wrong with limits as they were typed, in a sentence; null where nothing is.
 * @param range what the device can show
 */
export function limitsProblem(limits: AlarmLimits, range: { low: number; high: number }): string | null {
  const { lowLow, low, high, highHigh, hysteresis, delaySeconds } = limits
  const order = [lowLow, low, high, highHigh].filter((v): v is number => v !== undefined)
  if (order.some((v) => !Number.isFinite(v) || v < range.low || v > range.high))
    return `Limits lie between ${range.low} and ${range.high}.`
  if (order.some((v, i) => i > 0 && v <= (order[i - 1] as number))) return 'Limits rise: lowest, low, high, highest.'
  const width = low !== undefined && high !== undefined ? high - low : Number.POSITIVE_INFINITY
  if (!(hysteresis >= 0) || hysteresis * 2 >= width) return 'The way back is less than half the width of the limits.'
  if (!(delaySeconds >= 0) || delaySeconds > 86_400) return 'It may wait for a day at most.'
  return null
}
