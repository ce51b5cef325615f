/**
 * A settling reading written as
 *
 *   y(t) = end + A g(t) + sum F_i exp(-t/f_i) + sum D_j exp(-t/d_j) + C t + wander + noise
 *
 * where g is the shape of the tail under one hypothesis, the F take up whatever the first seconds do, and the D let
 * the tail stray from g, for no shape from a book is the shape of this electrode: a second stage, a lagging
 * temperature. C is a creep that never ends. The wander is an Ornstein-Uhlenbeck process: residuals are correlated.
 * Given g everything is linear and Gaussian, so the exact posterior follows reading by reading from a Kalman filter of
 * constant cost, and its likelihood says how well this shape foresaw the readings. Many shapes run side by side
 * (hypotheses.ts, hypothesisSet.ts).
 */

/** Time constants of the first seconds, s. */
const FAST_TIMES: readonly number[] = [1.3, 3.2, 8]
/** Time constants in which the tail may stray from its shape, s. */
const STRAY_TIMES: readonly number[] = [20, 50, 125, 400]

const EXPONENTIALS = [...FAST_TIMES, ...STRAY_TIMES]
/** State: [end, A, F.., D.., C, wander]. */
const N = EXPONENTIALS.length + 4
/** A fast exponential that has fallen to this share of itself shows no more. */
const NEGLIGIBLE = 2e-6
const CREEP = N - 2
const WANDER = N - 1

/** Correlation time of the wander, s: slow against polling, fast against settling. */
const WANDER_TIME = 7

/** Share of a stage still to go, t seconds after the change of solution; 1 at t = 0. */
export type TailShape = (t: number) => number

export interface RelaxationHypothesis {
  tail: TailShape
  /** Prior standard deviations, units of the reading. */
  tailSd: number
  fastSd: number
  /** One for each of STRAY_TIMES. */
  straySd: readonly number[]
  wanderSd: number
  /** Prior probability that it creeps, and how fast, units of the reading per second; both more than 0. */
  creepChance: number
  creepSd: number
  /** Prior probability. */
  weight: number
}

/** What is expected of the next reading, its own noise left out. */
export interface Prediction {
  mean: number
  variance: number
}

/** What one hypothesis says of the end if the reading does come to rest. */
export interface RestingView {
  end: number
  variance: number
  /** Log of the odds by which the readings speak for rest rather than creep. */
  logEvidence: number
  /** Units of the reading per second, if it creeps, and its standard deviation. */
  creep: number
  creepSd: number
}

/** One hypothesis about the shape, followed exactly. */
export class RelaxationFilter {
  logWeight: number
  private readonly mean = new Float64Array(N)
  private readonly covariance = new Float64Array(N * N)
  private readonly gain = new Float64Array(N)
  private readonly basis = new Float64Array(N)
  private active: number[] = []
  /** How many of the fast exponentials have died away. */
  private gone = 0

  constructor(
    readonly hypothesis: RelaxationHypothesis,
    firstValue: number,
    endSd: number,
  ) {
    const { tailSd, fastSd, straySd, creepSd, wanderSd } = hypothesis
    this.logWeight = Math.log(hypothesis.weight)
    this.mean[0] = firstValue
    ;[endSd, tailSd, ...FAST_TIMES.map(() => fastSd), ...straySd, creepSd, wanderSd].forEach((sd, i) => {
      this.covariance[i * N + i] = sd * sd
    })
    this.basis[0] = 1
    this.basis[WANDER] = 1
  }

  /**
   * Lets time pass to `t` seconds after the change of solution.
   * @param exponentials what basisExponentials(t) says, worked out once for all hypotheses
   * @param creepVariance by which the end itself may move meanwhile
   */
  advance(t: number, exponentials: Float64Array, seconds: number, creepVariance: number): void {
    const { hypothesis, basis: h, covariance: p } = this
    const keep = Math.exp(-seconds / WANDER_TIME)
    this.mean[WANDER] = (this.mean[WANDER] as number) * keep
    for (let i = 0; i < WANDER; i++) {
      const kept = (p[i * N + WANDER] as number) * keep
      p[i * N + WANDER] = kept
      p[WANDER * N + i] = kept
    }
    p[N * N - 1] = (p[N * N - 1] as number) * keep * keep + hypothesis.wanderSd ** 2 * (1 - keep * keep)
    p[0] = (p[0] as number) + creepVariance
    h[1] = hypothesis.tail(t)
    for (let i = 0; i < EXPONENTIALS.length; i++) h[i + 2] = exponentials[i] as number
    h[CREEP] = t
    if (this.active.length > 0 && (exponentials[this.gone] as number) > NEGLIGIBLE) return
    while (this.gone < FAST_TIMES.length && (exponentials[this.gone] as number) <= NEGLIGIBLE) this.gone++
    this.active = this.activeComponents()
  }

  /** Components that still show in a reading; the others keep what is known of them and cost nothing. */
  private activeComponents(): number[] {
    const fast = Array.from({ length: EXPONENTIALS.length - this.gone }, (_, i) => i + 2 + this.gone)
    return [0, 1, ...fast, CREEP, WANDER]
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

  /**
   * The end under the belief that the reading comes to rest, and the log of the evidence for that belief against the
   * one that it creeps. The filter follows the creep as a free quantity; what it would have said with none follows
   * exactly by conditioning on C = 0, and the evidence from the density there (Savage-Dickey).
   */
  resting(): RestingView {
    const { mean: x, covariance: p } = this
    const c = x[CREEP] as number
    const variance = Math.max(p[CREEP * N + CREEP] as number, 1e-300)
    const share = (p[CREEP] as number) / variance
    const prior = this.hypothesis.creepSd ** 2
    return {
      end: (x[0] as number) - share * c,
      variance: Math.max((p[0] as number) - share * (p[CREEP] as number), 0),
      logEvidence: 0.5 * (Math.log(prior / variance) - (c * c) / variance),
      creep: c,
      creepSd: Math.sqrt(variance),
    }
  }

  /** What is still to come after t seconds, units of the reading: reading minus end. */
  remaining(t: number, exponentials: Float64Array): number {
    const x = this.mean
    let sum = (x[1] as number) * this.hypothesis.tail(t)
    for (let i = 0; i < EXPONENTIALS.length; i++) sum += (x[i + 2] as number) * (exponentials[i] as number)
    return sum
  }
}

/** The exponentials of the state at time t, shared by all hypotheses. */
export function basisExponentials(t: number): Float64Array {
  return Float64Array.from(EXPONENTIALS, (tau) => Math.exp(-t / tau))
}
