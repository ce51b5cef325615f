import { median } from './median.ts'
import { Z95 } from './normalDistribution.ts'
import { SlopeSelection } from './slopeSelection.ts'

export interface RobustTrend {
  slope: number
  /** 95 % confidence interval of the slope. */
  slopeLow: number
  slopeHigh: number
  /** Median of y - slope x. */
  intercept: number
  points: number
}

/** Up to here all pairs are formed: quicker, and nothing to bracket. */
const ALL_PAIRS_UP_TO = 400

/**
 * Theil-Sen trend: the median of the slopes of all pairs of points; up to 29 % of the points may be wild.
 * Confidence interval by Kendall's S with its normal approximation, tie correction left out
 * (P. K. Sen, J. Am. Stat. Assoc. 63 (1968) 1379; Hollander and Wolfe, Nonparametric Statistical Methods, ch. 9).
 * Pairs with equal x are skipped. O(n log n) and O(n) memory beyond a few hundred points.
 * Throws RangeError when no two points differ in x, or for what is no number.
 * @example theilSen([0, 1, 2, 3], [0, 1, 2, 30]).slope // 5.5
 */
export function theilSen(x: readonly number[], y: readonly number[]): RobustTrend {
  const n = x.length
  if (x.some((v) => !Number.isFinite(v)) || y.some((v) => !Number.isFinite(v))) {
    throw new RangeError('A trend needs numbers for every time and value.')
  }
  const { count, ranked } = n <= ALL_PAIRS_UP_TO ? allPairs(x, y) : selected(x, y)
  if (count === 0) throw new RangeError('A trend needs two points at different times.')
  const slope = count % 2 === 1 ? ranked((count - 1) / 2) : (ranked(count / 2 - 1) + ranked(count / 2)) / 2
  const spread = Z95 * Math.sqrt((n * (n - 1) * (2 * n + 5)) / 18)
  return {
    slope,
    slopeLow: ranked(Math.max(0, Math.floor((count - spread) / 2))),
    slopeHigh: ranked(Math.min(count - 1, Math.ceil((count + spread) / 2))),
    intercept: median(x.map((xi, i) => (y[i] as number) - slope * xi)),
    points: n,
  }
}

interface RankedSlopes {
  count: number
  ranked: (k: number) => number
}

function allPairs(x: readonly number[], y: readonly number[]): RankedSlopes {
  const slopes: number[] = []
  for (let i = 0; i < x.length; i++) {
    for (let j = i + 1; j < x.length; j++) {
      const dx = (x[j] as number) - (x[i] as number)
      if (dx !== 0) slopes.push(((y[j] as number) - (y[i] as number)) / dx)
    }
  }
  slopes.sort((a, b) => a - b)
  return { count: slopes.length, ranked: (k) => slopes[k] as number }
}

function selected(x: readonly number[], y: readonly number[]): RankedSlopes {
  const selection = new SlopeSelection(x, y)
  return { count: selection.count, ranked: (k) => selection.select(k) }
}
