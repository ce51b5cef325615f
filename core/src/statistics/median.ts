/**
 * Quantile by linear interpolation between order statistics (Hyndman and Fan type 7). Throws on an empty list.
 * @example quantile([1, 2, 3, 4], 0.75) // 3.25
 */
export function quantile(values: readonly number[], p: number): number {
  if (values.length === 0) throw new RangeError('The quantile of no values is undefined.')
  const sorted = Float64Array.from(values).sort()
  const place = (sorted.length - 1) * p
  const below = Math.floor(place)
  const low = sorted[below] as number
  const high = sorted[Math.min(below + 1, sorted.length - 1)] as number
  return low + (high - low) * (place - below)
}

/**
 * Middle value; mean of the two middle ones for an even count. Throws on an empty list.
 * @example median([3, 1, 2]) // 2
 */
export function median(values: readonly number[]): number {
  return quantile(values, 0.5)
}

/**
 * Median absolute deviation, scaled by 1.4826 so that it estimates the standard deviation of normal data.
 * @example scaledMad([1, 2, 3, 4, 100]) // 1.4826
 */
export function scaledMad(values: readonly number[]): number {
  const middle = median(values)
  return 1.4826 * median(values.map((v) => Math.abs(v - middle)))
}
