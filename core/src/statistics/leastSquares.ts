export interface StraightLine {
  slope: number
  intercept: number
  /** Standard deviation of the residuals, n - 2 degrees of freedom; 0 for two points. */
  residualSd: number
  slopeSd: number
  interceptSd: number
}

/**
 * Ordinary least squares of y on x. The sums are centred first, since raw sums of squares lose
 * digits when the values are large and close together (the point of the NIST StRD "Norris" set).
 * Throws RangeError for fewer than two points or when all x are equal.
 * @example leastSquares([0, 1, 2], [1, 3, 5]).slope // 2
 */
export function leastSquares(x: readonly number[], y: readonly number[]): StraightLine {
  const n = x.length
  if (n < 2 || y.length !== n) throw new RangeError('A straight line needs at least two points (x, y).')
  const meanX = x.reduce((a, b) => a + b, 0) / n
  const meanY = y.reduce((a, b) => a + b, 0) / n
  let sxx = 0
  let sxy = 0
  for (let i = 0; i < n; i++) {
    const dx = (x[i] as number) - meanX
    sxx += dx * dx
    sxy += dx * ((y[i] as number) - meanY)
  }
  if (sxx === 0) throw new RangeError('A straight line needs two different x values.')
  const slope = sxy / sxx
  const intercept = meanY - slope * meanX
  let sse = 0
  for (let i = 0; i < n; i++) {
    const residual = (y[i] as number) - meanY - slope * ((x[i] as number) - meanX)
    sse += residual * residual
  }
  const residualSd = n > 2 ? Math.sqrt(sse / (n - 2)) : 0
  return {
    slope,
    intercept,
    residualSd,
    slopeSd: residualSd / Math.sqrt(sxx),
    interceptSd: residualSd * Math.sqrt(1 / n + (meanX * meanX) / sxx),
  }
}
