import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { plain } from '../../../lab/src/fixtures/plain.ts'
import { nextDate, sensorState } from '../planning/interval.ts'
import { forecastCone } from './cone.ts'
import {
  daysWithinTolerance,
  errorQuantile,
  expectedError,
  FARTHEST_DAYS,
  forecastDrift,
  probabilityBetween,
  probabilityInTolerance,
} from './driftForecast.ts'
import { withNumbersChanged } from './numbersChanged.ts'
import { DAY_MS, type DriftObservation } from './observation.ts'

/** What must hold of any sensor's forecast, whatever its visits were. */

const figure = (min: number, max: number) => fc.double({ min, max, noNaN: true })

/** Visits of any length, spacing and size, adjusted or not, in the order of time. */
const anyVisits: fc.Arbitrary<DriftObservation[]> = fc
  .array(
    fc.record({
      gap: figure(0.02, 400),
      found: fc.option(figure(-2, 2), { nil: null }),
      left: figure(-0.05, 0.05),
      uncertainty: figure(0.002, 0.2),
      adjusted: fc.boolean(),
    }),
    { minLength: 1, maxLength: 14 },
  )
  .map((visits) => {
    let at = 0
    return visits.map(({ gap, found, left, uncertainty, adjusted }) => {
      at += gap * DAY_MS
      return { at, asFound: found, asLeft: adjusted || found === null ? left : found, uncertainty, adjusted }
    })
  })

const runs = { numRuns: 60 }
const RULES = { tolerance: 0.1, reliability: 0.95, floorDays: 3, ceilingDays: 120 }
const AHEAD = [0, 1, 13, 90, 400, FARTHEST_DAYS]

describe('a forecast of any sensor', () => {
  it('is made of numbers, with probabilities from 0 to 1 and quantiles in order', () => {
    fc.assert(
      fc.property(anyVisits, (visits) => {
        const forecast = forecastDrift(visits)
        expect(forecast.from).toBe(visits.at(-1)?.at)
        for (const days of AHEAD) {
          const { mean, sd } = expectedError(forecast, days)
          expect(Number.isFinite(mean) && Number.isFinite(sd)).toBe(true)
          expect(sd).toBeGreaterThan(0)
          const inside = probabilityInTolerance(forecast, days, 0.1)
          expect(inside).toBeGreaterThanOrEqual(0)
          expect(inside).toBeLessThanOrEqual(1)
          const quantiles = [0.025, 0.25, 0.5, 0.75, 0.975].map((p) => errorQuantile(forecast, days, p))
          expect(quantiles.toSorted((a, b) => a - b)).toEqual(quantiles)
        }
      }),
      runs,
    )
  })

  it('is as much upside down as its visits are: no side is favoured', () => {
    fc.assert(
      fc.property(anyVisits, (visits) => {
        const turned = visits.map((v) => ({
          ...v,
          asFound: v.asFound === null ? null : -v.asFound,
          asLeft: -v.asLeft,
        }))
        const [up, down] = [forecastDrift(visits), forecastDrift(turned)]
        expect(down.rate).toBeCloseTo(-up.rate, 9)
        for (const days of AHEAD) {
          const [a, b] = [probabilityInTolerance(up, days, 0.1), probabilityInTolerance(down, days, 0.1)]
          expect(b).toBeCloseTo(a, 6)
          const [low, high] = [errorQuantile(up, days, 0.025), errorQuantile(down, days, 0.975)]
          // A quantile is searched for to a thousandth of the standard deviation, and steps rarer than 1 in 10,000 are
          // left out, which is worth twice that where the tail is thin.
          expect(Math.abs(low + high)).toBeLessThanOrEqual(5e-3 * expectedError(up, days).sd + 1e-9)
        }
      }),
      runs,
    )
  })

  it('does not know what year it is: visits moved in time give the same days', () => {
    fc.assert(
      fc.property(anyVisits, fc.integer({ min: 1, max: 30_000 }), (visits, days) => {
        const later = visits.map((v) => ({ ...v, at: v.at + days * DAY_MS }))
        const within = (of: DriftObservation[]) => daysWithinTolerance(forecastDrift(of), 0.1, 0.95)
        expect(Math.abs(within(later) - within(visits))).toBeLessThanOrEqual(1)
      }),
      runs,
    )
  })

  it('gives more days to a wider tolerance, and fewer to a higher wanted reliability', () => {
    fc.assert(
      fc.property(anyVisits, (visits) => {
        const forecast = forecastDrift(visits)
        const byTolerance = [0.02, 0.05, 0.1, 0.3, 1].map((t) => daysWithinTolerance(forecast, t, 0.95))
        expect(byTolerance.toSorted((a, b) => a - b)).toEqual(byTolerance)
        const byReliability = [0.5, 0.8, 0.9, 0.95, 0.99].map((r) => daysWithinTolerance(forecast, 0.1, r))
        expect(byReliability.toSorted((a, b) => b - a)).toEqual(byReliability)
      }),
      runs,
    )
  })

  it('moves as a whole with numbers that changed: about that shift it is what it was', () => {
    fc.assert(
      fc.property(anyVisits, figure(-3, 3), figure(0.5, 20), (visits, shift, after) => {
        const change = { at: (visits.at(-1)?.at ?? 0) + after * DAY_MS, shift }
        const changed = forecastDrift(withNumbersChanged(visits, [change]))
        const untouched = forecastDrift(visits)
        for (const days of [0, 20, 200]) {
          const inside = probabilityBetween(changed, days, shift - 0.1, shift + 0.1)
          expect(inside).toBeCloseTo(probabilityInTolerance(untouched, days, 0.1), 9)
        }
        const next = nextDate(changed, RULES, visits, [change])
        if (next.limitedBy === 'numbers') expect(next.usualDays).toBe(nextDate(untouched, RULES, visits).days)
        expect(next.days).toBeLessThanOrEqual(Math.max(next.usualDays, after))
        expect(sensorState(changed, RULES, next, change.at + 400 * DAY_MS)).toMatch(/out|overdue/)
      }),
      runs,
    )
  })

  it('is drawn as a cone of which every point is the forecast of its day', () => {
    fc.assert(
      fc.property(anyVisits, figure(2, 300), (visits, days) => {
        const forecast = forecastDrift(visits)
        const cone = forecastCone(forecast, 0.1, forecast.from + days * DAY_MS, 7)
        expect(cone).toHaveLength(8)
        for (const p of cone) {
          const ahead = (p.at - forecast.from) / DAY_MS
          expect(p.probabilityInTolerance).toBeCloseTo(probabilityInTolerance(forecast, ahead, 0.1), 9)
          expect(p.low).toBeLessThanOrEqual(p.lower)
          expect(p.lower).toBeLessThanOrEqual(p.upper)
          expect(p.upper).toBeLessThanOrEqual(p.high)
        }
        expect(cone.at(-1)?.at).toBeCloseTo(forecast.from + days * DAY_MS, -1)
      }),
      runs,
    )
  })

  it('has a next date between floor and ceiling, never past the authority’s rule, and a reason without gaps', () => {
    const rules = fc.record({
      method: fc.constantFrom('drift', 'fixed', 'staircase', 'in-use'),
      tolerance: figure(0.01, 1),
      reliability: figure(0.5, 0.99),
      floorDays: fc.integer({ min: 0, max: 20 }),
      ceilingDays: fc.integer({ min: 21, max: 400 }),
      authorityDays: fc.option(fc.integer({ min: 1, max: 60 }), { nil: null }),
      fixedDays: fc.integer({ min: 1, max: 500 }),
      inUseHours: figure(1, 9000),
      hoursPerDay: figure(0.5, 24),
    })
    fc.assert(
      fc.property(anyVisits, rules, (visits, policy) => {
        const forecast = forecastDrift(visits)
        const next = nextDate(forecast, policy, visits)
        expect(next.at).toBeCloseTo(forecast.from + next.days * DAY_MS, -1)
        expect(next.days).toBeLessThanOrEqual(Math.min(policy.ceilingDays, policy.authorityDays ?? 1e9))
        if (next.limitedBy !== 'authority') expect(next.days).toBeGreaterThanOrEqual(policy.floorDays)
        expect(plain(next.reason)).toMatch(/^[A-Z0-9].*\.$/)
        expect(plain(next.reason)).not.toMatch(/NaN|undefined|null|Infinity|never stays/)
        const words = [0, next.days, 3 * next.days + 400].map((d) =>
          sensorState(forecast, policy, next, forecast.from + d * DAY_MS),
        )
        // Long past its date nothing is holding.
        expect(['out', 'overdue']).toContain(words[2])
      }),
      runs,
    )
  })
})
