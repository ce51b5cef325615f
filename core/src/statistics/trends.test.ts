import fc from 'fast-check'
import { TheilSenRegression } from 'ml-regression-theil-sen'
import { describe, expect, it } from 'vitest'
import { changePoints } from './changePoints.ts'
import { choleskyFactor, dot } from './cholesky.ts'
import { controlLimits } from './controlLimits.ts'
import { leastSquares } from './leastSquares.ts'
import { randomStream } from './random.ts'
import { SlopeSelection } from './slopeSelection.ts'
import { solveSymmetric } from './solveSymmetric.ts'
import { theilSen } from './theilSen.ts'

describe('Theil-Sen without forming all pairs', () => {
  const brute = (x: number[], y: number[]) => {
    const slopes: number[] = []
    for (let i = 0; i < x.length; i++) {
      for (let j = i + 1; j < x.length; j++) {
        const dx = (x[j] as number) - (x[i] as number)
        if (dx !== 0) slopes.push(((y[j] as number) - (y[i] as number)) / dx)
      }
    }
    return slopes.sort((a, b) => a - b)
  }

  it('selects the very slope that sorting them all gives, on grids and with repeated times too', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 1000 }),
        fc.integer({ min: 3, max: 90 }),
        fc.constantFrom(1, 3),
        fc.boolean(),
        (seed, n, repeats, onGrid) => {
          const random = randomStream(seed)
          const x = Array.from({ length: n }, (_, i) => Math.floor(i / repeats) + (onGrid ? 0 : 0.3 * random.uniform()))
          const y = x.map((v) => (onGrid ? Math.round(0.3 * v + 2 * random.normal()) : 0.3 * v + random.normal()))
          const sorted = brute(x, y)
          const selection = new SlopeSelection(x, y)
          expect(selection.count).toBe(sorted.length)
          if (sorted.length === 0) return
          for (const share of [0, 0.2, 0.5, 0.77, 1]) {
            const k = Math.round(share * (sorted.length - 1))
            expect(Math.abs(selection.select(k) - (sorted[k] as number))).toBeLessThan(1e-9)
          }
        },
      ),
      { numRuns: 60 },
    )
  })

  it('has the slope of the reference library on 900 points', () => {
    const random = randomStream(12)
    const x = Array.from({ length: 902 }, (_, i) => i + random.uniform())
    const y = x.map((v) => 0.02 * v + 4 * random.normal())
    // 902 points make an odd number of pairs, so that no convention for an even median enters.
    expect(theilSen(x, y).slope).toBeCloseTo(new TheilSenRegression(x, y).slope, 10)
  })

  it('refuses what is no number', () => {
    expect(() => theilSen([1, 2, Number.NaN], [1, 2, 3])).toThrow(/numbers/)
  })
})

describe('changePoints', () => {
  const times = Array.from({ length: 40 }, (_, i) => 30 * i)

  it('leaves a straight series whole, in 95 of 100 seeded sets', () => {
    const random = randomStream(5)
    let whole = 0
    for (let i = 0; i < 100; i++) {
      if (
        changePoints(
          times,
          times.map((t) => 0.02 * t + random.normal()),
          1,
        ).length === 1
      )
        whole++
    }
    expect(whole).toBeGreaterThanOrEqual(95)
  })

  it('finds where it begins to fall, and where it jumps, to within two visits', () => {
    const random = randomStream(6)
    for (let i = 0; i < 30; i++) {
      const bent = times.map((_, k) => (k < 20 ? 0 : -2 * (k - 19)) + 0.7 * random.normal())
      const jumped = times.map((_, k) => (k < 15 ? 0 : 9) + 0.7 * random.normal())
      const [, second] = changePoints(times, bent, 0.7)
      expect(Math.abs((second?.start ?? 0) - 20)).toBeLessThanOrEqual(2)
      expect(changePoints(times, jumped)[1]?.start).toBe(15)
    }
  })

  it('is the cheapest cut: no other single cut of the series costs less', () => {
    const random = randomStream(8)
    const values = times.map((_, k) => (k < 22 ? 0.1 * k : 6) + random.normal())
    const cost = (cuts: number[]) => {
      const bounds = [0, ...cuts, values.length]
      return bounds.slice(1).reduce(
        (sum, end, i) => {
          const [x, y] = [times.slice(bounds[i], end), values.slice(bounds[i], end)]
          const line = leastSquares(x, y)
          return sum + y.reduce((s, v, k) => s + (v - line.intercept - line.slope * (x[k] as number)) ** 2, 0)
        },
        3 * Math.log(40) * cuts.length,
      )
    }
    const own = changePoints(times, values, 1)
      .slice(1)
      .map((s) => s.start)
    for (let c = 3; c <= 37; c++) expect(cost(own)).toBeLessThanOrEqual(cost([c]) + 1e-6)
  })

  it('has one stretch for few points, none for none, and refuses times that do not rise', () => {
    expect(changePoints([1, 2, 3], [1, 2, 9])).toHaveLength(1)
    expect(changePoints([], [])).toEqual([])
    expect(() => changePoints([1, 1], [1, 2])).toThrow(/rise/)
  })
})

describe('controlLimits', () => {
  it('are mean and 2.66 times the mean moving range, worked by hand', () => {
    // Values 10 12 11 13 9: mean 11, ranges 2 1 2 4, mean 2.25, limits 11 +- 5.985.
    expect(controlLimits([10, 12, 11, 13, 9])).toMatchObject({
      centre: 11,
      low: 11 - 5.985,
      high: 11 + 5.985,
      beyond: [],
    })
    // And with 40: mean 15.83, mean range 8, so the upper limit is 37.1.
    expect(controlLimits([10, 12, 11, 13, 9, 40])?.beyond).toEqual([5])
    expect(controlLimits([10, 11, 10, 11, 10, 11, 10, 11, 10, 11, 10, 30])?.beyond).toEqual([11])
    expect(controlLimits([1, 2, 3, 4])).toBeNull()
  })
})

describe('choleskyFactor', () => {
  it('gives the determinant, and makes what it whitens as likely as the matrix says', () => {
    const factor = choleskyFactor([
      [4, 2, 0.6],
      [2, 3, 0.4],
      [0.6, 0.4, 1],
    ])
    // By cofactors: 4 (3 - 0.16) - 2 (2 - 0.24) + 0.6 (0.8 - 1.8) = 7.24.
    expect(Math.exp(factor.logDeterminant)).toBeCloseTo(7.24, 10)
    const b = Float64Array.of(1, -2, 0.5)
    const [white, x] = [factor.whitened(b), factor.solved(b)]
    expect(dot(white, white)).toBeCloseTo(dot(b, x), 10)
    expect(4 * (x[0] ?? 0) + 2 * (x[1] ?? 0) + 0.6 * (x[2] ?? 0)).toBeCloseTo(1, 10)
  })
})

describe('solveSymmetric', () => {
  it('solves, inverts, and refuses what has no single solution', () => {
    const { x, covariance } = solveSymmetric(
      [
        [4, 2],
        [2, 3],
      ],
      [10, 9],
    )
    expect(x[0]).toBeCloseTo(1.5, 12)
    expect(x[1]).toBeCloseTo(2, 12)
    expect(covariance[0]?.[0]).toBeCloseTo(3 / 8, 12)
    expect(covariance[0]?.[1]).toBeCloseTo(-2 / 8, 12)
    expect(() =>
      solveSymmetric(
        [
          [1, 1],
          [1, 1],
        ],
        [1, 2],
      ),
    ).toThrow(/no single solution/)
  })
})
