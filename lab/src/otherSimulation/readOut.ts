import type { Sample } from '../../../core/src/stability/opinion.ts'
import type { RandomStream } from '../../../core/src/statistics/random.ts'

/** What a device makes of its signal, in the unit of the signal; times in s. */
export interface Device {
  /** Standard deviations of the noise of each reading, and of one that wanders with a time of its own. */
  white: number
  wanderSd: number
  wanderTime: number
  /** What it rounds to. */
  step: number
  /** How long a number stands before the next is shown; how often it is sent; over how long it is smoothed. */
  refresh: number
  every: number
  smoothing: number
}

/** The readings that a device sends of a signal, which is pushed step by step. */
export class ReadOut {
  readonly samples: Sample[] = []
  private wander: number
  private shown = Number.NaN
  private shownAt = Number.NEGATIVE_INFINITY
  private smooth = Number.NaN
  private due = 0

  constructor(
    private readonly device: Device,
    private readonly random: RandomStream,
    private readonly stepSeconds: number,
  ) {
    this.wander = device.wanderSd * random.normal()
  }

  push(t: number, value: number, celsius: number): void {
    const { white, wanderSd, wanderTime, step, refresh, every, smoothing } = this.device
    const { random, stepSeconds } = this
    const keep = Math.exp(-stepSeconds / wanderTime)
    this.wander = this.wander * keep + wanderSd * Math.sqrt(1 - keep * keep) * random.normal()
    const signal = value + this.wander + white * random.normal()
    const isFirst = Number.isNaN(this.smooth)
    this.smooth =
      isFirst || smoothing === 0
        ? signal
        : this.smooth + (stepSeconds / (stepSeconds + smoothing)) * (signal - this.smooth)
    if (t + 1e-9 < this.due) return
    this.due = t + every
    if (t - this.shownAt >= refresh) {
      this.shown = Math.round(this.smooth / step) * step
      this.shownAt = t
    }
    this.samples.push({ t, value: this.shown, temperature: Math.round((celsius + 0.02 * random.normal()) * 100) / 100 })
  }
}
