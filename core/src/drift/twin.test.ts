import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { heavy } from '../../../lab/src/fixtures/heavy.ts'
import { drawPair } from '../../../lab/src/otherSimulation/fleets.ts'
import { addScores, playPolicy } from '../../../lab/src/simulation/comparePolicies.ts'
import { Z95 } from '../statistics/normalDistribution.ts'
import { randomStream } from '../statistics/random.ts'
import { expectedError, forecastDrift, forecastFrom, probabilityInTolerance } from './driftForecast.ts'
import { DAY_MS, type DriftObservation } from './observation.ts'
import { withTwin } from './twin.ts'

const visits = (growth: number, every = 40): DriftObservation[] =>
  Array.from({ length: 7 }, (_, i) => ({
    at: i * every * DAY_MS,
    asFound: i === 0 ? null : growth * (1 + 0.2 * (i % 3)),
    asLeft: 0,
    uncertainty: 0.02,
    adjusted: true,
  }))

/** One course that goes nowhere but for its walk. */
const still = (variance: number, walk: number) =>
  forecastFrom(
    [
      {
        weight: 1,
        hypothesis: {
          course: 'trend',
          walk,
          spread: 0,
          wander: 0,
          pace: 0,
          stepsPerDay: 0,
          stepVariance: 1,
          turnsPerDay: 0,
          turnVariance: 0,
          prior: 1,
        },
        belief: { error: 0, second: 0, errorVariance: variance, covariance: 0, secondVariance: 0 },
      },
    ],
    0,
    4,
  )

describe('a forecast beside a twin', () => {
  it('is the conditional of a joint normal distribution', () => {
    // E[x | x - y = d] = cov(x, x - y) / var(x - y) d; C. M. Bishop, Pattern Recognition and Machine Learning, 2.3.1.
    const [one, other] = [still(1e-4, 2e-5), still(2e-4, 1e-5)]
    const [v1, v2] = [1e-4 + 30 * 2e-5, 2e-4 + 30 * 1e-5]
    const common = 0.97 * Math.min(v1, v2)
    const spread = v1 + v2 - 2 * common + (0.02 / Z95) ** 2
    const seen = withTwin(one, other, { at: 30 * DAY_MS, difference: 0.03, uncertainty: 0.02 })
    expect(seen.from).toBe(30 * DAY_MS)
    expect(seen.errorAtStart).toBeCloseTo(((v1 - common) / spread) * 0.03, 10)
    expect(seen.sdAtStart ** 2).toBeCloseTo(v1 - (v1 - common) ** 2 / spread, 10)
  })

  it('blames the one whose past makes it likelier, and neither where they agree', () => {
    const [wild, calm] = [forecastDrift(visits(0.08)), forecastDrift(visits(0.002))]
    const at = wild.from + 30 * DAY_MS
    const apart = { at, difference: 0.15, uncertainty: 0.025 }
    const blamed = withTwin(wild, calm, apart)
    const cleared = withTwin(calm, wild, { ...apart, difference: -0.15 })
    expect(blamed.errorAtStart).toBeGreaterThan(0.12)
    expect(Math.abs(cleared.errorAtStart)).toBeLessThan(0.03)
    const agreed = withTwin(calm, calm, { ...apart, difference: 0 })
    expect(probabilityInTolerance(agreed, 0, 0.1)).toBeGreaterThanOrEqual(probabilityInTolerance(calm, 30, 0.1))
  })

  it('stays in doubt of both where nothing tells which of two alike it was', () => {
    const calm = forecastDrift(visits(0.002))
    const seen = withTwin(calm, calm, { at: calm.from + 30 * DAY_MS, difference: 0.4, uncertainty: 0.025 })
    const inside = probabilityInTolerance(seen, 0, 0.1)
    expect(inside).toBeGreaterThan(0.3)
    expect(inside).toBeLessThan(0.7)
  })

  it('is made of numbers for any difference, and turned over as the difference is', () => {
    const [one, other] = [forecastDrift(visits(0.03)), forecastDrift(visits(-0.05))]
    const [down, up] = [forecastDrift(visits(-0.03)), forecastDrift(visits(0.05))]
    fc.assert(
      fc.property(
        fc.double({ min: -1e4, max: 1e4, noNaN: true }),
        fc.double({ min: 0, max: 500, noNaN: true }),
        (d, days) => {
          const at = one.from + days * DAY_MS
          const seen = withTwin(one, other, { at, difference: d, uncertainty: 0.03 })
          const turned = withTwin(down, up, { at, difference: -d, uncertainty: 0.03 })
          for (const ahead of [0, 40]) {
            const { mean, sd } = expectedError(seen, ahead)
            expect(Number.isFinite(mean) && sd > 0).toBe(true)
            expect(expectedError(turned, ahead).mean).toBeCloseTo(-mean, 6)
          }
        },
      ),
      { numRuns: 60 },
    )
  })

  it('refuses a difference from before a visit', () => {
    const one = forecastDrift(visits(0.02))
    const other = forecastDrift(visits(0.02, 30))
    expect(() => withTwin(one, other, { at: other.from, difference: 0, uncertainty: 0.03 })).toThrow(/last visits/)
  })

  it('saves days out of tolerance where twins drift apart, at equal visits', () => {
    const random = randomStream(31)
    const sites = Array.from({ length: heavy(1, 6) }, () =>
      (['heavy steps', 'wearing out suddenly', 'calm'] as const).flatMap((sort) =>
        drawPair(sort, 900, 0, random.fork()),
      ),
    )
    const play = (beside: boolean) => {
      const own = randomStream(4)
      const look = { twinOf: (i: number) => i ^ 1, everyDays: 7, sd: 0.012, uncertainty: 0.025 }
      return addScores(
        sites.flatMap((s) => playPolicy('drift', s, own.fork(), beside ? { beside: look, reliability: 0.92 } : {})),
      )
    }
    const [alone, beside] = [play(false), play(true)]
    expect(beside.daysOut).toBeLessThan(0.8 * alone.daysOut)
    expect(beside.visits).toBeLessThanOrEqual(1.05 * alone.visits)
  })
})
