import { DAY_MS } from '../drift/observation.ts'
import type { AlarmKind } from './alarmType.ts'
import { alarmTypeOf } from './alarmTypes.ts'

/** Alarms are counted per ten minutes, the interval of ISA-18.2 (clause on monitoring and assessment; from memory). */
export const PEAK_MS = 10 * 60_000
/** An alarm that stays active for longer is stale (ISA-18.2, from memory). */
const STALE_MS = DAY_MS
const TOP = 10

interface Raised {
  kind: AlarmKind
  position: string | null
  subject: string | null
  /** Epoch ms. */
  raisedAt: number
  /** Epoch ms; null while active. */
  returnedAt: number | null
}

/** How often one alarm was raised. */
export interface AlarmFrequency {
  kind: AlarmKind
  name: string
  position: string | null
  subject: string | null
  /** The subject is the other of two sensors. */
  isOfPair: boolean
  count: number
  /** Share of all alarms of the period, 0 to 1. */
  share: number
}

export interface AlarmStatistics {
  /** Alarms raised within the period. */
  count: number
  perDay: number
  /** The most alarms within ten minutes, and when the first of them was raised; null without alarms. */
  peak: { count: number; at: number } | null
  /** Alarms that were active for more than a day. */
  stale: number
  /** The ten most frequent alarms, the most frequent first. */
  top: AlarmFrequency[]
}

function frequencyOf(of: Pick<Raised, 'kind' | 'position' | 'subject'>): AlarmFrequency {
  const { name, isOfPair = false } = alarmTypeOf(of.kind)
  return { ...of, name, isOfPair, count: 0, share: 0 }
}

/**
 * Counts the alarms of a period.
 * @param alarms that were active within the period, in any order
 * @param period epoch ms, `to` not before `from`
 */
export function alarmStatistics(
  alarms: readonly Raised[],
  { from, to }: { from: number; to: number },
): AlarmStatistics {
  const raised = alarms.filter((a) => a.raisedAt >= from && a.raisedAt <= to).sort((a, b) => a.raisedAt - b.raisedAt)
  let peak: AlarmStatistics['peak'] = null
  let first = 0
  raised.forEach(({ raisedAt }, i) => {
    while ((raised[first]?.raisedAt ?? raisedAt) <= raisedAt - PEAK_MS) first++
    const count = i - first + 1
    if (count > (peak?.count ?? 0)) peak = { count, at: raised[first]?.raisedAt ?? raisedAt }
  })
  const frequencies = new Map<string, AlarmFrequency>()
  for (const { kind, position, subject } of raised) {
    const key = JSON.stringify([kind, position, subject])
    const known = frequencies.get(key) ?? frequencyOf({ kind, position, subject })
    known.count++
    known.share = known.count / raised.length
    frequencies.set(key, known)
  }
  return {
    count: raised.length,
    perDay: to > from ? raised.length / ((to - from) / DAY_MS) : 0,
    peak,
    stale: alarms.filter(({ raisedAt, returnedAt }) => (returnedAt ?? to) - raisedAt > STALE_MS).length,
    top: [...frequencies.values()].sort((a, b) => b.count - a.count).slice(0, TOP),
  }
}
