import type { Finding } from '../calibration/finding.ts'
import { PH_LIMITS } from '../calibration/findings.ts'

export type Decision = 'leave-alone' | 'adjust' | 'clean-and-recheck' | 'replace' | 'repeat'

export interface ProposedDecision {
  decision: Decision
  reason: string
}

export type ToleranceVerdict = 'in' | 'too-close-to-tell' | 'out'

/**
 * Tolerance decision with a guard band as wide as the uncertainty (JCGM 106:2012, guarded acceptance and
 * guarded rejection): what lies between is too close to tell.
 * @param error displayed minus true
 * @param uncertainty half-width of its 95 % interval, same unit
 * @param tolerance largest allowed size of the error, same unit, positive
 */
export function judgeTolerance(error: number, uncertainty: number, tolerance: number): ToleranceVerdict {
  const size = Math.abs(error)
  if (size + uncertainty <= tolerance) return 'in'
  return size - uncertainty > tolerance ? 'out' : 'too-close-to-tell'
}

/** Error above this share of the tolerance is worth an adjustment (common practice, no source). */
const ADJUST_ABOVE = 0.5

export interface TwoPointEvidence {
  findings: readonly Finding[]
  slopeEfficiency: number
  zero: number
  /** Error at the process value as the device stands, displayed minus true, pH. */
  error: number
  uncertainty: number
  tolerance: number
  cleaned: boolean
}

/** Proposes what to do with a two-point result; the operator decides. */
export function proposeAfterTwoPoints(evidence: TwoPointEvidence): ProposedDecision {
  const { findings, slopeEfficiency, zero, error, uncertainty, tolerance, cleaned } = evidence
  const stop = findings.find((f) => f.severity === 'stop')
  if (stop) return { decision: 'repeat', reason: `${stop.sentence} ${stop.advice}` }
  const wornOut = slopeEfficiency < PH_LIMITS.slopeReplace || Math.abs(zero) > PH_LIMITS.zeroReplace
  if (wornOut) {
    const what = `Slope ${(100 * slopeEfficiency).toFixed(1)} %, zero ${zero.toFixed(1)} mV.`
    return cleaned
      ? { decision: 'replace', reason: `${what} It has been cleaned already: replace it.` }
      : { decision: 'clean-and-recheck', reason: `${what} Clean it and measure again before you give it up.` }
  }
  const doubtful = findings.find((f) => ['slope-high', 'lot-expired', 'change-larger-than-drift'].includes(f.code))
  if (doubtful) return { decision: 'repeat', reason: `${doubtful.sentence} ${doubtful.advice}` }
  const shown = `${Math.abs(error).toFixed(2)} pH`
  const limit = tolerance.toFixed(2)
  if (Math.abs(error) > ADJUST_ABOVE * tolerance) {
    const verdict = judgeTolerance(error, uncertainty, tolerance)
    const weight = verdict === 'out' ? `beyond your limit of ${limit}` : `more than half of your limit of ${limit}`
    return {
      decision: 'adjust',
      reason: `It reads ${shown} too ${error > 0 ? 'high' : 'low'} at the process value, ${weight}.`,
    }
  }
  return {
    decision: 'leave-alone',
    reason: `It is ${shown} off at the process value; your limit is ${limit}. An adjustment would add more error than it takes away.`,
  }
}

/**
 * Proposes what to do after a check in one buffer.
 * @param shown value displayed in the buffer; @param right the buffer's value at its temperature
 */
export function proposeAfterCheck(
  shown: number,
  right: number,
  uncertainty: number,
  tolerance: number,
): ProposedDecision {
  const error = shown - right
  const verdict = judgeTolerance(error, uncertainty, tolerance)
  const words = `It reads ${shown.toFixed(2)} where ${right.toFixed(2)} is right; your limit is ${tolerance.toFixed(2)}.`
  if (verdict === 'in') return { decision: 'leave-alone', reason: words }
  if (verdict === 'out') return { decision: 'adjust', reason: words }
  return {
    decision: 'adjust',
    reason: `${words} That is too close to tell within ± ${uncertainty.toFixed(2)}: calibrate to be sure.`,
  }
}
