import {
  type AlarmKind,
  AlarmWatch,
  DAY_MS,
  type DaySummary,
  daySummary,
  KeepRule,
  median,
  randomStream,
  usualOf,
  type WatchedReading,
} from '@frustum/core'

/**
 * Sound sensors with the noise of their kind, at polls from ten a second to one every five minutes: learned from what is
 * kept, watched at every poll. Invented noise; the water's day is a sine.
 */

const [SECOND, MINUTE, HOUR] = [1000, 60_000, 3_600_000]
const STEP = 0.01
/** Days that are learned from, as the server does. */
const LEARNED_DAYS = 28
const hourOfDay = (at: number) => new Date(at).getUTCHours()

const NOISES = {
  white: { deviation: 0.02, memoryMs: 0, swing: 0.05 },
  /** As behind a filter in the device: each reading hardly differs from the one before. */
  filtered: { deviation: 0.02, memoryMs: 20 * SECOND, swing: 0.05 },
  /** Ten times as noisy by day as by night: lights, pumps and feeding. */
  daily: { deviation: 0.02, memoryMs: 0, swing: 0.15 },
  /** Of a display that changes by whole steps now and then. */
  stepped: { deviation: 0.003, memoryMs: 0, swing: 0.05 },
} as const
type Noise = keyof typeof NOISES
const NOISE_NAMES = Object.keys(NOISES) as Noise[]

/** What goes wrong with a sensor, and the alarm that has to be raised. */
export const FAULTS = {
  'noise times eight': 'noise',
  frozen: 'frozen',
  'one unit higher': 'unusual',
} as const satisfies Record<string, AlarmKind>
export type Fault = keyof typeof FAULTS

export const ALL_POLLS = [100, 500, 2 * SECOND, 10 * SECOND, MINUTE, 5 * MINUTE]

interface Sensor {
  noise: Noise
  pollMs: number
  days: number
  fault?: { from: number; name: Fault }
}

/** Every alarm that was raised, with its time. */
function played({ noise, pollMs, days, fault }: Sensor, seed: number): { kind: AlarmKind; at: number }[] {
  const random = randomStream(seed)
  const { deviation, memoryMs, swing } = NOISES[noise]
  const watch = new AlarmWatch(null, { step: STEP, tolerance: 0.1, hourOfDay })
  const rule = new KeepRule({ step: STEP, everyMs: MINUTE })
  const summaries: DaySummary[] = []
  const raised: { kind: AlarmKind; at: number }[] = []
  const memory = memoryMs > 0 ? Math.exp(-pollMs / memoryMs) : 0
  let [slow, frozen] = [0, Number.NaN]
  let kept: WatchedReading[] = []
  for (let at = 0; at < days * DAY_MS; at += pollMs) {
    slow = memory * slow + Math.sqrt(1 - memory ** 2) * random.normal()
    const isDay = hourOfDay(at) >= 8 && hourOfDay(at) < 20
    const now = fault && at >= fault.from ? fault.name : null
    // Of the noise that the display shows: below its last digit there is none to see.
    const sigma = now === 'noise times eight' ? 8 * Math.max(deviation, STEP / 2) : deviation
    const size = (noise === 'daily' && !isDay ? 0.1 : 1) * sigma
    const water = 8.1 + swing * Math.sin((2 * Math.PI * at) / DAY_MS) + (now === 'one unit higher' ? 1 : 0)
    const shown = Math.round((water + size * slow) / STEP) * STEP
    if (now !== 'frozen') frozen = shown
    const reading: WatchedReading = { at, value: now === 'frozen' ? frozen : shown, state: 'good' }
    for (const change of watch.push(reading)) if (change.raised) raised.push({ kind: change.kind, at })
    if (rule.isKept(reading)) kept.push(reading)
    if (Math.floor((at + pollMs) / DAY_MS) === Math.floor(at / DAY_MS)) continue
    summaries.push(daySummary(kept))
    kept = []
    watch.setUsual(usualOf(summaries.slice(-LEARNED_DAYS), hourOfDay))
  }
  return raised
}

export interface FalseAlarms {
  sensors: number
  sensorDays: number
  /** Where each was raised, by kind. */
  raised: Partial<Record<AlarmKind, string[]>>
}

/** False alarms of sound sensors, an equal number of each noise at each poll interval. */
export function falseAlarms({
  polls,
  days,
  each,
}: {
  polls: readonly number[]
  days: number
  each: number
}): FalseAlarms {
  const raised: FalseAlarms['raised'] = {}
  const sensors = NOISE_NAMES.flatMap((noise) =>
    polls.flatMap((pollMs) => Array.from({ length: each }, (_, n) => ({ noise, pollMs, seed: 100 * n + pollMs }))),
  )
  for (const { noise, pollMs, seed } of sensors)
    for (const { kind, at } of played({ noise, pollMs, days }, seed)) {
      raised[kind] ??= []
      raised[kind].push(`${noise} every ${pollMs / SECOND} s, day ${Math.floor(at / DAY_MS)}`)
    }
  return { sensors: sensors.length, sensorDays: sensors.length * days, raised }
}

/** Hours until a fault is raised that begins on the last day, for each noise and poll interval; infinite where it never is. */
export function detectionHours(name: Fault, { polls, days }: { polls: readonly number[]; days: number }) {
  const from = (days - 1.6) * DAY_MS
  return NOISE_NAMES.flatMap((noise) =>
    polls.map((pollMs) => {
      const raised = played({ noise, pollMs, days, fault: { from, name } }, 7)
      const first = raised.find((r) => r.kind === FAULTS[name] && r.at >= from)
      return { noise, pollMs, hours: first ? (first.at - from) / HOUR : Number.POSITIVE_INFINITY }
    }),
  )
}

const BENCH_POLLS = ALL_POLLS.filter((p) => p >= 2 * SECOND)

/** 208 sensors over 30 days, and how long faults take to be raised. */
export function alarmRows() {
  const { sensors, sensorDays, raised } = falseAlarms({ polls: BENCH_POLLS, days: 30, each: 13 })
  const kinds = Object.entries(raised).map(([kind, all]) => ({ kind, share: (all?.length ?? 0) / sensorDays }))
  return [
    {
      what: `${sensors} sound sensors, 30 days: false alarms a sensor-day`,
      measured: kinds.map(({ kind, share }) => `${kind} ${share.toFixed(4)}`).join(', ') || 'none',
      wanted: 'under 0.01 of each kind',
      ok: kinds.every((k) => k.share < 0.01),
    },
    ...(Object.keys(FAULTS) as Fault[]).map((name) => {
      const hours = detectionHours(name, { polls: BENCH_POLLS, days: 12 }).map((d) => d.hours)
      return {
        what: `  ${name}, hours until it is raised`,
        measured: `median ${median(hours).toFixed(1)}, longest ${Math.max(...hours).toFixed(1)}`,
        wanted: 'within 12',
        ok: Math.max(...hours) < 12,
      }
    }),
  ]
}
