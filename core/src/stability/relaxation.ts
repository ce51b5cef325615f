/**
 * A settling reading written as
 *
 *   y(t) = end + A sum s_i exp(-t/T_i) + sum D_i exp(-t/T_i) + C t + wander + noise
 *
 * a spectrum of relaxation times: hydrated glass, films, junction and temperature each give exponentials, whatever
 * their shape together. The s are how large the parts are under one hypothesis and A what they have in common, for the
 * parts of one cause go the same way; the D let each part stray, for no spectrum from a book is that of this electrode.
 * C is a creep that never ends, under the hypotheses that say so. The wander is an Ornstein-Uhlenbeck process:
 * residuals are correlated. All of it is linear and Gaussian, so the posterior follows reading by reading from a Kalman
 * filter of constant cost, and its likelihood says how well this spectrum foresaw the readings. Many run side by side
 * (hypotheses.ts, hypothesisSet.ts).
 *
 * What is slow tells of the end, what was quick does not: a spectrum that is a little wrong in the fall must not be
 * held to it in the tail. So knowledge fades on the clock of the settling itself: what was seen at half the time counts
 * half, for the state and for the weight of the hypothesis alike (forgetting factors: Raftery, Karny & Ettler,
 * Technometrics 52 (2010) 52).
 */

/** Relaxation times of the parts, s: a factor of 2.5 apart, which a sum of exponentials does not tell from less. */
export const PART_TIMES: readonly number[] = [1.3, 3.2, 8, 20, 50, 125, 400]

/** State: [end, A, D.., C, wander]. */
const N = PART_TIMES.length + 4
const PARTS = 2
const CREEP = N - 2
const WANDER = N - 1
/** A part that has fallen to this share of itself shows no more. */
const NEGLIGIBLE = 2e-6

/** Correlation time of the wander, s: slow against polling, fast against settling. */
const WANDER_TIME = 7
/** Share of its first doubt that comes back to each figure while all that was known fades: keeps the filter regular. */
const REGULAR = 1e-7

/** Share of a stage still to go, t seconds after the change of solution; 1 at t = 0. */
export type TailShape = (t: number) => number

export interface RelaxationHypothesis {
  /** What the parts have in common, and its prior standard deviation, units of the reading. */
  tail: TailShape
  tailSd: number
  /** By how much each part may stray from it, one for each of PART_TIMES. */
  partSd: readonly number[]
  wanderSd: number
  /** How fast it creeps, units of the reading per second; 0 where it comes to rest. */
  creepSd: number
  /** Prior probability. */
  weight: number
  /** That of this very electrode, and whether it was known to come to rest then; left out for any electrode's. */
  own?: { rested: boolean }
}

/** What is expected of the next reading, its own noise left out. */
export interface Prediction {
  mean: number
  variance: number
}

/** What one hypothesis says of the end. */
export interface EndView {
  end: number
  variance: number
}

/** What a hypothesis that it creeps says of where the creep has come to, and of its pace, units per second. */
export interface CreepView {
  level: number
  levelSd: number
  pace: number
  paceSd: number
}

/** One hypothesis about the spectrum, followed exactly. */
export class RelaxationFilter {
  logWeight: number
  private readonly mean = new Float64Array(N)
  private readonly covariance = new Float64Array(N * N)
  private readonly prior = new Float64Array(N)
  private readonly growth = new Float64Array(N)
  private readonly gain = new Float64Array(N)
  private readonly basis = new Float64Array(N)
  private active: number[] = []
  /** How many of the quick parts have died away. */
  private gone = 0

  constructor(
    readonly hypothesis: RelaxationHypothesis,
    firstValue: number,
    endSd: number,
  ) {
    const { tailSd, partSd, creepSd, wanderSd, weight } = hypothesis
    this.logWeight = Math.log(weight)
    this.mean[0] = firstValue
    ;[endSd, tailSd, ...partSd, creepSd, wanderSd].forEach((sd, i) => {
      this.covariance[i * N + i] = sd * sd
      this.prior[i] = sd * sd
    })
    this.basis[0] = 1
    this.basis[WANDER] = 1
    this.active = this.activeComponents()
  }

  /** Whether it is any electrode's. */
  get open(): boolean {
    return this.hypothesis.own === undefined
  }

  /** Whether it says that the reading comes to rest. */
  get rests(): boolean {
    return this.hypothesis.creepSd === 0
  }

  /**
   * Lets time pass to `t` seconds after the change of solution.
   * @param exponentials what partExponentials(t) says, worked out once for all hypotheses
   * @param endVariance by which the end itself may move meanwhile
   */
  advance(t: number, exponentials: Float64Array, seconds: number, endVariance: number): void {
    const { hypothesis, basis: h, covariance: p } = this
    if (t > seconds && seconds > 0) this.fade((t - seconds) / t)
    const keep = Math.exp(-seconds / WANDER_TIME)
    this.mean[WANDER] = (this.mean[WANDER] as number) * keep
    for (let i = 0; i < WANDER; i++) {
      const kept = (p[i * N + WANDER] as number) * keep
      p[i * N + WANDER] = kept
      p[WANDER * N + i] = kept
    }
    p[N * N - 1] = (p[N * N - 1] as number) * keep * keep + hypothesis.wanderSd ** 2 * (1 - keep * keep)
    p[0] = (p[0] as number) + endVariance
    h[1] = hypothesis.tail(t)
    for (let i = 0; i < PART_TIMES.length; i++) h[i + PARTS] = exponentials[i] as number
    h[CREEP] = t
    if ((exponentials[this.gone] as number) > NEGLIGIBLE) return
    while (this.gone < PART_TIMES.length - 1 && (exponentials[this.gone] as number) <= NEGLIGIBLE) this.gone++
    this.active = this.activeComponents()
  }

  /** Keeps `share` of what is known; nothing gets less known than it was at first. */
  private fade(share: number): void {
    const { covariance: p, growth, prior, active } = this
    this.logWeight = Math.log(this.hypothesis.weight) * (1 - share) + this.logWeight * share
    const most = 1 / Math.sqrt(share) - 1
    for (const i of active) {
      const first = prior[i] as number
      growth[i] = i >= CREEP || first === 0 ? 1 : 1 + most * Math.max(0, 1 - (p[i * N + i] as number) / first)
    }
    for (let a = 0; a < active.length; a++) {
      const i = active[a] as number
      for (let b = a; b < active.length; b++) {
        const j = active[b] as number
        const next = (p[i * N + j] as number) * (growth[i] as number) * (growth[j] as number)
        p[i * N + j] = next
        p[j * N + i] = next
      }
      if (i < CREEP) p[i * N + i] = (p[i * N + i] as number) + REGULAR * (1 - share) * (prior[i] as number)
    }
  }

  /** Components that still show in a reading; the others keep what is known of them and cost nothing. */
  private activeComponents(): number[] {
    const parts = Array.from({ length: PART_TIMES.length - this.gone }, (_, i) => i + PARTS + this.gone)
    return [0, 1, ...parts, ...(this.rests ? [] : [CREEP]), WANDER]
  }

  /** Mean and variance expected of the next reading, its own noise left out. */
  predict(): Prediction {
    const { mean: x, basis: h, gain: g, covariance: p, active } = this
    let mean = 0
    let variance = 0
    for (let a = 0; a < active.length; a++) {
      const i = active[a] as number
      let row = 0
      for (let b = 0; b < active.length; b++) {
        const j = active[b] as number
        row += (p[i * N + j] as number) * (h[j] as number)
      }
      g[i] = row
      mean += (h[i] as number) * (x[i] as number)
      variance += (h[i] as number) * row
    }
    return { mean, variance: Math.max(variance, 0) }
  }

  /** Takes a reading in. Call predict() first: it leaves the gain behind. */
  update(value: number, predicted: Prediction, noiseVariance: number): void {
    const { mean: x, gain: g, covariance: p, active } = this
    const total = predicted.variance + noiseVariance
    const innovation = value - predicted.mean
    for (let a = 0; a < active.length; a++) {
      const i = active[a] as number
      const share = (g[i] as number) / total
      x[i] = (x[i] as number) + share * innovation
      for (let b = a; b < active.length; b++) {
        const j = active[b] as number
        const next = (p[i * N + j] as number) - share * (g[j] as number)
        p[i * N + j] = next
        p[j * N + i] = next
      }
    }
    this.logWeight -= 0.5 * (Math.log(total) + Math.min(40, (innovation * innovation) / total))
  }

  end(): EndView {
    return { end: this.mean[0] as number, variance: Math.max(this.covariance[0] as number, 0) }
  }

  /** Where end and creep together have come to after t seconds. */
  creep(t: number): CreepView {
    const { mean: x, covariance: p } = this
    const across = p[CREEP] as number
    const pace = x[CREEP] as number
    const paceVariance = Math.max(p[CREEP * N + CREEP] as number, 0)
    return {
      level: (x[0] as number) + pace * t,
      levelSd: Math.sqrt(Math.max((p[0] as number) + 2 * t * across + t * t * paceVariance, 0)),
      pace,
      paceSd: Math.max(Math.sqrt(paceVariance), 1e-12),
    }
  }

  /** What is still to come after t seconds, units of the reading: reading minus end. */
  remaining(t: number, exponentials: Float64Array): number {
    const x = this.mean
    let sum = (x[1] as number) * this.hypothesis.tail(t)
    for (let i = 0; i < PART_TIMES.length; i++) sum += (x[i + PARTS] as number) * (exponentials[i] as number)
    return sum
  }
}

/** The exponentials of the state at time t, shared by all hypotheses. */
export function partExponentials(t: number): Float64Array {
  return Float64Array.from(PART_TIMES, (time) => Math.exp(-t / time))
}
