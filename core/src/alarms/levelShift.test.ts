import { expect, it } from 'vitest'
import { heavy } from '../../../lab/src/fixtures/heavy.ts'
import { DAY_MS } from '../drift/observation.ts'
import { rollUpOf } from '../readings/rollUp.ts'
import { type RandomStream, randomStream } from '../statistics/random.ts'
import { type DayLevel, dayLevels, LEVEL_DAYS, levelShift } from './levelShift.ts'

/** Levels of days of water, invented; the unit is pH, the tolerance 0.1. */
const TOLERANCE = 0.1

const WATERS = {
  /** Stirred, and always the same. */
  even: (r: RandomStream) => () => 0.01 * r.normal(),
  noisy: (r: RandomStream) => () => 0.06 * r.normal(),
  /** Comes back from what the weather does within a week. */
  weather: (r: RandomStream) => {
    let slow = 0
    return () => {
      slow = 0.85 * slow + 0.05 * r.normal()
      return slow
    }
  },
  /** Dosed once a week, and falling in between. */
  dosed: (r: RandomStream) => (day: number) => -0.04 * (day % 7) + 0.02 * r.normal(),
  /** A part of the water is exchanged every two weeks. */
  exchanged: (r: RandomStream) => {
    let level = 0
    return (day: number) => {
      level = day % 14 === 0 ? 0.15 * r.normal() : 0.93 * level
      return level + 0.015 * r.normal()
    }
  },
  walking: (r: RandomStream) => {
    let level = 0
    return () => {
      level += 0.03 * r.normal()
      return level
    }
  },
  season: (r: RandomStream) => (day: number) => 0.4 * Math.sin((2 * Math.PI * day) / 365) + 0.03 * r.normal(),
} satisfies Record<string, (r: RandomStream) => (day: number) => number>
type Water = keyof typeof WATERS

interface Course {
  water: Water
  days: number
  /** A visit every so many days, after which the sensor is right again. */
  visitEvery: number
  /** Drift in a day, from a day on. */
  drift?: { from: number; perDay: number }
}

/** The days on which it was raised, with what was said. */
function played({ water, days, visitEvery, drift }: Course, seed: number) {
  const random = randomStream(seed)
  const at = WATERS[water](random)
  const levels: DayLevel[] = []
  const raised: { day: number; by: number; since: number }[] = []
  let isRaised = false
  let error = 0
  let visit = 0
  for (let day = 0; day < days; day++) {
    if (day > 0 && day % visitEvery === 0) {
      visit = day
      error = 0
      isRaised = false
    }
    if (drift && day >= drift.from) error += drift.perDay
    levels.push({ day: day * DAY_MS, level: 8.1 + at(day) + error })
    const shift = levelShift(levels.slice(-LEVEL_DAYS), { since: visit * DAY_MS, tolerance: TOLERANCE, isRaised })
    if (shift && !isRaised) raised.push({ day, by: shift.by, since: shift.since / DAY_MS })
    isRaised = shift !== null
  }
  return raised
}

it('raises less than 0.01 false alarms a sensor-day, whatever the water does', () => {
  const sensors = heavy(5, 200)
  const rates = (Object.keys(WATERS) as Water[]).map((water) => {
    let wrong = 0
    for (let seed = 0; seed < sensors; seed++)
      wrong += played({ water, days: 180, visitEvery: [30, 60, 90][seed % 3] as number }, 1000 + seed).length
    return { water, perSensorDay: wrong / (sensors * 180) }
  })
  for (const { water, perSensorDay } of rates) expect([water, perSensorDay]).toSatisfy(() => perSensorDay < 0.01)
})

it('sees a drift of 0.42 pH in three weeks, says by how much and since when', () => {
  let seen = 0
  const sensors = heavy(20, 200)
  for (let seed = 0; seed < sensors; seed++) {
    const [first] = played({ water: 'even', days: 81, visitEvery: 60, drift: { from: 60, perDay: 0.02 } }, 2000 + seed)
    if (!first) continue
    seen++
    expect(first.day).toBeGreaterThan(62)
    expect(Math.abs(first.by)).toBeGreaterThan(TOLERANCE)
    expect(first.since).toBeLessThan(first.day)
  }
  expect(seen / sensors).toBeGreaterThan(0.95)
})

it('sees a drift of 0.02 pH a day in restless water within weeks, of what is known of it before the last visit', () => {
  for (const [water, least, within] of [
    ['noisy', 0.9, 21],
    ['dosed', 0.9, 21],
    ['weather', 0.8, 45],
  ] as const) {
    const sensors = heavy(10, 200)
    const seen = Array.from({ length: sensors }, (_, seed) =>
      played({ water, days: 150, visitEvery: 90, drift: { from: 100, perDay: 0.02 } }, 5000 + seed),
    ).filter((raised) => raised.some((r) => r.day >= 100 && r.day < 100 + within))
    expect([water, seen.length / sensors]).toSatisfy(() => seen.length / sensors >= least)
  }
})

it('says nothing of what it does not know, and starts again with a visit', () => {
  const even = (days: number, level: (day: number) => number): DayLevel[] =>
    Array.from({ length: days }, (_, i) => ({ day: i * DAY_MS, level: level(i) + 0.005 * (i % 2) }))
  const since = { since: 0, tolerance: TOLERANCE }
  expect(levelShift([], since)).toBeNull()
  expect(
    levelShift(
      even(10, (d) => 0.2 * d),
      since,
    ),
  ).toBeNull()
  const stepped = even(40, (d) => (d < 30 ? 8 : 8.4))
  expect(levelShift(stepped, since)?.by).toBeCloseTo(0.4, 1)
  expect(levelShift(stepped, since)?.since).toBe(29 * DAY_MS)
  expect(levelShift(stepped, { ...since, since: 31 * DAY_MS })).toBeNull()
  // Of even water known for long only the tolerance counts: raised above it, it ends at 80 % of it.
  const back = even(120, (d) => (d < 90 ? 8 : 8.09))
  const visited = { ...since, since: 60 * DAY_MS }
  expect(levelShift(back, visited)).toBeNull()
  expect(levelShift(back, { ...visited, isRaised: true })).toMatchObject({ limit: TOLERANCE })
  const well = even(120, (d) => (d < 90 ? 8 : 8.07))
  expect(levelShift(well, { ...visited, isRaised: true })).toBeNull()
})

it('a day needs two thirds of its hours, and each of them counts alike', () => {
  const hour = (at: number, values: number[]) => ({
    at: at * 3_600_000,
    rollUp: rollUpOf(values.map((value) => ({ value, state: 'good' as const }))),
  })
  const full = Array.from({ length: 16 }, (_, h) => hour(h, h === 0 ? [8, 8, 8, 8] : [7]))
  expect(dayLevels([...full, ...full.slice(1).map((h) => ({ ...h, at: h.at + DAY_MS }))])).toEqual([
    { day: 0, level: (8 + 15 * 7) / 16 },
  ])
})
