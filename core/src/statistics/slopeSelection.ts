import { randomStream } from './random.ts'

/** So many slopes a point may be left inside the bracket when they are listed. */
const FEW = 3

/**
 * Order statistics of the slopes of all pairs of points, without forming them all: the number of slopes below m is the
 * number of inversions of y - m x in the order of x, which merge sort counts in O(n log n) (Cole, Salowe, Steiger and
 * Szemeredi, SIAM J. Comput. 18 (1989) 792; Matousek, Inf. Process. Lett. 39 (1991) 183). A sample of slopes brackets
 * the wanted one, counting narrows the bracket, and what is left inside is listed. Memory is O(n).
 */
export class SlopeSelection {
  private readonly x: Float64Array
  private readonly y: Float64Array
  private readonly key: Float64Array
  private readonly spare: Float64Array
  private readonly sample: Float64Array
  /** Slopes nearer to zero than this are rounding. */
  private readonly least: number
  /** The slopes that were listed last: neighbours in rank are asked for together. */
  private listed: { from: number; slopes: Float64Array } = { from: 0, slopes: new Float64Array() }
  /** Pairs that differ in x. */
  readonly count: number

  constructor(x: readonly number[], y: readonly number[]) {
    const n = x.length
    // Equal x in the order of y: such a pair is then never an inversion, whatever m.
    const order = Array.from(x.keys()).sort(
      (a, b) => (x[a] as number) - (x[b] as number) || (y[a] as number) - (y[b] as number),
    )
    this.x = Float64Array.from(order, (i) => x[i] as number)
    this.y = Float64Array.from(order, (i) => y[i] as number)
    this.key = new Float64Array(n)
    this.spare = new Float64Array(n)
    let count = (n * (n - 1)) / 2
    for (let start = 0, i = 1; i <= n; i++) {
      if (i < n && this.x[i] === this.x[start]) continue
      count -= ((i - start) * (i - start - 1)) / 2
      start = i
    }
    this.count = count
    this.sample = this.sampleSlopes()
    this.least = 1e-12 * Math.abs(this.sample[this.sample.length >> 2] ?? 0) + 1e-300
  }

  /** Slope of rank k (0 is the smallest). */
  select(k: number): number {
    const { listed } = this
    if (k >= listed.from && k < listed.from + listed.slopes.length) return listed.slopes[k - listed.from] as number
    let [low, high] = this.bracket(k)
    let below = this.below(low)
    let upTo = this.below(high)
    while (upTo - below > FEW * this.x.length) {
      const middle = low + (high - low) / 2
      // Points on a grid have many equal slopes: the bracket closes on one of them without ever getting few.
      if (high - low < 1e-13 * Math.max(Math.abs(low), Math.abs(high), 1e-300)) break
      const belowMiddle = this.below(middle)
      if (belowMiddle <= k) [low, below] = [middle, belowMiddle]
      else [high, upTo] = [middle, belowMiddle]
    }
    if (upTo - below > FEW * this.x.length) return this.nearestSampled(low, high)
    const slopes = this.between(low, high)
    this.listed = { from: below, slopes }
    // Rounding of y - m x can move a slope that equals a bound to the other side of it.
    return slopes[Math.min(Math.max(k - below, 0), slopes.length - 1)] ?? this.nearestSampled(low, high)
  }

  private sampleSlopes(): Float64Array {
    const random = randomStream(1)
    const n = this.x.length
    const slopes: number[] = []
    for (let i = 0; i < 4 * n; i++) {
      const a = Math.floor(random.uniform() * n)
      const b = Math.floor(random.uniform() * n)
      const dx = (this.x[b] as number) - (this.x[a] as number)
      if (dx !== 0) slopes.push(((this.y[b] as number) - (this.y[a] as number)) / dx)
    }
    return Float64Array.from(slopes).sort()
  }

  /** Two values with the slope of rank k between them: low <= slope < high. */
  private bracket(k: number): [number, number] {
    const m = this.sample.length
    const place = (k / this.count) * m
    const least = -Number.MAX_VALUE
    for (let reach = 3 * Math.sqrt(m) + 3; ; reach *= 4) {
      const a = Math.floor(place - reach)
      const b = Math.ceil(place + reach)
      // Off the sampled slopes by a little: many others may equal them, and rounding would throw those to either side.
      const off = (s: number) => Math.max(Math.abs(s) * 1e-11, this.least)
      const bottom = a >= 0 ? (this.sample[a] as number) : least
      const low = a >= 0 ? bottom - off(bottom) : least
      const top = b < m ? (this.sample[b] as number) : Number.MAX_VALUE
      const high = b < m ? top + off(top) : top
      if (a < 0 && b >= m) return [this.extreme(-1), this.extreme(1)]
      if (low === least || this.below(low) <= k) {
        if (high === Number.MAX_VALUE || this.below(high) > k) {
          return [low === least ? this.extreme(-1) : low, high === Number.MAX_VALUE ? this.extreme(1) : high]
        }
      }
    }
  }

  /** A value beyond all slopes, downwards or upwards. */
  private extreme(sign: 1 | -1): number {
    let steepest = 0
    for (let i = 1; i < this.x.length; i++) {
      const dx = (this.x[i] as number) - (this.x[i - 1] as number)
      if (dx > 0) steepest = Math.max(steepest, 1 / dx)
    }
    const spread = this.y.reduce((a, b) => Math.max(a, b)) - this.y.reduce((a, b) => Math.min(a, b))
    return sign * (spread * steepest * 1.001 + 1e-9)
  }

  private nearestSampled(low: number, high: number): number {
    const middle = low + (high - low) / 2
    let best = middle
    let nearest = Number.POSITIVE_INFINITY
    for (const s of this.sample) {
      if (Math.abs(s - middle) < nearest) [best, nearest] = [s, Math.abs(s - middle)]
    }
    return nearest <= 1e-9 * Math.max(1, Math.abs(middle)) ? best : middle
  }

  /** Slopes below m. */
  private below(m: number): number {
    const { x, y, key } = this
    for (let i = 0; i < x.length; i++) key[i] = (y[i] as number) - m * (x[i] as number)
    return this.inversions()
  }

  private inversions(): number {
    let from = this.key
    let to = this.spare
    const n = from.length
    let count = 0
    for (let width = 1; width < n; width *= 2) {
      for (let start = 0; start < n; start += 2 * width) {
        const middle = Math.min(start + width, n)
        const end = Math.min(start + 2 * width, n)
        let i = start
        let j = middle
        for (let k = start; k < end; k++) {
          if (j >= end || (i < middle && (from[i] as number) <= (from[j] as number))) to[k] = from[i++] as number
          else {
            to[k] = from[j++] as number
            count += middle - i
          }
        }
      }
      ;[from, to] = [to, from]
    }
    return count
  }

  /** The slopes from low up to high, in order. */
  private between(low: number, high: number): Float64Array {
    const { x, y } = this
    let from: Int32Array = this.orderBy(low)
    let to: Int32Array = new Int32Array(from.length)
    const upper = Float64Array.from(x, (xi, i) => (y[i] as number) - high * xi)
    const n = from.length
    const slopes: number[] = []
    for (let width = 1; width < n; width *= 2) {
      for (let start = 0; start < n; start += 2 * width) {
        const middle = Math.min(start + width, n)
        const end = Math.min(start + 2 * width, n)
        let i = start
        let j = middle
        for (let k = start; k < end; k++) {
          if (
            j >= end ||
            (i < middle && (upper[from[i] as number] as number) <= (upper[from[j] as number] as number))
          ) {
            to[k] = from[i++] as number
            continue
          }
          const q = from[j] as number
          for (let p = i; p < middle; p++) {
            const o = from[p] as number
            const dx = (x[q] as number) - (x[o] as number)
            if (dx !== 0) slopes.push(((y[q] as number) - (y[o] as number)) / dx)
          }
          to[k] = from[j++] as number
        }
      }
      ;[from, to] = [to, from]
    }
    return Float64Array.from(slopes).sort()
  }

  /** Indices in the order of y - m x, by merge sort; those that are equal stay in the order of x. */
  private orderBy(m: number): Int32Array {
    const { x, y, key } = this
    const n = x.length
    for (let i = 0; i < n; i++) key[i] = (y[i] as number) - m * (x[i] as number)
    let from: Int32Array = Int32Array.from(key.keys())
    let to: Int32Array = new Int32Array(n)
    for (let width = 1; width < n; width *= 2) {
      for (let start = 0; start < n; start += 2 * width) {
        const middle = Math.min(start + width, n)
        const end = Math.min(start + 2 * width, n)
        let i = start
        let j = middle
        for (let k = start; k < end; k++) {
          const left =
            j >= end || (i < middle && (key[from[i] as number] as number) <= (key[from[j] as number] as number))
          to[k] = left ? (from[i++] as number) : (from[j++] as number)
        }
      }
      ;[from, to] = [to, from]
    }
    return from
  }
}
