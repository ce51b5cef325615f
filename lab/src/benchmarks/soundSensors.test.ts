import { expect, it } from 'vitest'
import { heavy } from '../fixtures/heavy.ts'
import { ALL_POLLS, detectionHours, FAULTS, type Fault, falseAlarms } from './soundSensors.ts'

const [SECOND, MINUTE] = [1000, 60_000]
const SLOW = ALL_POLLS.filter((p) => p >= 2 * SECOND)
const FAST = ALL_POLLS.filter((p) => p < 2 * SECOND)

it('raises less than 0.01 false alarms of each kind a sensor-day, at any poll interval', () => {
  const runs = heavy(
    [{ polls: [2 * SECOND, MINUTE], days: 8, each: 1 }],
    [
      { polls: FAST, days: 30, each: 2 },
      { polls: SLOW, days: 30, each: 12 },
    ],
  ).map(falseAlarms)
  const sensorDays = runs.reduce((sum, r) => sum + r.sensorDays, 0)
  for (const kind of new Set(runs.flatMap((r) => Object.keys(r.raised)))) {
    const all = runs.flatMap((r) => r.raised[kind as keyof typeof r.raised] ?? [])
    expect(all.length / sensorDays, `${kind}: ${all.join('; ')}`).toBeLessThan(0.01)
  }
}, 3_600_000)

/** Hours within which a fault is raised, and at one reading every five minutes. */
const WITHIN: Readonly<Record<Fault, readonly [number, number]>> = {
  'noise times eight': [2, 12],
  frozen: [6, 8],
  'one unit higher': [4, 4],
}

it.each(Object.keys(FAULTS) as Fault[])(
  'raises %s within the stated hours, at any poll interval',
  (name) => {
    const polls = heavy([2 * SECOND, MINUTE, 5 * MINUTE], ALL_POLLS)
    for (const { noise, pollMs, hours } of detectionHours(name, { polls, days: heavy(8, 12) })) {
      expect(hours, `${noise} every ${pollMs / SECOND} s`).toBeGreaterThanOrEqual(0)
      expect(hours, `${noise} every ${pollMs / SECOND} s`).toBeLessThan(WITHIN[name][pollMs > MINUTE ? 1 : 0])
    }
  },
  3_600_000,
)
