import { median, scaledMad } from './median.ts'

/** A stretch of a series that one straight line describes. */
export interface Segment {
  /** Index of its first point, and of the one after its last. */
  start: number
  end: number
  slope: number
  /** Value of the line at its first and last point. */
  first: number
  last: number
}

/** Fewer points make no line worth the name. */
const LEAST_POINTS = 3

/**
 * Where a series changes its course: the cut into straight stretches of least cost, found exactly by dynamic
 * programming with pruning (PELT; R. Killick et al., J. Am. Stat. Assoc. 107 (2012) 1590). Cost is the squared
 * residual over the noise variance, and a new stretch has to pay for itself with 4 ln n: level, slope and place, the
 * place counted twice (modified Schwarz criterion; N. R. Zhang and D. O. Siegmund, Biometrics 63 (2007) 22).
 * @param times rising
 * @param noise standard deviation of one value; estimated from the steps when not given
 * @returns the stretches in order; one for a series of fewer than six points
 * @throws RangeError when times do not rise or the lists differ in length
 * @example changePoints([0, 1, 2, 3, 4, 5, 6, 7], [0, 0, 0, 0, 9, 9, 9, 9], 0.5).map((s) => s.start) // [0, 4]
 */
export function changePoints(times: readonly number[], values: readonly number[], noise?: number): Segment[] {
  const n = times.length
  if (values.length !== n) throw new RangeError('A series needs as many values as times.')
  if (times.some((t, i) => i > 0 && t <= (times[i - 1] as number))) throw new RangeError('Times must rise.')
  if (n === 0) return []
  const variance = Math.max(noise ?? noiseOf(values), 1e-12) ** 2
  const sums = new RunningSums(times, values)
  const penalty = 4 * Math.log(Math.max(n, 2))
  const best = new Float64Array(n + 1).fill(Number.POSITIVE_INFINITY)
  best[0] = -penalty
  const from = new Int32Array(n + 1)
  let candidates = [0]
  for (let end = 1; end <= n; end++) {
    const enough = (start: number) => end - start >= LEAST_POINTS || (start === 0 && end < 2 * LEAST_POINTS)
    for (const start of candidates) {
      if (!enough(start)) continue
      const cost = (best[start] as number) + sums.residual(start, end) / variance + penalty
      if (cost < (best[end] as number)) {
        best[end] = cost
        from[end] = start
      }
    }
    // A start that is worse even without paying for a new stretch can never be part of the best cut.
    candidates = candidates.filter(
      (s) => !enough(s) || (best[s] as number) + sums.residual(s, end) / variance <= (best[end] as number),
    )
    candidates.push(end)
  }
  const segments: Segment[] = []
  for (let end = n; end > 0; end = from[end] as number) segments.unshift(sums.line(from[end] as number, end))
  return segments
}

/** Steps from value to value have the noise of two, about a median that is the slope; a few jumps do not count. */
function noiseOf(values: readonly number[]): number {
  if (values.length < 6) return spreadOf(values)
  const steps = values.slice(1).map((v, i) => v - (values[i] as number))
  return (scaledMad(steps) * (1 + 2 / values.length)) / Math.SQRT2 || spreadOf(values)
}

function spreadOf(values: readonly number[]): number {
  const steps = values.slice(1).map((v, i) => Math.abs(v - (values[i] as number)))
  return steps.length > 0 ? median(steps) || 1e-9 : 1e-9
}

class RunningSums {
  private readonly t: Float64Array
  private readonly y: Float64Array
  private readonly tt: Float64Array
  private readonly ty: Float64Array
  private readonly yy: Float64Array
  private readonly origin: number
  private readonly level: number

  constructor(
    private readonly times: readonly number[],
    values: readonly number[],
  ) {
    const n = times.length
    // Centred, since sums of squares of epoch times would leave no digits for the residuals.
    this.origin = times[Math.floor(n / 2)] as number
    this.level = median(values)
    const running = () => new Float64Array(n + 1)
    this.t = running()
    this.y = running()
    this.tt = running()
    this.ty = running()
    this.yy = running()
    for (let i = 0; i < n; i++) {
      const t = (times[i] as number) - this.origin
      const y = (values[i] as number) - this.level
      this.t[i + 1] = (this.t[i] as number) + t
      this.y[i + 1] = (this.y[i] as number) + y
      this.tt[i + 1] = (this.tt[i] as number) + t * t
      this.ty[i + 1] = (this.ty[i] as number) + t * y
      this.yy[i + 1] = (this.yy[i] as number) + y * y
    }
  }

  private fit(start: number, end: number) {
    const n = end - start
    const over = (s: Float64Array) => (s[end] as number) - (s[start] as number)
    const [t, y] = [over(this.t) / n, over(this.y) / n]
    const stt = over(this.tt) - n * t * t
    const sty = over(this.ty) - n * t * y
    const syy = over(this.yy) - n * y * y
    const slope = stt > 0 ? sty / stt : 0
    return { slope, t, y, residual: Math.max(syy - slope * sty, 0) }
  }

  residual(start: number, end: number): number {
    return this.fit(start, end).residual
  }

  line(start: number, end: number): Segment {
    const { slope, t, y } = this.fit(start, end)
    const at = (i: number) => this.level + y + slope * ((this.times[i] as number) - this.origin - t)
    return { start, end, slope, first: at(start), last: at(end - 1) }
  }
}
