import { Delayed } from './delayed.ts'

const HOUR_MS = 3_600_000
/** A difference is the mean of so long, ms: water is not the same everywhere at once. */
const MEAN_MS = 6 * HOUR_MS
/** Of which at least so long is known. */
const LEAST_MS = 3 * HOUR_MS
/** How long it has to last, ms. */
const LASTS_MS = HOUR_MS
/** After a difference began it is raised within so long, ms. */
export const APART_DELAY_MS = MEAN_MS + LASTS_MS
/** Share of all chances that two sound sensors differ by less: 99 %, two-sided. */
const SURE = 2.576
const BACK_SHARE = 0.8

/** By how much two sensors of one water may differ, of the standard deviations of their errors, in their unit. */
export const canExplain = (one: number, other: number): number => SURE * Math.hypot(one, other)

/** Watches the difference of two sensors in the same water. */
export class ApartWatch {
  private readonly alarm: Delayed
  private differences: { at: number; difference: number }[] = []
  private sum = 0

  constructor(isRaised = false) {
    this.alarm = new Delayed(isRaised)
  }

  get isRaised(): boolean {
    return this.alarm.isRaised
  }

  /** Their mean difference of the last hours; null while too little is known. */
  get mean(): number | null {
    const [first, last] = [this.differences[0], this.differences.at(-1)]
    if (!first || !last || last.at - first.at < LEAST_MS) return null
    return this.sum / this.differences.length
  }

  /**
   * Differences come once a minute or more slowly, in the order of their times; those of a visit or a hold do not come.
   * Returns whether it was raised, or is well again, by this one.
   * @param most by how much both can differ, in their unit; above 0
   */
  push(at: number, difference: number, most: number): boolean {
    this.differences.push({ at, difference })
    this.sum += difference
    let old = 0
    while ((this.differences[old]?.at ?? at) < at - MEAN_MS) this.sum -= this.differences[old++]?.difference ?? 0
    if (old > 0) this.differences.splice(0, old)
    const { mean } = this
    if (mean === null) return false
    const limit = this.isRaised ? BACK_SHARE * most : most
    return this.alarm.push(at, Math.abs(mean) > limit, LASTS_MS)
  }

  /** One of them was adjusted: what they differed by says nothing any more. */
  begin(): void {
    this.differences = []
    this.sum = 0
    this.alarm.gap()
  }
}
