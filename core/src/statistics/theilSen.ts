import { median } from './median.ts'
import { Z95 } from './normalDistribution.ts'

export interface RobustTrend {
  slope: number
  /** 95 % confidence interval of the slope. */
  slopeLow: number
  slopeHigh: number
  /** Median of y - slope x. */
  intercept: number
  points: number
}

/**
 * Theil-Sen trend: the median of the slopes of all pairs of points; up to 29 % of the points may be wild.
 * Confidence interval by Kendall's S with its normal approximation and tie correction left out
 * (P. K. Sen, J. Am. Stat. Assoc. 63 (1968) 1379; Hollander and Wolfe, Nonparametric Statistical Methods, ch. 9).
 * Pairs with equal x are skipped. All pairs are formed: meant for up to a few hundred points.
 * Throws RangeError when no two points differ in x.
 */
export function theilSen(x: readonly number[], y: readonly number[]): RobustTrend {
  const n = x.length
  const slopes: number[] = []
  for (let i = 0; i < n; i++) {
    for (let j = i + 1; j < n; j++) {
      const dx = (x[j] as number) - (x[i] as number)
      if (dx !== 0) slopes.push(((y[j] as number) - (y[i] as number)) / dx)
    }
  }
  if (slopes.length === 0) throw new RangeError('A trend needs two points at different times.')
  slopes.sort((a, b) => a - b)
  const slope = median(slopes)
  const spread = Z95 * Math.sqrt((n * (n - 1) * (2 * n + 5)) / 18)
  const count = slopes.length
  const below = Math.max(0, Math.floor((count - spread) / 2))
  const above = Math.min(count - 1, Math.ceil((count + spread) / 2))
  return {
    slope,
    slopeLow: slopes[below] as number,
    slopeHigh: slopes[above] as number,
    intercept: median(x.map((xi, i) => (y[i] as number) - slope * xi)),
    points: n,
  }
}
