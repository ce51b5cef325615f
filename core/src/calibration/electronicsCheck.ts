import { requireWithin } from '../quantities/outOfRange.ts'
import { leastSquares } from '../statistics/leastSquares.ts'
import type { Finding } from './finding.ts'

/** One known input from a simulator or decade box, and what the transmitter showed; all in the unit shown. */
export interface SimulatorStep {
  /** What it should show for this input. */
  right: number
  asFound: number
  /** After an adjustment; null where none was made. */
  asLeft: number | null
  /** Was this input reached from below or from above? */
  direction: 'up' | 'down'
}

export interface ElectronicsResult {
  /** Shown per right, 1 for a sound transmitter. */
  gain: number
  /** Error at the zero of its scale: where the input is 0. */
  zero: number
  /** Largest distance from the straight line through all steps. */
  linearity: number
  /** Whether each step is on that line within its own tolerance. */
  isLinear: boolean
  /** Largest difference at the same input between going up and coming down; null where no input was met both ways. */
  hysteresis: number | null
  /** Largest error, shown minus right, with its sign. */
  largestError: number
  /** Whether each step is right within its own tolerance. */
  withinTolerance: boolean
}

export interface ElectronicsLimits {
  /** Largest allowed error where this is right; more than 0. */
  toleranceAt(right: number): number
  /** What is right for an input of 0: pH 7 for a pH transmitter. */
  zeroAt: number
}

export interface ElectronicsCheck {
  asFound: ElectronicsResult
  /** null unless every step was measured again. */
  asLeft: ElectronicsResult | null
}

function judge(
  steps: readonly { right: number; shown: number; direction: 'up' | 'down' }[],
  { toleranceAt, zeroAt }: ElectronicsLimits,
): ElectronicsResult {
  const line = leastSquares(
    steps.map((s) => s.right),
    steps.map((s) => s.shown),
  )
  const errors = steps.map((s) => s.shown - s.right)
  const gaps = steps.flatMap((up) =>
    steps
      .filter((down) => up.direction === 'up' && down.direction === 'down' && down.right === up.right)
      .map((down) => Math.abs(up.shown - down.shown)),
  )
  const largestError = errors.reduce((worst, e) => (Math.abs(e) > Math.abs(worst) ? e : worst), 0)
  const offLine = steps.map((s) => Math.abs(s.shown - line.intercept - line.slope * s.right))
  const isWithin = (apart: number, i: number) => apart <= toleranceAt((steps[i] as { right: number }).right)
  return {
    gain: line.slope,
    zero: line.intercept + line.slope * zeroAt - zeroAt,
    linearity: Math.max(...offLine),
    isLinear: offLine.every(isWithin),
    hysteresis: gaps.length > 0 ? Math.max(...gaps) : null,
    largestError,
    withinTolerance: errors.map(Math.abs).every(isWithin),
  }
}

/**
 * Check of a transmitter's electronics with a simulator in place of the sensor.
 * @param steps two or more different inputs
 * @param limits in the unit shown
 * @throws RangeError for fewer than two different inputs; OutOfRange for readings that are no numbers
 */
export function checkElectronics(steps: readonly SimulatorStep[], limits: ElectronicsLimits): ElectronicsCheck {
  for (const s of steps) {
    requireWithin('Tolerance', limits.toleranceAt(s.right), 1e-12, 1e9)
    requireWithin('Right value', s.right, -1e9, 1e9)
    requireWithin('Shown as found', s.asFound, -1e9, 1e9)
    if (s.asLeft !== null) requireWithin('Shown as left', s.asLeft, -1e9, 1e9)
  }
  const found = steps.map(({ right, asFound, direction }) => ({ right, shown: asFound, direction }))
  const left = steps.flatMap(({ right, asLeft, direction }) =>
    asLeft === null ? [] : [{ right, shown: asLeft, direction }],
  )
  return {
    asFound: judge(found, limits),
    asLeft: steps.length > 0 && left.length === steps.length ? judge(left, limits) : null,
  }
}

/** What a transmitter must show with nothing connected, or with its input shorted. */
export type OpenOrShort = 'over-range' | 'under-range' | 'fault' | 'zero'

/** Whether a transmitter answered to an open circuit or a short as it should; a finding when it did not. */
export function checkOpenOrShort(
  which: 'open circuit' | 'short',
  wanted: OpenOrShort,
  seen: OpenOrShort | 'a value',
): Finding[] {
  if (wanted === seen) return []
  return [
    {
      code: 'no-response',
      severity: 'warn',
      sentence: `With the input on ${which} the transmitter answers "${seen}"; it should answer "${wanted}".`,
      advice: 'A broken cable would go unnoticed. Look for a wet connector or a bridge in the terminals.',
      numbers: {},
    },
  ]
}
