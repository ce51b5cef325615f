/** Readings further apart than this are separate looks at the display, even when the digits are the same. */
const SEPARATE_LOOKS = 4

/**
 * Quick scatter, display step and refresh of a stream of readings.
 * Scatter is measured against the straight line between the neighbours, so that settling does not count as noise.
 */
export class NoiseEstimate {
  private variance: number
  private count = 0
  private repeats = 0
  private step = Number.POSITIVE_INFINITY
  private changeGap = 0
  private gap = 0
  private lastAt = Number.NaN
  private lastValue = Number.NaN
  private lastTakenAt = Number.NaN
  private before: { t: number; value: number } | null = null
  private middle: { t: number; value: number } | null = null

  constructor(scatterGuess: number) {
    this.variance = scatterGuess * scatterGuess
  }

  /** Takes a reading in; false when it is only the last one shown again and tells nothing new. */
  push(t: number, value: number): boolean {
    const gap = t - this.lastAt
    if (!Number.isNaN(gap)) this.gap = this.gap === 0 ? gap : this.gap + 0.1 * (gap - this.gap)
    this.lastAt = t
    const change = Math.abs(value - this.lastValue)
    if (change === 0) {
      this.repeats++
      // A display that stands still is news only once it has stood longer than it does while moving.
      const since = t - this.lastTakenAt
      const news = gap >= SEPARATE_LOOKS || since >= Math.max(3, 1.6 * this.changeGap)
      if (news) this.lastTakenAt = t
      return news
    }
    if (!Number.isNaN(change)) {
      this.step = Math.min(this.step, change)
      const since = t - this.lastTakenAt
      this.changeGap = this.changeGap === 0 ? since : Math.max(since, this.changeGap * 0.97)
    }
    this.lastValue = value
    this.lastTakenAt = t
    this.count++
    this.learn(t, value)
    return true
  }

  /** Typical seconds between readings. */
  get interval(): number {
    return this.gap
  }

  get scatter(): number {
    return Math.sqrt(this.variance)
  }

  /** Variance of the mean of n fresh readings. */
  varianceOfMean(n: number): number {
    const step = this.displayStep
    return this.variance / n + (step * step) / 12
  }

  /** Variance of what a coarse display hides for good; nothing when scatter dithers it away. */
  displayVariance(): number {
    const step = this.displayStep
    return this.scatter > 0.6 * step ? 0 : (step * step) / 12
  }

  /** Size of the display's last digit, 0 unless readings repeat often enough to show one. */
  private get displayStep(): number {
    return this.repeats > 0.25 * this.count && Number.isFinite(this.step) ? this.step : 0
  }

  private learn(t: number, value: number): void {
    const { before, middle } = this
    if (before && middle && t - before.t < 2 * SEPARATE_LOOKS) {
      const w = (t - middle.t) / (t - before.t)
      const residual = middle.value - (w * before.value + (1 - w) * value)
      const sample = (residual * residual) / (1 + w * w + (1 - w) * (1 - w))
      const memory = Math.max(1 / 25, 1 / (this.count + 6))
      this.variance += memory * (Math.min(sample, 5 * this.variance + 1e-12) - this.variance)
    }
    this.before = middle
    this.middle = { t, value }
  }
}
