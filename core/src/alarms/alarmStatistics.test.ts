import { expect, it } from 'vitest'
import { alarmStatistics } from './alarmStatistics.ts'

const MINUTE = 60_000
const DAY = 1440 * MINUTE
const START = Date.UTC(2026, 2, 1)
const high = (position: string, minute: number, lasts: number | null = 5) => ({
  kind: 'high' as const,
  position,
  subject: null,
  raisedAt: START + minute * MINUTE,
  returnedAt: lasts === null ? null : START + (minute + lasts) * MINUTE,
})
const period = { from: START, to: START + 2 * DAY }

it('counts per day, the peak in ten minutes, stale alarms and the most frequent', () => {
  const alarms = [
    // Raised before the period, and active in it for long: stale, and not counted.
    high('C', -100, 2000),
    high('A', 0),
    high('B', 30),
    high('A', 31),
    high('A', 39.9),
    // Ten minutes after the first of three: a new interval.
    high('A', 40),
    high('B', 2000, null),
  ]
  expect(alarmStatistics(alarms, period)).toEqual({
    count: 6,
    perDay: 3,
    peak: { count: 3, at: START + 30 * MINUTE },
    stale: 1,
    top: [
      { kind: 'high', name: 'High', isOfPair: false, position: 'A', subject: null, count: 4, share: 4 / 6 },
      { kind: 'high', name: 'High', isOfPair: false, position: 'B', subject: null, count: 2, share: 2 / 6 },
    ],
  })
  // Active to the end of a longer period, the last one is stale as well.
  expect(alarmStatistics(alarms, { from: START, to: START + 3 * DAY }).stale).toBe(2)
})

it('has no figures of nothing, and lists ten', () => {
  expect(alarmStatistics([], period)).toEqual({ count: 0, perDay: 0, peak: null, stale: 0, top: [] })
  expect(alarmStatistics([high('A', 0)], { from: START, to: START }).perDay).toBe(0)
  const many = Array.from({ length: 30 }, (_, i) => high(`S${i % 15}`, 100 * i))
  expect(alarmStatistics(many, period).top).toHaveLength(10)
})
