import { expect, it } from 'vitest'
import { DAY_MS } from '../drift/observation.ts'
import { KeepRule } from '../readings/keepRule.ts'
import { randomStream } from '../statistics/random.ts'
import { heavy } from '../testing/heavy.ts'
import type { ReadingAlarm } from './alarmKinds.ts'
import { AlarmWatch } from './alarmWatch.ts'
import { type DaySummary, daySummary, usualOf } from './usual.ts'
import type { WatchedReading } from './watchedReading.ts'

/**
 * Sound sensors with the noise of their kind, at polls from ten a second to one every five minutes: learned from what is
 * kept, watched at every poll. Invented noise; the water's day is a sine.
 */

const [SECOND, MINUTE, HOUR] = [1000, 60_000, 3_600_000]
const STEP = 0.01
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

interface Sound {
  noise: Noise
  pollMs: number
  days: number
  /** From when on it is so many times as noisy; it never is unless given. */
  worse?: { from: number; times: number }
}

/** Every alarm that was raised, with its time. */
function played({ noise, pollMs, days, worse }: Sound, seed: number): { kind: ReadingAlarm; at: number }[] {
  const random = randomStream(seed)
  const { deviation, memoryMs, swing } = NOISES[noise]
  const watch = new AlarmWatch(null, { step: STEP, tolerance: 0.1, hourOfDay })
  const rule = new KeepRule({ step: STEP, everyMs: MINUTE })
  const summaries: DaySummary[] = []
  const raised: { kind: ReadingAlarm; at: number }[] = []
  const memory = memoryMs > 0 ? Math.exp(-pollMs / memoryMs) : 0
  let slow = 0
  let kept: WatchedReading[] = []
  for (let at = 0; at < days * DAY_MS; at += pollMs) {
    slow = memory * slow + Math.sqrt(1 - memory ** 2) * random.normal()
    const isDay = hourOfDay(at) >= 8 && hourOfDay(at) < 20
    const times = (noise === 'daily' && !isDay ? 0.1 : 1) * (worse && at >= worse.from ? worse.times : 1)
    const exact = 8.1 + swing * Math.sin((2 * Math.PI * at) / DAY_MS) + times * deviation * slow
    const reading: WatchedReading = { at, value: Math.round(exact / STEP) * STEP, state: 'good' }
    for (const change of watch.push(reading)) if (change.raised) raised.push({ kind: change.kind, at })
    if (rule.isKept(reading)) kept.push(reading)
    if (Math.floor((at + pollMs) / DAY_MS) === Math.floor(at / DAY_MS)) continue
    summaries.push(daySummary(kept))
    kept = []
    watch.setUsual(usualOf(summaries.slice(-28), hourOfDay))
  }
  return raised
}

const POLLS = heavy([2 * SECOND, MINUTE], [100, 500, 2 * SECOND, 10 * SECOND, MINUTE, 5 * MINUTE])
const DAYS = heavy(8, 30)
const NAMES = Object.keys(NOISES) as Noise[]

it('raises less than 0.01 false alarms of each kind a sensor-day, at any poll interval', () => {
  const wrong = new Map<ReadingAlarm, string[]>()
  let sensorDays = 0
  for (const noise of NAMES)
    for (const pollMs of POLLS)
      for (let n = 0; n < heavy(1, pollMs < 2 * SECOND ? 2 : 12); n++) {
        sensorDays += DAYS
        for (const { kind, at } of played({ noise, pollMs, days: DAYS }, 100 * n + pollMs))
          wrong.set(kind, [
            ...(wrong.get(kind) ?? []),
            `${noise} every ${pollMs / SECOND} s, day ${Math.floor(at / DAY_MS)}`,
          ])
      }
  for (const [kind, all] of wrong) expect(all.length / sensorDays, `${kind}: ${all.join('; ')}`).toBeLessThan(0.01)
}, 3_600_000)

it('raises noise eight times as strong within two hours, at any poll interval', () => {
  const [days, from] = [heavy(5, 10), heavy(4.4, 9.4) * DAY_MS]
  for (const noise of NAMES)
    for (const pollMs of POLLS.filter((p) => p <= MINUTE)) {
      const raised = played({ noise, pollMs, days, worse: { from, times: 8 } }, 7)
      const first = raised.find((r) => r.kind === 'noise')
      expect([noise, pollMs, first && (first.at - from) / HOUR]).toSatisfy(
        ([, , hours]: [Noise, number, number | undefined]) => hours !== undefined && hours >= 0 && hours < 2,
      )
    }
}, 3_600_000)
