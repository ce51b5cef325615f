import { describe, expect, it } from 'vitest'
import { nextDate, sensorState } from '../planning/interval.ts'
import { randomStream } from '../statistics/random.ts'
import {
  DAY_MS,
  type DriftObservation,
  daysWithinTolerance,
  forecastDrift,
  probabilityInTolerance,
} from './driftForecast.ts'

const policy = { tolerance: 0.1, reliability: 0.95, floorDays: 7, ceilingDays: 90 }

/** Visits every `every` days at which the error found has grown by `growth` and is set back to zero. */
const steady = (visits: number, every: number, growth: number): DriftObservation[] =>
  Array.from({ length: visits }, (_, i) => ({
    at: i * every * DAY_MS,
    asFound: i === 0 ? null : growth,
    asLeft: 0,
    uncertainty: 0.02,
    adjusted: true,
  }))

describe('forecastDrift', () => {
  it('finds a steady drift back from what each visit undid', () => {
    const forecast = forecastDrift(steady(8, 30, 0.06))
    expect(30 * forecast.rate).toBeCloseTo(0.06, 6)
    // 0.06 a month reaches 0.10 after 50 days; being 95 % sure of it comes earlier.
    const days = daysWithinTolerance(forecast, 0.1, 0.95)
    expect(days).toBeGreaterThan(28)
    expect(days).toBeLessThan(50)
  })

  it('does not count what was left standing as new drift', () => {
    const left = steady(8, 30, 0).map((o) => ({
      ...o,
      asFound: o.asFound === null ? null : 0.04,
      asLeft: 0.04,
      adjusted: false,
    }))
    expect(forecastDrift(left.slice(1)).rate).toBeCloseTo(0, 9)
  })

  it('is not led astray by one wild visit', () => {
    const visits = steady(8, 30, 0.03)
    visits[4] = { ...(visits[4] as DriftObservation), asFound: 0.5 }
    visits[5] = { ...(visits[5] as DriftObservation), asFound: -0.44 }
    expect(30 * forecastDrift(visits).rate).toBeCloseTo(0.03, 1)
  })

  it('forgets what came before an upset', () => {
    const visits = [
      ...steady(6, 30, 0),
      ...steady(5, 30, 0.09).map((o) => ({ ...o, at: o.at + 180 * DAY_MS, asFound: 0.09 })),
    ]
    const changed = 155 * DAY_MS
    expect(30 * forecastDrift(visits, changed).rate).toBeGreaterThan(0.07)
    expect(30 * forecastDrift(visits).rate).toBeLessThan(30 * forecastDrift(visits, changed).rate)
  })

  it('works from one visit with the usual figures, and refuses none or a wrong order', () => {
    expect(forecastDrift(steady(1, 30, 0)).intervals).toBe(0)
    expect(nextDate(forecastDrift(steady(1, 30, 0)), policy).reason).toMatch(/Nothing is known of its drift yet/)
    expect(() => forecastDrift([])).toThrow(/at least one visit/)
    expect(() => forecastDrift(steady(3, 30, 0.01).toReversed())).toThrow(/in order of time/)
  })

  it('holds what it promises: at the proposed day 92 to 99 % of 600 simulated sensors are within tolerance', () => {
    const random = randomStream(77)
    let within = 0
    const sensors = 600
    for (let s = 0; s < sensors; s++) {
      const rate = (0.05 / 30) * random.normal()
      const walk = 0.012 / Math.sqrt(30)
      const grow = (days: number) => rate * days + walk * Math.sqrt(days) * random.normal()
      const visits: DriftObservation[] = steady(9, 30, 0).map((o) => ({
        ...o,
        asFound: o.asFound === null ? null : grow(30) + 0.01 * random.normal(),
      }))
      const forecast = forecastDrift(visits)
      const days = Math.max(1, daysWithinTolerance(forecast, 0.1, 0.95, 365))
      if (Math.abs(grow(days)) <= 0.1) within++
    }
    expect(within / sensors).toBeGreaterThan(0.92)
    expect(within / sensors).toBeLessThan(0.995)
  })
})

describe('nextDate and sensorState', () => {
  const forecast = forecastDrift(steady(8, 30, 0.06))

  it('says which of drift, floor and ceiling set the date', () => {
    expect(nextDate(forecast, policy).limitedBy).toBe('drift')
    expect(nextDate(forecast, { ...policy, ceilingDays: 14 })).toMatchObject({ limitedBy: 'ceiling', days: 14 })
    expect(nextDate(forecast, { ...policy, floorDays: 60 })).toMatchObject({ limitedBy: 'floor', days: 60 })
  })

  it('goes from drifting to due, overdue and out as days pass', () => {
    const next = nextDate(forecast, policy)
    const after = (days: number) => sensorState(forecast, policy, next, forecast.from + days * DAY_MS)
    expect([after(1), after(next.days - 2), after(next.days + 5), after(80)]).toEqual([
      'drifting',
      'due',
      'overdue',
      'out',
    ])
    const calm = forecastDrift(steady(8, 30, 0.001))
    expect(sensorState(calm, policy, nextDate(calm, policy), calm.from + DAY_MS)).toBe('holding')
  })

  it('has a probability that falls from sure to hopeless', () => {
    const p = [0, 20, 40, 60, 120].map((d) => probabilityInTolerance(forecast, d, 0.1))
    expect(p[0]).toBeGreaterThan(0.999)
    expect(p.toSorted((a, b) => b - a)).toEqual(p)
    expect(p[4]).toBeLessThan(0.05)
  })
})
