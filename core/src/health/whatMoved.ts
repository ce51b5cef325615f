import { choleskyFactor, dot } from '../statistics/cholesky.ts'
import type { Fit } from './features.ts'

/** A reading in a standard, against what the calibration before foresaw. */
export interface StandardReading {
  code: string
  /** mV off, and mV between this standard and the zero point of an ideal sensor. */
  off: number
  span: number
}

/** Scatter of one reading, mV, and what a sensor usually drifts between visits: mV, and share of slope (sd). Common practice, no source. */
const SCATTER = 1
const USUAL = { zero: 2.5, slope: 0.008 }
/** Sizes of what is out of the ordinary (sd). */
const ZEROS = [8, 25]
const SLOPES = [0.04, 0.3]
const OFFSETS = [6, 20, 60]

/**
 * What it was that moved since the calibration before: the sensor, which shows in all its readings by zero or slope; one
 * standard, in all its readings; or a single reading. Where nothing moved, all three fit alike.
 * @returns null for fewer than three readings, or only one standard
 */
export function whatMovedFit(readings: readonly StandardReading[]): Fit<'whatMoved'> | null {
  const codes = [...new Set(readings.map((r) => r.code))]
  if (readings.length < 3 || codes.length < 2) return null
  const spans = readings.map((r) => r.span)
  const ones = readings.map(() => 1)
  const offs = Float64Array.from(readings, (r) => r.off)
  const likelihood = (extra: readonly (readonly [number, readonly number[]])[]): number => {
    const parts = [[USUAL.zero, ones] as const, [USUAL.slope, spans] as const, ...extra]
    const covariance = spans.map((_, i) =>
      spans.map((_, j) =>
        parts.reduce((sum, [sd, v]) => sum + sd ** 2 * (v[i] as number) * (v[j] as number), i === j ? SCATTER ** 2 : 0),
      ),
    )
    const { logDeterminant, whitened } = choleskyFactor(covariance)
    const rest = whitened(offs)
    return -0.5 * (logDeterminant + dot(rest, rest))
  }
  const only = (is: (r: StandardReading, i: number) => boolean) => readings.map((r, i) => (is(r, i) ? 1 : 0))
  const all = [
    ...ZEROS.map((zero) => likelihood([[zero, ones]])),
    ...SLOPES.map((slope) => likelihood([[slope, spans]])),
    ...ZEROS.flatMap((zero) =>
      SLOPES.map((slope) =>
        likelihood([
          [zero, ones],
          [slope, spans],
        ]),
      ),
    ),
  ]
  const standard = codes.flatMap((code) => OFFSETS.map((size) => likelihood([[size, only((r) => r.code === code)]])))
  const reading = readings.flatMap((_, at) => OFFSETS.map((size) => likelihood([[size, only((_, i) => i === at)]])))
  const nothing = likelihood([])
  const top = Math.max(nothing, ...all, ...standard, ...reading)
  const mean = (logs: readonly number[]) => logs.reduce((sum, log) => sum + Math.exp(log - top), 0) / logs.length
  const still = Math.exp(nothing - top)
  return {
    'every reading': still + mean(all),
    'one standard': still + mean(standard),
    'one reading': still + mean(reading),
  }
}
