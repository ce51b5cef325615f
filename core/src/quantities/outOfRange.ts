import { render } from './render.ts'
import { exactly, type Sentence, say } from './sentence.ts'

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
    super(render(violationSentence(violation)))
    this.name = 'OutOfRange'
    this.violation = violation
  }

  /** The same as data, to stand in a longer sentence. */
  get sentence(): Sentence {
    return violationSentence(this.violation)
  }
}

function violationSentence({ quantity: name, value, low, high, unit }: RangeViolation): Sentence {
  const given = Number.isFinite(value) ? exactly(value) : 'not a number'
  return say`${name} is ${given}; it must lie within ${exactly(low)} to ${exactly(high, unit)}.`
}

/**
 * Returns the value, or throws OutOfRange when it is not finite or outside [low, high].
 * @example requireWithin('pH', 7, 0, 14) // 7
 */
export function requireWithin(quantity: string, value: number, low: number, high: number, unit = ''): number {
  if (!Number.isFinite(value) || value < low || value > high) {
    throw new OutOfRange({ quantity, value, low, high, unit })
  }
  return value
}

/**
 * What a function gives, or null where the numbers leave its range. Other errors pass.
 * @example nullIfOutOfRange(() => nernstSlope(500)) // null
 */
export function nullIfOutOfRange<T>(compute: () => T): T | null {
  try {
    return compute()
  } catch (error) {
    if (error instanceof OutOfRange) return null
    throw error
  }
}
