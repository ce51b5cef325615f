/** Between which values the water should be, in the unit that is shown; what is missing is not watched. */
export interface AlarmLimits {
  lowLow?: number | undefined
  low?: number | undefined
  high?: number | undefined
  highHigh?: number | undefined
  /** How much it may change in an hour, in the same unit; above 0. */
  perHour?: number | undefined
  /** How far it may be from a sensor of its kind in the same water; above 0. Missing: what both can explain. */
  apart?: number | undefined
  /** How far back inside a limit it has to be to be well again, in the same unit; 0 or more. */
  hysteresis: number
  /** How long it has to be beyond, and back again, s. */
  delaySeconds: number
}

/**
 * What is wrong with limits as they were typed, in a sentence; null where nothing is.
 * @param range what the device can show
 */
export function limitsProblem(limits: AlarmLimits, range: { low: number; high: number }): string | null {
  const { lowLow, low, high, highHigh, perHour, apart, hysteresis, delaySeconds } = limits
  const order = [lowLow, low, high, highHigh].filter((v): v is number => v !== undefined)
  if (order.some((v) => !Number.isFinite(v) || v < range.low || v > range.high))
    return `Limits lie between ${range.low} and ${range.high}.`
  if (order.some((v, i) => i > 0 && v <= (order[i - 1] as number))) return 'Limits rise: lowest, low, high, highest.'
  if ([perHour, apart].some((v) => v !== undefined && !(v > 0 && Number.isFinite(v))))
    return 'A change in an hour, and a difference, are above 0.'
  const width = low !== undefined && high !== undefined ? high - low : Number.POSITIVE_INFINITY
  if (!(hysteresis >= 0) || hysteresis * 2 >= width) return 'The way back is less than half the width of the limits.'
  if (!(delaySeconds >= 0) || delaySeconds > 86_400) return 'It may wait for a day at most.'
  return null
}
