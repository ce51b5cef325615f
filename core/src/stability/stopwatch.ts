import type { Sample } from './opinion.ts'

/** A school of waiting by the clock: says at each sample whether it would take the reading now. */
export interface Stopwatch {
  push(sample: Sample): boolean
}

/** "It has not moved for N seconds": accepts when all readings of the last `seconds` lie within `movement`. */
export function stillFor(seconds: number, movement: number): Stopwatch {
  let anchor: { t: number; value: number } | null = null
  return {
    push({ t, value }) {
      if (value === null) return false
      if (!anchor || Math.abs(value - anchor.value) > movement) anchor = { t, value }
      return t - anchor.t >= seconds
    },
  }
}

/** "Wait two minutes, then read": accepts at the first sample at or after `seconds`. */
export function flatWait(seconds: number): Stopwatch {
  let start: number | null = null
  return {
    push(sample) {
      start ??= sample.t
      return sample.t - start >= seconds
    },
  }
}
