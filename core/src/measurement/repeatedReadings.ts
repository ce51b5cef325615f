import { Z95 } from '../statistics/normalDistribution.ts'
import type { CapturedReading } from './capturedReading.ts'

/** More readings of one point than this tell little that fewer do not (common practice, no source). */
export const MOST_READINGS = 3

/** For how many readings the uncertainty that each claims for itself counts, 1 (common practice, no source). */
const CLAIM_COUNTS = 8

/** Student's t, two-sided 95 %, by degrees of freedom (GUM, JCGM 100:2008, table G.2). */
const STUDENT: Readonly<Record<number, number>> = { 9: 2.26, 10: 2.23 }

/** Beyond so many times what each claims for itself readings do not repeat (common practice, no source). */
const APART = 3

export interface RepeatedReadings {
  /** What counts: their mean, with the uncertainty of the mean. The last one gives what has no mean. */
  reading: CapturedReading
  /** Standard deviation of the signals, in the signal's unit. */
  scatter: number
  /** Whether they scatter by more than what each claims for itself explains. */
  apart: boolean
}

/**
 * Several readings of one point as one. The uncertainty of the mean follows from the scatter pooled with what each
 * reading claims for itself: two that agree by chance must not claim to be exact (GUM, JCGM 100:2008, 4.2 and G.3).
 * @param readings two or three, of the same standard
 * @throws RangeError for another number of them
 */
export function meanOfReadings(readings: readonly CapturedReading[]): RepeatedReadings {
  const last = readings.at(-1)
  const n = readings.length
  if (!last || n < 2 || n > MOST_READINGS) throw new RangeError(`${n} readings; two or three have a mean.`)
  const mean = (of: (r: CapturedReading) => number) => readings.reduce((sum, r) => sum + of(r), 0) / n
  const signal = mean((r) => r.signal)
  const squares = readings.reduce((sum, r) => sum + (r.signal - signal) ** 2, 0)
  const scatter = Math.sqrt(squares / (n - 1))
  const claimed = mean((r) => (r.signalUncertainty / Z95) ** 2)
  const freedom = CLAIM_COUNTS + n - 1
  const pooled = (CLAIM_COUNTS * claimed + squares) / freedom
  const standard = last.standard && { ...last.standard, value: mean((r) => r.standard?.value ?? Number.NaN) }
  return {
    reading: {
      ...last,
      signal,
      signalUncertainty: (STUDENT[freedom] ?? Z95) * Math.sqrt(pooled / n),
      temperature: mean((r) => r.temperature),
      // What a display showed is what was read of it, and a mean was not.
      shown: null,
      ...(standard ? { standard } : {}),
    },
    scatter,
    apart: scatter > APART * Math.sqrt(claimed),
  }
}
