import { describe, expect, it } from 'vitest'
import { plain } from '../../../lab/src/fixtures/plain.ts'
import { addScores, playPolicy } from '../../../lab/src/simulation/comparePolicies.ts'
import { FLEET_DOZEN, FLEET_GROUPS, simulateCourse } from '../../../lab/src/simulation/driftFleet.ts'
import { nextDate, sensorState } from '../planning/interval.ts'
import { Z95 } from '../statistics/normalDistribution.ts'
import { randomStream } from '../statistics/random.ts'
import { forecastCone } from './cone.ts'
import { beliefUnder } from './driftFilter.ts'
import {
  daysWithinTolerance,
  errorQuantile,
  expectedError,
  filterHistory,
  forecastDrift,
  forecastOfReading,
  forecastSite,
  probabilityBetween,
  probabilityInTolerance,
} from './driftForecast.ts'
import { type DriftHypothesis, driftHypotheses } from './hypothesis.ts'
import { withNumbersChanged } from './numbersChanged.ts'
import { DAY_MS, type DriftObservation } from './observation.ts'

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

const PLAIN: DriftHypothesis = {
  course: 'trend',
  walk: 1e-5,
  spread: 0.002,
  wander: 0,
  pace: 0,
  stepsPerDay: 0,
  stepVariance: 0.01,
  turnsPerDay: 0,
  turnVariance: 0,
  prior: 1,
}

describe('the filter under one hypothesis', () => {
  it('is Bayes’ rule for g ~ N(b dt, q dt + v): the normal-normal posterior in closed form', () => {
    // A. Gelman et al., Bayesian Data Analysis, 3rd ed., section 2.5 (precision-weighted mean), from memory.
    const growths = [0.05, 0.02, 0.06, 0.03]
    const spans = [20, 35, 28, 41]
    let at = 0
    const observations: DriftObservation[] = [{ at, asFound: null, asLeft: 0, uncertainty: 0.02, adjusted: true }]
    growths.forEach((growth, i) => {
      at += (spans[i] as number) * DAY_MS
      observations.push({ at, asFound: growth, asLeft: 0, uncertainty: 0.02, adjusted: true })
    })
    const v = 2 * (0.02 / Z95) ** 2
    let [precision, weighted] = [1 / PLAIN.spread ** 2, 0]
    growths.forEach((g, i) => {
      const dt = spans[i] as number
      precision += dt ** 2 / (PLAIN.walk * dt + v)
      weighted += (g * dt) / (PLAIN.walk * dt + v)
    })
    const belief = beliefUnder(filterHistory([PLAIN], { observations }), 0)
    // A hundredth of each reading is taken for a possible misreading, which moves it by as little.
    expect(Math.abs(belief.second / (weighted / precision) - 1)).toBeLessThan(0.02)
    expect(Math.abs(belief.secondVariance * precision - 1)).toBeLessThan(0.04)
  })

  it('carries a reverting error back to its level, and an adjustment shifts the level too', () => {
    const reverting: DriftHypothesis = { ...PLAIN, course: 'reverting', walk: 3e-4, pace: 0.05, spread: 0.1 }
    const at = (day: number, asFound: number | null, asLeft: number, adjusted: boolean): DriftObservation => ({
      at: day * DAY_MS,
      asFound,
      asLeft,
      uncertainty: 0.002,
      adjusted,
    })
    // Rests at 0 for a year, strays to 0.08 by chance, and is adjusted there.
    const observations = [
      ...Array.from({ length: 12 }, (_, i) => at(30 * i, i ? 0 : null, 0, i === 0)),
      at(345, 0.08, 0, true),
    ]
    const { error, second } = beliefUnder(filterHistory([reverting], { observations }), 0)
    expect(error).toBe(0)
    expect(second).toBeLessThan(-0.06)
  })
})

describe('forecastDrift', () => {
  it('finds a steady drift back from what each visit undid', () => {
    const forecast = forecastDrift(steady(10, 30, 0.06))
    expect(30 * forecast.rate).toBeCloseTo(0.06, 2)
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
    expect(30 * forecastDrift(left.slice(1)).rate).toBeCloseTo(0, 3)
  })

  it('is not led astray by one wild visit', () => {
    const visits = steady(9, 30, 0.03)
    visits[4] = { ...(visits[4] as DriftObservation), asFound: 0.5 }
    visits[5] = { ...(visits[5] as DriftObservation), asFound: -0.44 }
    expect(Math.abs(30 * forecastDrift(visits).rate - 0.03)).toBeLessThan(0.02)
  })

  it('forgets what came before an upset', () => {
    const visits = [
      ...steady(6, 30, 0),
      ...steady(4, 30, 0.09).map((o) => ({ ...o, at: o.at + 180 * DAY_MS, asFound: 0.09 })),
    ]
    const told = forecastDrift(visits, 155 * DAY_MS)
    expect(30 * told.rate).toBeGreaterThan(0.07)
    expect(forecastDrift(visits, []).rate).toBeLessThan(told.rate)
  })

  it('lets recent intervals weigh more: a sensor that has begun to run away is caught', () => {
    const visits = steady(16, 30, 0.005).map((o, i) => (i > 12 ? { ...o, asFound: 0.02 * (i - 11) } : o))
    expect(30 * forecastDrift(visits).rate).toBeGreaterThan(0.05)
  })

  it('works from one visit with what is usual, and refuses none or a wrong order', () => {
    const unknown = forecastDrift(steady(1, 30, 0))
    expect(unknown.intervals).toBe(0)
    expect(plain(nextDate(unknown, policy).reason)).toMatch(/Nothing is known of its drift yet/)
    expect(() => forecastDrift([])).toThrow(/at least one visit/)
    expect(() => forecastDrift(steady(3, 30, 0.01).toReversed())).toThrow(/in order of time/)
    const [first] = steady(1, 30, 0) as [DriftObservation]
    expect(() => forecastDrift([first, first])).toThrow(/in order of time/)
  })

  it('refuses a tolerance of zero, and never says never', () => {
    const calm = forecastDrift(steady(20, 30, 0))
    expect(() => daysWithinTolerance(calm, 0, 0.95)).toThrow(/Tolerance/)
    const next = nextDate(calm, { ...policy, tolerance: 50, ceilingDays: 1000 })
    expect(next.beyond).toBe(true)
    expect(plain(next.reason)).toMatch(/In tolerance for \d+ days or more/)
  })

  it('has quantiles that its probabilities agree with, and a share that falls', () => {
    const forecast = forecastDrift(steady(8, 30, 0.06))
    for (const days of [0, 10, 60]) {
      const [low, high] = [errorQuantile(forecast, days, 0.025), errorQuantile(forecast, days, 0.975)]
      const { mean, sd } = expectedError(forecast, days)
      expect(low).toBeLessThan(mean)
      expect(high - low).toBeLessThan(5 * sd)
    }
    const p = [0, 20, 40, 60, 120].map((d) => probabilityInTolerance(forecast, d, 0.1))
    expect(p[0]).toBeGreaterThan(0.999)
    expect(p.toSorted((a, b) => b - a)).toEqual(p)
    expect(p[4]).toBeLessThan(0.05)
  })
})

describe('forecastCone of a device that changed its numbers', () => {
  const forecast = forecastDrift(withNumbersChanged(steady(8, 30, 0.06), [{ at: 220 * DAY_MS, shift: 0.5 }]))
  const change = { at: 220 * DAY_MS, shift: 0.5 }
  const cone = forecastCone(forecast, 0.1, 260 * DAY_MS, 10, [change])

  it('steps at that moment, and not at the visit before', () => {
    const before = cone.findLast((p) => p.at < change.at)
    const after = cone.find((p) => p.at >= change.at)
    expect((after?.mean ?? 0) - (before?.mean ?? 0)).toBeCloseTo(0.5, 6)
    expect(cone[0]?.mean).toBeCloseTo(0, 6)
    expect(before?.probabilityInTolerance).toBeGreaterThan(0.95)
    expect(after?.probabilityInTolerance).toBeLessThan(0.01)
  })

  it('is the cone of an untouched device up to then', () => {
    const untouched = forecastCone(forecastDrift(steady(8, 30, 0.06)), 0.1, 260 * DAY_MS, 10)
    const before = cone.filter((p) => p.at < change.at - 1)
    for (const [i, p] of before.entries()) {
      expect(p.at).toBeCloseTo(untouched[i]?.at ?? 0, -3)
      expect(p.low).toBeCloseTo(untouched[i]?.low ?? 0, 3)
      expect(p.high).toBeCloseTo(untouched[i]?.high ?? 0, 3)
    }
    expect(before.length).toBeGreaterThan(1)
  })
})

describe('forecastCone', () => {
  it('widens from the last visit, follows the drift, and nests its bands', () => {
    const cone = forecastCone(forecastDrift(steady(8, 30, 0.06)), 0.1, 300 * DAY_MS, 12)
    const widths = cone.map((p) => p.high - p.low)
    expect(widths.toSorted((a, b) => a - b)).toEqual(widths)
    expect(cone.at(-1)?.mean).toBeGreaterThan(cone[0]?.mean ?? 0)
    for (const p of cone) {
      expect(p.low).toBeLessThan(p.lower)
      expect(p.lower).toBeLessThan(p.upper)
      expect(p.upper).toBeLessThan(p.high)
    }
  })
})

describe('the prior of a site', () => {
  it('adds up to one before any visit', () => {
    const priors = driftHypotheses({ rateSd: 0.05 / 30, walk: 0.02 ** 2 / 30 }).map((h) => h.prior)
    expect(priors.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 12)
  })

  it('learns from like sensors how long a new one may be left alone', () => {
    const fresh = { observations: steady(1, 30, 0) }
    const calm = Array.from({ length: 12 }, () => ({ observations: steady(10, 60, 0.002) }))
    const wild = Array.from({ length: 12 }, (_, i) => ({ observations: steady(10, 15, i % 2 ? 0.08 : -0.08) }))
    const days = (others: { observations: DriftObservation[] }[]) =>
      daysWithinTolerance(forecastSite([fresh, ...others])[0] as never, 0.1, 0.95)
    const alone = days([])
    expect(days(calm)).toBeGreaterThan(1.5 * alone)
    expect(days(wild)).toBeLessThan(alone)
    expect(days(wild)).toBeLessThan(25)
  })

  it('refuses to pool unlike units', () => {
    const like = { observations: steady(3, 30, 0.01), unit: 'pH' }
    expect(() => forecastSite([like, { ...like, unit: 'mV' }])).toThrow('Errors in pH and mV cannot be pooled')
  })

  it('gives way to the sensor’s own visits', () => {
    const own = { observations: steady(10, 30, 0.06) }
    const calm = Array.from({ length: 12 }, () => ({ observations: steady(10, 60, 0.001) }))
    const [forecast] = forecastSite([own, ...calm])
    expect(30 * (forecast?.rate ?? 0)).toBeGreaterThan(0.05)
  })
})

describe('on 432 simulated sensors over three years', () => {
  const random = randomStream(20)
  const sites = Array.from({ length: 12 }, () =>
    Array.from({ length: 36 }, (_, i) =>
      simulateCourse(FLEET_DOZEN[i % FLEET_DOZEN.length] as (typeof FLEET_DOZEN)[number], 1096, random.fork()),
    ),
  )
  const play = (name: 'monthly' | 'drift') =>
    sites.flatMap((site) => playPolicy(name, site, random.fork()).map((score, i) => ({ score, group: site[i]?.group })))
  const [monthly, drift] = [play('monthly'), play('drift')]
  const total = (of: typeof drift) => addScores(of.map((o) => o.score))

  it('keeps its word: 93 to 97 % are within tolerance at the proposed date, and above 88 % of every group', () => {
    const { visits, inTolerance } = total(drift)
    expect(inTolerance / visits).toBeGreaterThan(0.93)
    expect(inTolerance / visits).toBeLessThan(0.97)
    for (const group of FLEET_GROUPS) {
      const own = total(drift.filter((d) => d.group === group))
      expect(own.inTolerance / own.visits, group).toBeGreaterThan(0.88)
    }
  })

  it('needs at most 60 % of the visits of a monthly plan, with at most 40 % of its days out of tolerance', () => {
    expect(total(drift).visits / total(monthly).visits).toBeLessThan(0.6)
    expect(total(drift).daysOut / total(monthly).daysOut).toBeLessThan(0.4)
  })
})

describe('nextDate and sensorState', () => {
  const visits = steady(8, 30, 0.06)
  const forecast = forecastDrift(visits)

  it('says which of drift, floor, ceiling and authority set the date', () => {
    expect(nextDate(forecast, policy).limitedBy).toBe('drift')
    expect(nextDate(forecast, { ...policy, ceilingDays: 14 })).toMatchObject({ limitedBy: 'ceiling', days: 14 })
    expect(nextDate(forecast, { ...policy, floorDays: 60 })).toMatchObject({ limitedBy: 'floor', days: 60 })
    expect(nextDate(forecast, { ...policy, authorityDays: 10 })).toMatchObject({ limitedBy: 'authority', days: 10 })
    expect(() => nextDate(forecast, { ...policy, floorDays: 100 })).toThrow(/Shortest interval/)
  })

  it('is due from the moment at which the device’s numbers changed, whatever the rules', () => {
    const at = (visits.at(-1) as DriftObservation).at + 4 * DAY_MS
    const after = (shift: number) =>
      nextDate(forecastDrift(withNumbersChanged(visits, [{ at, shift }])), { ...policy, floorDays: 7 }, visits, [
        { at, shift },
      ])
    expect(after(-0.52)).toMatchObject({ at, days: 4, limitedBy: 'numbers' })
    // With its numbers back it goes on as before.
    expect(after(-0.52).usualDays).toBe(nextDate(forecast, { ...policy, floorDays: 7 }).days)
    expect(plain(after(-0.52).reason)).toBe(
      'The calibration in its device changed: it shows 0.52 pH too little. Restore it, or calibrate.',
    )
    // Numbers that came back, on a sensor whose drift has taken it out since: the drift is the reason.
    const late = forecast.from + 70 * DAY_MS
    const back = [
      { at: late, shift: 0.52 },
      { at: late + DAY_MS, shift: -0.52 },
    ]
    expect(nextDate(forecast, policy, visits, back)).toEqual(nextDate(forecast, policy, visits))
    // Too little to matter: the drift goes on setting the date.
    expect(after(0.004).limitedBy).toBe('drift')
  })

  it('counts by calendar, staircase and hours in use', () => {
    expect(nextDate(forecast, { ...policy, method: 'fixed', fixedDays: 28 })).toMatchObject({ days: 28 })
    // By hand, from 30 days: seven passes, each half as long again, held at the ceiling of 90.
    expect(nextDate(forecast, { ...policy, method: 'staircase' }, visits)).toMatchObject({ days: 90 })
    // 30, pass 45, fail 23 (22.5 rounded up), pass 35 (34.5).
    const mixed = [null, 0.05, 0.2, 0.05].map((asFound, i) => ({ ...(visits[i] as DriftObservation), asFound }))
    expect(nextDate(forecastDrift(mixed), { ...policy, method: 'staircase' }, mixed)).toMatchObject({ days: 35 })
    const hours = { ...policy, method: 'in-use', inUseHours: 500, hoursPerDay: 12 } as const
    expect(nextDate(forecast, hours)).toMatchObject({ days: 41, limitedBy: 'in-use' })
    expect(plain(nextDate(forecast, hours).reason)).toBe(
      `500 hours in use are 41 days here. In tolerance for ${daysWithinTolerance(forecast, 0.1, 0.95)} days after a visit (95 % sure).`,
    )
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
})

describe('a reading held against its forecast', () => {
  const at = (day: number, asFound: number): DriftObservation => ({
    at: day * DAY_MS,
    asFound,
    asLeft: 0,
    uncertainty: 0.02,
    adjusted: true,
  })
  const forecast = forecastDrift([at(0, 0), at(40, 0.03), at(75, 0.02), at(120, 0.05)])

  it('has a density that adds up to one, and of which the probability of less is the sum', () => {
    const step = 0.002
    let sum = 0
    for (let value = -3; value < 3; value += step) {
      const { density, below } = forecastOfReading(forecast, 60, { value: value + step / 2, sd: 0.01 })
      sum += density * step
      expect(Math.abs(below - (sum - (density * step) / 2))).toBeLessThan(2e-3)
    }
    expect(sum).toBeCloseTo(1, 3)
  })

  it('lies where the error itself is forecast when it is read without scatter', () => {
    for (const value of [-0.02, 0.03, 0.1]) {
      const { below } = forecastOfReading(forecast, 60, { value, sd: 1e-9 })
      expect(below).toBeCloseTo(probabilityBetween(forecast, 60, Number.NEGATIVE_INFINITY, value), 3)
    }
  })
})
