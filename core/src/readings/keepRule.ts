import type { ReadingState } from './readingState.ts'

/** Never more often than this, ms. */
export const AT_MOST_EVERY_MS = 10_000
/** Of how many deviations a move is more than chance: of two readings one in forty thousand differs by more. */
const NOISE_STEPS = 6
/** Share that the newest difference has in what is known of the noise. */
const NEWEST_SHARE = 0.02
/** Mean absolute difference of two readings of normal noise, in standard deviations: 2 / sqrt(pi). */
const MEAN_DIFFERENCE = 2 / Math.sqrt(Math.PI)

interface Reading {
  /** Epoch ms. */
  at: number
  /** Null where there is none. */
  value: number | null
  state: ReadingState
}

interface Rule {
  /** What one step of the display is worth, in the unit of the value; above 0. */
  step: number
  /** At least this often, ms. */
  everyMs: number
}

/**
 * Which readings of a sensor are kept: one that moved from the last kept by more than a step of the display and more
 * than its noise, one of another state, and one now and then in any case. What is left out lies within a step of what
 * is there. The noise is learned from the differences of successive readings; common practice of data loggers
 * ("exception and deadband reporting"), no source for the figures.
 */
export class KeepRule {
  private kept: Reading | null = null
  private before: number | null = null
  private difference: number | null = null

  constructor(private readonly rule: Rule) {
    if (!(rule.step > 0) || !(rule.everyMs > 0)) throw new RangeError('A step and a time are above 0.')
  }

  /** Whether a reading is kept. Those older than the last kept are not. */
  isKept(reading: Reading): boolean {
    this.learn(reading.value)
    if (!this.wants(reading)) return false
    this.kept = reading
    return true
  }

  private wants({ at, value, state }: Reading): boolean {
    const last = this.kept
    if (!last) return true
    if (at <= last.at) return false
    // That it went blind, or into a buffer, is known to the second.
    if (state !== last.state) return true
    if (value === null) return false
    const since = at - last.at
    if (since >= this.rule.everyMs) return true
    if (since < AT_MOST_EVERY_MS) return false
    return last.value === null || Math.abs(value - last.value) > this.least
  }

  /** A move of less is none. */
  private get least(): number {
    const deviation = (this.difference ?? 0) / MEAN_DIFFERENCE
    return Math.max(this.rule.step, NOISE_STEPS * deviation)
  }

  private learn(value: number | null): void {
    if (value !== null && this.before !== null) {
      const difference = Math.abs(value - this.before)
      this.difference =
        this.difference === null ? difference : this.difference + NEWEST_SHARE * (difference - this.difference)
    }
    this.before = value
  }
}
