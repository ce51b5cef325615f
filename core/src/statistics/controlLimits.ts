export interface ControlLimits {
  centre: number
  low: number
  high: number
  /** Indices of values beyond the limits. */
  beyond: number[]
}

/** 3 / d2 for moving ranges of two, d2 = 1.128 (ISO 7870-2:2013, table 1). */
const INDIVIDUALS = 2.66
/** With fewer values the limits would be guesses. Common practice, no source. */
const LEAST_VALUES = 5

/**
 * Limits of a chart of individual values from their moving ranges: mean +- 2.66 mean range (ISO 7870-2:2013, 6.3).
 * @returns null for fewer than five values
 * @example controlLimits([10, 11, 10, 9, 10]) // { centre: 10, low: 7.34, high: 12.66, beyond: [] }
 */
export function controlLimits(values: readonly number[]): ControlLimits | null {
  if (values.length < LEAST_VALUES) return null
  const centre = values.reduce((a, b) => a + b, 0) / values.length
  const ranges = values.slice(1).map((v, i) => Math.abs(v - (values[i] as number)))
  const reach = (INDIVIDUALS * ranges.reduce((a, b) => a + b, 0)) / ranges.length
  const [low, high] = [centre - reach, centre + reach]
  return { centre, low, high, beyond: values.flatMap((v, i) => (v < low || v > high ? [i] : [])) }
}
