import { randomStream } from './random.ts'

/** So many slopes a point may be left inside the bracket when they are listed. */
const FEW = 1
/** Slopes that are drawn to begin with, a point. */
const SAMPLED = 2
/** Shorter runs are put in order by insertion. */
const RUN = 8

interface Bracket {
  low: number
  below: number
  high: number
  upTo: number
}

/**
 * Where in a bracket to count next, as a share of it. A narrow bracket is filled evenly, so the slope of rank k lies near
 * its share of the ranks: a little below it, then a little above. Every third time in the middle, should it be uneven.
 */
function placeOf(k: number, inside: number, points: number, round: number): number {
  if (round % 3 === 2) return 0.5
  const off = (0.4 * points) / inside
  return Math.min(0.99, Math.max(0.01, (k + 0.5) / inside + (round % 3 === 0 ? -off : off)))
}

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
    let { low, below, high, upTo } = this.bracket(k)
    for (let round = 0; upTo - below > FEW * this.x.length; round++) {
      // Points on a grid have many equal slopes: the bracket closes on one of them without ever getting few.
      if (high - low < 1e-13 * Math.max(Math.abs(low), Math.abs(high), 1e-300)) break
      const middle = low + placeOf(k - below, upTo - below, this.x.length, round) * (high - low)
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
    const { x, y } = this
    const random = randomStream(1)
    const n = x.length
    const slopes = new Float64Array(SAMPLED * n)
    let count = 0
    for (let i = 0; i < slopes.length; i++) {
      const a = Math.floor(random.uniform() * n)
      const b = Math.floor(random.uniform() * n)
      const dx = (x[b] as number) - (x[a] as number)
      if (dx !== 0) slopes[count++] = ((y[b] as number) - (y[a] as number)) / dx
    }
    return slopes.subarray(0, count).sort()
  }

  /** Two values with the slope of rank k between them, low <= slope < high, and how many slopes lie below either. */
  private bracket(k: number): Bracket {
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
      const below = low === least ? 0 : this.below(low)
      if (below > k) continue
      const upTo = high === Number.MAX_VALUE ? this.count : this.below(high)
      if (upTo <= k) continue
      return {
        low: low === least ? this.extreme(-1) : low,
        below,
        high: high === Number.MAX_VALUE ? this.extreme(1) : high,
        upTo,
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

  /** Of the keys, which it leaves in order: short runs by insertion, then merged two by two. */
  private inversions(): number {
    let from = this.key
    let to = this.spare
    const n = from.length
    let count = 0
    for (let start = 0; start < n; start += RUN) {
      const end = Math.min(start + RUN, n)
      for (let i = start + 1; i < end; i++) {
        const value = from[i] as number
        let k = i
        while (k > start && (from[k - 1] as number) > value) {
          from[k] = from[k - 1] as number
          k--
        }
        from[k] = value
        count += i - k
      }
    }
    for (let width = RUN; width < n; width *= 2) {
      for (let start = 0; start < n; start += 2 * width) {
        const middle = Math.min(start + width, n)
        const end = Math.min(start + 2 * width, n)
        let i = start
        let j = middle
        let k = start
        while (i < middle && j < end) {
          const a = from[i] as number
          const b = from[j] as number
          if (a <= b) {
            to[k++] = a
            i++
          } else {
            to[k++] = b
            j++
            count += middle - i
          }
        }
        while (i < middle) to[k++] = from[i++] as number
        while (j < end) to[k++] = from[j++] as number
      }
      ;[from, to] = [to, from]
    }
    return count
  }

  /** The slopes from low up to high, in order: of the pairs that change places between y - low x and y - high x. */
  private between(low: number, high: number): Float64Array {
    const { x, y } = this
    const slopes: number[] = []
    const asTheyAre = new Int32Array(x.length)
    for (let i = 0; i < x.length; i++) asTheyAre[i] = i
    const order = inOrder(asTheyAre, this.keysAt(low))
    inOrder(order, this.keysAt(high), (before, from, to, q) => {
      for (let i = from; i < to; i++) {
        const p = before[i] as number
        const dx = (x[q] as number) - (x[p] as number)
        if (dx !== 0) slopes.push(((y[q] as number) - (y[p] as number)) / dx)
      }
    })
    return Float64Array.from(slopes).sort()
  }

  private keysAt(m: number): Float64Array {
    const { x, y } = this
    const keys = new Float64Array(x.length)
    for (let i = 0; i < x.length; i++) keys[i] = (y[i] as number) - m * (x[i] as number)
    return keys
  }
}

/**
 * Indices in the order of their keys, by merge sort; those that are equal stay as they were.
 * @param passed told of each index that comes before others, `before[from]` to `before[to - 1]`, that it stood behind
 */
function inOrder(
  indices: Int32Array,
  key: Float64Array,
  passed?: (before: Int32Array, from: number, to: number, index: number) => void,
): Int32Array {
  const n = indices.length
  let from = indices
  let to: Int32Array = new Int32Array(n)
  for (let width = 1; width < n; width *= 2) {
    for (let start = 0; start < n; start += 2 * width) {
      const middle = Math.min(start + width, n)
      const end = Math.min(start + 2 * width, n)
      let i = start
      let j = middle
      let k = start
      while (i < middle && j < end) {
        const p = from[i] as number
        const q = from[j] as number
        if ((key[p] as number) <= (key[q] as number)) {
          to[k++] = p
          i++
        } else {
          to[k++] = q
          j++
          passed?.(from, i, middle, q)
        }
      }
      while (i < middle) to[k++] = from[i++] as number
      while (j < end) to[k++] = from[j++] as number
    }
    ;[from, to] = [to, from]
  }
  return from
}
