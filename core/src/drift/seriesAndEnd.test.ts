import { describe, expect, it } from 'vitest'
import { plain } from '../../../lab/src/fixtures/plain.ts'
import { firstDayBelow, LIFE_SORTS, type LifeSort, simulateLife } from '../../../lab/src/otherSimulation/lives.ts'
import { staircaseInterval } from '../planning/staircase.ts'
import { randomStream } from '../statistics/random.ts'
import { daysWithinTolerance, forecastDrift, probabilityInTolerance } from './driftForecast.ts'
import { endOfLife, firstEnd, fromNow, orderBy } from './endOfLife.ts'
import { withNumbersChanged } from './numbersChanged.ts'
import { DAY_MS } from './observation.ts'
import { driftSeries, type RecordedVisit } from './series.ts'

const visit = (id: string, day: number, over: Partial<RecordedVisit> = {}): RecordedVisit => ({
  id,
  at: day * DAY_MS,
  asFound: 0.02,
  asLeft: 0,
  uncertainty: 0.02,
  adjusted: true,
  ...over,
})
const bounds = { installedAt: 0, now: 400 * DAY_MS }

describe('driftSeries', () => {
  it('puts visits recorded out of order into the order of time', () => {
    const { observations, setAside } = driftSeries([visit('b', 60), visit('a', 0), visit('c', 30)], bounds)
    expect(observations.map((o) => o.at / DAY_MS)).toEqual([0, 30, 60])
    expect(setAside).toEqual([])
  })

  it('keeps of two visits at one instant the one recorded later, and says so', () => {
    const { observations, setAside } = driftSeries(
      [visit('a', 0), visit('b', 30), visit('c', 30, { asFound: 0.5 })],
      bounds,
    )
    expect(observations.map((o) => o.asFound)).toEqual([0.02, 0.5])
    expect(setAside).toMatchObject([{ id: 'b', why: 'same instant' }])
  })

  it.each([
    ['a clock set ahead', visit('x', 500), 'in the future'],
    ['a time before the sensor was there', visit('x', -40), 'before installation'],
    ['an error that is no number', visit('x', 50, { asLeft: Number.NaN }), 'no number'],
    ['a visit excluded by hand', visit('x', 50, { excluded: 'wrong beaker' }), 'excluded'],
  ])('sets %s aside, visibly', (_, odd, why) => {
    const { observations, setAside } = driftSeries([visit('a', 0), odd, visit('b', 90)], bounds)
    expect(observations).toHaveLength(2)
    expect(setAside).toMatchObject([{ id: 'x', why }])
    expect(setAside[0]?.sentence.length).toBeGreaterThan(10)
  })
})

describe('staircaseInterval', () => {
  it('climbs and falls as worked by hand', () => {
    // 30 -> pass 45 -> pass 68 (67.5) -> fail 34 -> pass 51 -> fail 26 (25.5), between 7 and 60 days.
    const rule = { floorDays: 7, ceilingDays: 60 }
    expect(staircaseInterval(30, true, rule)).toBe(45)
    expect(staircaseInterval(45, true, rule)).toBe(60)
    expect(staircaseInterval(68, false, rule)).toBe(34)
    expect(staircaseInterval(34, true, rule)).toBe(51)
    expect(staircaseInterval(51, false, rule)).toBe(26)
    expect(staircaseInterval(10, false, rule)).toBe(7)
    expect(() => staircaseInterval(0, true, rule)).toThrow(/Interval/)
  })
})

describe('endOfLife', () => {
  const slope = (points: { at: number; value: number }[]) => ({
    name: 'slope',
    unit: '%',
    decimals: 1,
    limit: 85,
    dies: 'below' as const,
    fresh: 99,
    readSd: 0.4,
    points,
  })
  const monthly = (values: number[]) => values.map((value, i) => ({ at: 30 * i * DAY_MS, value }))

  it('carries a clean trend on to the limit', () => {
    // 97 % and half a point a month: 94 % at the last visit, 18 months before 85 %.
    const end = endOfLife(slope(monthly([97, 96.5, 96, 95.5, 95, 94.5, 94])))
    expect(Math.abs((end.at as number) / DAY_MS - (180 + 540))).toBeLessThan(0.05 * 540)
    // Seven visits in half a year do not tell the day, three times as far ahead.
    expect((end.earliest as number) / DAY_MS).toBeLessThan(180 + 0.8 * 540)
    expect(end.latest).toBeNull()
    expect(plain(end.reason)).toBe('Its slope is 94.0 % and moves -0.5 % a month; the limit is 85.0 %.')
  })

  it('holds its 95 % interval in at least 93 % of 400 seeded sensors', () => {
    const random = randomStream(3)
    let held = 0
    for (let i = 0; i < 400; i++) {
      const perMonth = -0.6
      const points = monthly(Array.from({ length: 14 }, (_, m) => 97 + perMonth * m + 0.4 * random.normal()))
      const truth = ((85 - 97) / perMonth) * 30
      const end = endOfLife(slope(points))
      const after = end.earliest === null || end.earliest / DAY_MS <= truth
      if (after && (end.latest === null || end.latest / DAY_MS >= truth)) held++
    }
    expect(held / 400).toBeGreaterThan(0.93)
  })

  it('holds its 95 % interval in 93 to 98 % of lives of another simulation', () => {
    const random = randomStream(11)
    let [stated, held] = [0, 0]
    for (let i = 0; i < 500; i++) {
      const life = simulateLife(LIFE_SORTS[i % LIFE_SORTS.length] as LifeSort, random.fork())
      const last = firstDayBelow(life, 85) ?? Number.POSITIVE_INFINITY
      const before = life.readings.filter((r) => r.day < last).length
      if (before < 3) continue
      const seen = life.readings.slice(0, 3 + Math.floor(random.uniform() * (before - 2)))
      const end = endOfLife(slope(seen.map((r) => ({ at: r.day * DAY_MS, value: r.value }))))
      if ((end.latest === end.at && end.at !== null) || (end.earliest === null && end.latest === null)) continue
      stated++
      if (last * DAY_MS >= (end.earliest ?? 0) && last * DAY_MS <= (end.latest ?? Number.POSITIVE_INFINITY)) held++
    }
    expect(stated).toBeGreaterThan(450)
    expect(held / stated).toBeGreaterThan(0.93)
    expect(held / stated).toBeLessThan(0.98)
  })

  it('is not sure of a day months ahead after three visits', () => {
    const end = endOfLife(slope(monthly([95, 94, 93.1])))
    expect(((end.at ?? Number.POSITIVE_INFINITY) - (end.earliest as number)) / DAY_MS).toBeGreaterThan(60)
    expect(end.latest).toBeNull()
  })

  it('knows from an upset on how it goes now, where the upset is known', () => {
    // Nothing for a year, then 2 % a month: 93 % at the last visit, and 85 % four months later.
    const points = monthly([...Array.from({ length: 12 }, (_, i) => 99 - 0.05 * (i % 2)), 97, 95, 93])
    const last = (points.at(-1) as { at: number }).at
    const told = endOfLife({ ...slope(points), changedAt: [11.5 * 30 * DAY_MS] })
    const untold = endOfLife(slope(points))
    expect(Math.abs((told.at as number) - last) / DAY_MS).toBeLessThan(200)
    expect(told.at as number).toBeLessThan(untold.at ?? Number.POSITIVE_INFINITY)
    expect((told.earliest as number) - last).toBeLessThan(120 * DAY_MS)
  })

  it('goes by ratios where it is told to, and takes in how well the limit itself is known', () => {
    const doubling = {
      ...slope([]),
      name: 'settling time',
      unit: 's',
      limit: 80,
      dies: 'above' as const,
      fresh: 20,
      readSd: 2,
      byRatio: true as const,
      // Twice as long after every 200 days: 40 s now, 80 s in another 200.
      points: Array.from({ length: 9 }, (_, i) => ({ at: 25 * i * DAY_MS, value: 20 * 2 ** (i / 8) })),
    }
    const end = endOfLife(doubling)
    expect(Math.abs((end.at as number) / DAY_MS - 400)).toBeLessThan(40)
    const vague = endOfLife({ ...doubling, limitSd: 20 })
    expect(vague.earliest as number).toBeLessThan(end.earliest as number)
    // A time of zero was never measured.
    const withZero = { ...doubling, points: [{ at: -DAY_MS, value: 0 }, ...doubling.points] }
    expect(endOfLife(withZero)).toEqual(end)
  })

  it('never says never: beyond the data, or with too few, it says so', () => {
    const calm = endOfLife(slope(monthly([97, 97.1, 96.9, 97, 97.05, 97])))
    expect(calm.at).toBeNull()
    expect(plain(calm.reason)).toMatch(/No end in sight from these visits/)
    expect(plain(endOfLife(slope(monthly([97, 96]))).reason)).toMatch(/Too few visits/)
    const gone = endOfLife(slope(monthly([86, 85, 84, 83])))
    expect(gone.at).toBe(90 * DAY_MS)
    expect(fromNow(gone, 99 * DAY_MS)).toMatchObject({ at: 99 * DAY_MS, latest: 99 * DAY_MS })
  })

  it('orders a spare its lead time before the earliest likely end, never in the past', () => {
    const end = endOfLife(slope(monthly([97, 96.5, 96, 95.5, 95, 94.5, 94])))
    const by = orderBy(end, 30, 180 * DAY_MS) as number
    expect(by).toBe((end.earliest as number) - 30 * DAY_MS)
    expect(orderBy(end, 900, 180 * DAY_MS)).toBe(180 * DAY_MS)
    expect(orderBy({ ...end, at: null }, 30, 0)).toBeNull()
  })

  it('names the first of several, one with a date before one without, and a cause that nothing mends before all', () => {
    const dated = endOfLife(slope(monthly([97, 96.5, 96, 95.5, 95, 94.5, 94])))
    const undated = { ...dated, at: null, earliest: 190 * DAY_MS }
    expect(firstEnd([endOfLife(slope([])), undated, dated], null, 0)).toBe(dated)
    expect(firstEnd([undated], null, 0)).toBe(undated)
    expect(firstEnd([], null, 0)).toBeNull()
    const cracked = { name: 'glass cracked', probability: 0.82, final: true }
    const end = firstEnd([dated], cracked, 7)
    expect(end).toMatchObject({ at: 7, byCause: true })
    expect(plain(end?.reason ?? '')).toBe('Likely glass cracked (82 % sure): nothing done at a visit brings it back.')
    expect(firstEnd([dated], { ...cracked, final: false }, 7)).toBe(dated)
  })
})

describe('numbers that a device changed by itself', () => {
  const visit = (day: number, asFound: number | null, asLeft: number) => ({
    at: day * DAY_MS,
    asFound,
    asLeft,
    uncertainty: 0.01,
    adjusted: asFound !== asLeft,
  })
  const past = [visit(0, null, 0), visit(30, 0.03, 0), visit(60, 0.53, 0)]

  it('are told of to the visit before, so that no drift is made of them', () => {
    const counted = withNumbersChanged(past, [{ at: 40 * DAY_MS, shift: 0.5 }])
    expect(counted.map((v) => [v.asLeft, v.shift])).toEqual([
      [0, undefined],
      [0, 0.5],
      [0, undefined],
    ])
    const honest = forecastDrift(counted)
    const fooled = forecastDrift(past)
    expect(Math.abs(honest.rate * 30 - 0.03)).toBeLessThan(0.01)
    // Taken for a step of its own, it would shorten every interval to come.
    expect(daysWithinTolerance(honest, 0.1, 0.95)).toBeGreaterThan(1.5 * daysWithinTolerance(fooled, 0.1, 0.95))
  })

  it('after the last visit put the sensor out of tolerance now, and given back leave no trace', () => {
    const lost = { at: 70 * DAY_MS, shift: 0.5 }
    expect(probabilityInTolerance(forecastDrift(withNumbersChanged(past, [lost])), 12, 0.1)).toBeLessThan(0.05)
    const back = [lost, { at: 71 * DAY_MS, shift: -0.5 }]
    expect(withNumbersChanged(past, back)).toEqual(past)
  })

  it('before the first visit are measured by it', () => {
    expect(withNumbersChanged(past, [{ at: -DAY_MS, shift: 0.5 }])).toEqual(past)
  })
})
