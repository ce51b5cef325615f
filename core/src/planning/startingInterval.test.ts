import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { plain } from '../../../lab/src/fixtures/plain.ts'
import { forecastDrift } from '../drift/driftForecast.ts'
import { DAY_MS, type DriftObservation } from '../drift/observation.ts'
import { modelOf } from '../kinds/index.ts'
import { render } from '../quantities/render.ts'
import { templateFor } from '../setUp/templates.ts'
import { randomStream } from '../statistics/random.ts'
import { forecastShare, nextDate, sensorState } from './interval.ts'
import { leadingFact } from './leadingFact.ts'

const { usualDrift } = modelOf('ph')
const AQUARIUM = { ...templateFor('ph', 'seawater'), reliability: 0.95 }
const visit = (day: number, asFound: number | null): DriftObservation => ({
  at: day * DAY_MS,
  asFound,
  asLeft: 0,
  uncertainty: 0.02,
  adjusted: true,
})
const next = (past: DriftObservation[], policy: Parameters<typeof nextDate>[1] = AQUARIUM) =>
  nextDate(forecastDrift(past, [], usualDrift), policy, past)

describe('a sensor of which nothing is known yet', () => {
  it('is due by the calendar that it starts with, and is not called out of tolerance on what others do', () => {
    const past = [visit(0, null)]
    const forecast = forecastDrift(past, [], usualDrift)
    const due = next(past)
    expect([due.days, due.limitedBy]).toEqual([90, 'calendar'])
    expect(plain(render(due.reason))).toBe(
      'Nothing is known of its own drift yet: the usual 90 days of the calendar hold.',
    )
    const day = (n: number) => sensorState(forecast, AQUARIUM, due, n * DAY_MS)
    expect([day(1), day(60), day(89), day(100)]).toEqual(['holding', 'holding', 'due', 'overdue'])
    expect(leadingFact(forecast, AQUARIUM, due, { cause: null, end: null })).toBeNull()
    // The same without a calendar is sent out on what sensors like it do.
    expect(next(past, { ...AQUARIUM, startingDays: null }).days).toBeLessThan(30)
  })

  it('follows its own drift the more, the more of it is seen, and alone once it was found out', () => {
    const shares = [0, 1, 2, 6, 18].map((intervals) => forecastShare({ intervals }, AQUARIUM, []))
    expect(shares).toEqual([0, 1 / 3, 0.5, 0.75, 0.9])
    expect(forecastShare({ intervals: 1 }, AQUARIUM, [visit(0, null), visit(30, 0.11)])).toBe(1)
    // Taken on as it was, and found out at its first visit: nobody knows since when.
    expect(forecastShare({ intervals: 0 }, AQUARIUM, [visit(0, 0.3)])).toBe(0)
    expect(next([visit(0, 0.3)]).days).toBe(90)
    expect(forecastShare({ intervals: 0 }, { ...AQUARIUM, method: 'fixed' }, [])).toBe(1)
    const past = [visit(0, null), visit(30, 0.02), visit(60, 0.02)]
    const [mixed, alone] = [next(past), next(past, { ...AQUARIUM, startingDays: null })]
    expect(mixed.days).toBe(Math.round(0.5 * alone.days + 45))
    expect(plain(render(mixed.reason))).toMatch(
      /2 intervals are seen: its own drift counts 50 %, the usual 90 days of the calendar the rest\.$/,
    )
  })

  it('never waits longer than the ceiling or the authority allows, nor comes sooner than the floor', () => {
    const days = fc.integer({ min: 1, max: 400 })
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: 2, max: 60 }), fc.double({ min: -0.3, max: 0.3, noNaN: true })), {
          maxLength: 5,
        }),
        fc.record({ starting: days, floor: days, above: fc.integer({ min: 0, max: 300 }), authority: fc.option(days) }),
        (visits, { starting, floor, above, authority }) => {
          const day = (i: number) => visits.slice(0, i + 1).reduce((sum, [gap]) => sum + gap, 0)
          const past = [visit(0, null), ...visits.map(([, error], i) => visit(day(i), error))]
          const bounds = { floorDays: floor, ceilingDays: floor + above }
          const due = next(past, { ...AQUARIUM, ...bounds, startingDays: starting, authorityDays: authority })
          const most = Math.min(bounds.ceilingDays, authority ?? Number.POSITIVE_INFINITY)
          expect(due.days).toBeLessThanOrEqual(most)
          expect(due.days).toBeGreaterThanOrEqual(Math.min(floor, most))
        },
      ),
      { numRuns: 150 },
    )
  })

  it('a new aquarium probe has at most three visits in its first twelve weeks, unless one found it out', () => {
    const random = randomStream(84)
    for (let probe = 0; probe < 60; probe++) {
      const rate = usualDrift.rateSd * random.normal()
      const past = [visit(0, null)]
      for (let at = next(past).days; at <= 84; at += next(past).days) {
        const since = at - (past.at(-1) as DriftObservation).at / DAY_MS
        past.push(visit(at, rate * since + 0.01 * random.normal()))
      }
      const foundOut = past.some((v) => Math.abs(v.asFound ?? 0) > AQUARIUM.tolerance)
      expect(past.length - 1 <= 3 || foundOut).toBe(true)
    }
  })
})
