import { SimpleLinearRegression } from 'ml-regression-simple-linear'
import { TheilSenRegression } from 'ml-regression-theil-sen'
import {
  cumulativeStdNormalProbability,
  linearRegression,
  medianAbsoluteDeviation,
  quantileSorted,
} from 'simple-statistics'
import { describe, expect, it } from 'vitest'
import { bracketedRoot } from './bracketedRoot.ts'
import { leastSquares } from './leastSquares.ts'
import { quantile, scaledMad } from './median.ts'
import { monotoneInterpolation } from './monotoneInterpolation.ts'
import { normalCdf } from './normalDistribution.ts'
import { randomStream } from './random.ts'
import { theilSen } from './theilSen.ts'

// NIST StRD, data set "Norris" (linear regression, lower difficulty): y, x. From memory of the published file.
const NORRIS: [number, number][] = [
  [0.1, 0.2],
  [338.8, 337.4],
  [118.1, 118.2],
  [888.0, 884.6],
  [9.2, 10.1],
  [228.1, 226.5],
  [668.5, 666.3],
  [998.5, 996.3],
  [449.1, 448.6],
  [778.9, 777.0],
  [559.2, 558.2],
  [0.3, 0.4],
  [0.1, 0.6],
  [778.1, 775.5],
  [668.8, 666.9],
  [339.3, 338.0],
  [448.9, 447.5],
  [10.8, 11.6],
  [557.7, 556.0],
  [228.3, 228.1],
  [998.0, 995.8],
  [888.8, 887.6],
  [119.6, 120.2],
  [0.3, 0.3],
  [0.6, 0.3],
  [557.6, 556.8],
  [339.3, 339.1],
  [888.0, 887.2],
  [998.5, 999.0],
  [778.9, 779.0],
  [10.2, 11.1],
  [117.6, 118.3],
  [228.9, 229.2],
  [668.4, 669.1],
  [449.2, 448.9],
  [0.2, 0.5],
]

describe('leastSquares', () => {
  const x = NORRIS.map(([, b]) => b)
  const y = NORRIS.map(([a]) => a)

  it('meets the certified values of NIST StRD Norris', () => {
    const line = leastSquares(x, y)
    expect(line.slope).toBeCloseTo(1.00211681802045, 10)
    expect(line.intercept).toBeCloseTo(-0.262323073774029, 9)
    expect(line.residualSd).toBeCloseTo(0.884796396144373, 9)
    expect(line.slopeSd).toBeCloseTo(0.429796848199937e-3, 10)
    expect(line.interceptSd).toBeCloseTo(0.232818234301152, 9)
  })

  it('agrees with two reference libraries', () => {
    const line = leastSquares(x, y)
    const [ml, simple] = [new SimpleLinearRegression(x, y), linearRegression(x.map((xi, i) => [xi, y[i] as number]))]
    expect(line.slope).toBeCloseTo(ml.slope, 9)
    expect(line.intercept).toBeCloseTo(simple.b, 8)
  })

  it('refuses one point, or two at the same x', () => {
    expect(() => leastSquares([1], [1])).toThrow(RangeError)
    expect(() => leastSquares([1, 1], [1, 2])).toThrow(/two different x/)
  })
})

describe('theilSen', () => {
  const random = randomStream(11)
  const x = Array.from({ length: 42 }, (_, i) => i + random.uniform())
  const y = x.map((xi) => 3 - 0.4 * xi + random.normal())

  it('has the slope of the reference library', () => {
    // 42 points make an odd number of pairs, so that no convention for an even median enters.
    expect(theilSen(x, y).slope).toBeCloseTo(new TheilSenRegression(x, y).slope, 10)
  })

  it('covers the true slope in 93 to 98 % of 1,000 seeded sets', () => {
    let covered = 0
    for (let i = 0; i < 1000; i++) {
      const xs = Array.from({ length: 12 }, (_, k) => k)
      const ys = xs.map((xi) => 0.2 * xi + random.normal())
      const t = theilSen(xs, ys)
      if (t.slopeLow <= 0.2 && t.slopeHigh >= 0.2) covered++
    }
    expect(covered).toBeGreaterThanOrEqual(930)
    expect(covered).toBeLessThanOrEqual(980)
  })

  it('is not moved by a wild quarter of the points', () => {
    const wild = y.map((v, i) => (i % 4 === 0 ? v + 500 : v))
    expect(theilSen(x, wild).slope).toBeCloseTo(-0.4, 0)
  })

  it('refuses points that all lie at one time', () => {
    expect(() => theilSen([2, 2], [1, 5])).toThrow(RangeError)
  })
})

describe('small statistics', () => {
  it('agree with a reference library', () => {
    const values = [5, 1, 4, 4.5, 9, 2]
    const sorted = values.toSorted((a, b) => a - b)
    expect(quantile(values, 0.5)).toBe(quantileSorted(sorted, 0.5))
    expect(scaledMad(values)).toBeCloseTo(1.4826 * medianAbsoluteDeviation(values), 12)
    // The library tabulates to four decimals.
    for (const z of [-2.5, -1, 0, 0.67, 1.96]) expect(normalCdf(z)).toBeCloseTo(cumulativeStdNormalProbability(z), 3)
  })

  it('normalCdf meets the published points 1.959964 and 1.644854', () => {
    expect(normalCdf(1.959964)).toBeCloseTo(0.975, 6)
    expect(normalCdf(-1.644854)).toBeCloseTo(0.05, 6)
  })

  it('interpolation goes through its table and does not overshoot a step', () => {
    const f = monotoneInterpolation([0, 1, 2, 3], [0, 0, 1, 1], 'x', '')
    expect([0, 1, 2, 3].map(f)).toEqual([0, 0, 1, 1])
    for (let s = 0; s <= 3; s += 0.05) {
      expect(f(Math.min(s, 3))).toBeGreaterThanOrEqual(-1e-12)
      expect(f(Math.min(s, 3))).toBeLessThanOrEqual(1 + 1e-12)
    }
  })
})

describe('bracketed root', () => {
  it('finds roots that are known, to the tolerance', () => {
    expect(bracketedRoot((x) => x * x - 2, 0, 2, 1e-12)).toBeCloseTo(Math.SQRT2, 10)
    expect(bracketedRoot(Math.cos, 1, 2, 1e-12)).toBeCloseTo(Math.PI / 2, 10)
    // Steep on one side, flat on the other: where plain false position hardly moves.
    expect(bracketedRoot((x) => x ** 9 - 1e-3, 0, 2, 1e-12)).toBeCloseTo(1e-3 ** (1 / 9), 9)
  })

  it('answers an end that is a root, and refuses ends of one sign', () => {
    expect(bracketedRoot((x) => x, 0, 3, 1e-9)).toBe(0)
    expect(bracketedRoot((x) => x - 3, 0, 3, 1e-9)).toBe(3)
    expect(() => bracketedRoot((x) => x * x + 1, -1, 1, 1e-9)).toThrow(RangeError)
  })
})
