/** What went wrong with one physical quantity, for a sentence at the field that it came from. */
export interface RangeViolation {
  quantity: string
  value: number
  low: number
  high: number
  unit: string
}

/**
 * Thrown when a quantity lies outside the range in which a formula or table holds.
 * Nothing in core clamps silently or answers NaN instead.
 */
export class OutOfRange extends Error {
  readonly violation: RangeViolation

  constructor(violation: RangeViolation) {
    const { quantity, value, low, high, unit } = violation
    const span = `${low} to ${high}${unit ? ` ${unit}` : ''}`
    super(`${quantity} is ${Number.isFinite(value) ? value : 'not a number'}; it must lie within ${span}.`)
    this.name = 'OutOfRange'
    this.violation = violation
  }
}

/** Returns the value, or throws OutOfRange when it is not finite or outside [low, high]. */
export function requireWithin(quantity: string, value: number, low: number, high: number, unit = ''): number {
  if (!Number.isFinite(value) || value < low || value > high) {
    throw new OutOfRange({ quantity, value, low, high, unit })
  }
  return value
}

/** What a function gives, or null where the numbers leave its range. Other errors pass. */
export function nullIfOutOfRange<T>(compute: () => T): T | null {
  try {
    return compute()
  } catch (error) {
    if (error instanceof OutOfRange) return null
    throw error
  }
}
