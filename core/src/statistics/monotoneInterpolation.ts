import { requireWithin } from '../quantities/outOfRange.ts'

/**
 * Piecewise cubic Hermite interpolation that never overshoots its table
 * (F. N. Fritsch and R. E. Carlson, SIAM J. Numer. Anal. 17 (1980) 238; slopes by the weighted harmonic mean
 * of Fritsch and Butland). `xs` must increase. Returns a function that throws OutOfRange beyond the table.
 * @example monotoneInterpolation([0, 1, 2], [0, 1, 1])(0.5) // 0.625
 */
export function monotoneInterpolation(
  xs: readonly number[],
  ys: readonly number[],
  quantity: string,
  unit: string,
): (x: number) => number {
  const n = xs.length
  if (n < 2 || ys.length !== n) throw new RangeError('An interpolation table needs two or more rows.')
  const h = xs.slice(1).map((x, i) => x - (xs[i] as number))
  if (h.some((step) => !(step > 0))) throw new RangeError('The x column of an interpolation table must increase.')
  const secant = h.map((step, i) => ((ys[i + 1] as number) - (ys[i] as number)) / step)
  const tangent = xs.map((_, i) => {
    const left = secant[i - 1]
    const right = secant[i]
    if (left === undefined) return right as number
    if (right === undefined) return left
    if (left * right <= 0) return 0
    const w1 = 2 * (h[i] as number) + (h[i - 1] as number)
    const w2 = (h[i] as number) + 2 * (h[i - 1] as number)
    return (w1 + w2) / (w1 / left + w2 / right)
  })
  return (x) => {
    requireWithin(quantity, x, xs[0] as number, xs[n - 1] as number, unit)
    let i = 0
    while (i < n - 2 && x > (xs[i + 1] as number)) i++
    const step = h[i] as number
    const s = (x - (xs[i] as number)) / step
    const y0 = ys[i] as number
    const y1 = ys[i + 1] as number
    const t0 = (tangent[i] as number) * step
    const t1 = (tangent[i + 1] as number) * step
    return y0 * (1 + 2 * s) * (1 - s) ** 2 + t0 * s * (1 - s) ** 2 + y1 * s * s * (3 - 2 * s) + t1 * s * s * (s - 1)
  }
}
