import type { Finding } from '../calibration/finding.ts'
import { difference, type Quantity, type Sentence, say } from '../quantities/sentence.ts'

export const DECISIONS = ['leave-alone', 'adjust', 'clean-and-recheck', 'condition', 'replace', 'repeat'] as const
export type Decision = (typeof DECISIONS)[number]

/** What each decision is called on a button. */
export const DECISION_WORDS: Record<Decision, string> = {
  'leave-alone': 'Leave it alone',
  adjust: 'Adjust',
  'clean-and-recheck': 'Clean and recheck',
  condition: 'Soak it first',
  replace: 'Replace it',
  repeat: 'Take the points again',
}

/**
 * After a check nothing can be adjusted yet: the visit goes on to a calibration.
 * @example decisionWords('adjust', true) // 'Go on and calibrate'
 */
export const decisionWords = (decision: Decision, afterCheck: boolean): string =>
  afterCheck && decision === 'adjust' ? 'Go on and calibrate' : DECISION_WORDS[decision]

/**
 * The same within a sentence: "decided to leave it alone".
 * @example decisionInfinitive('leave-alone', false) // 'leave it alone'
 */
export const decisionInfinitive = (decision: Decision, afterCheck: boolean): string => {
  const words = decisionWords(decision, afterCheck)
  return `${words.charAt(0).toLowerCase()}${words.slice(1)}`
}

export interface ProposedDecision {
  decision: Decision
  reason: Sentence
}

export type ToleranceVerdict = 'in' | 'too-close-to-tell' | 'out'

/**
 * Tolerance decision with a guard band as wide as the uncertainty (JCGM 106:2012, guarded acceptance and
 * guarded rejection): what lies between is too close to tell.
 * @param error displayed minus true
 * @param uncertainty half-width of its 95 % interval, same unit
 * @param tolerance largest allowed size of the error, same unit, positive
 * @example judgeTolerance(0.09, 0.02, 0.1) // 'too-close-to-tell'
 */
export function judgeTolerance(error: number, uncertainty: number, tolerance: number): ToleranceVerdict {
  const size = Math.abs(error)
  if (size + uncertainty <= tolerance) return 'in'
  return size - uncertainty > tolerance ? 'out' : 'too-close-to-tell'
}

/** Error above this share of the tolerance is worth an adjustment (common practice, no source). */
const ADJUST_ABOVE = 0.5

export interface CalibrationEvidence {
  findings: readonly Finding[]
  /** Error at the process value as the device stands, displayed minus right. */
  error: number
  uncertainty: number
  tolerance: number
  /** Displayed minus right in the sample, where that is what was measured: it may differ from the error at the process value. */
  atSample?: number
  /** Unit and decimals of those four. */
  scale: { unit: string; decimals: number }
  cleaned: boolean
  /** Whether the points were taken again already. */
  repeated: boolean
  /** Codes of the findings for which they were. */
  doubted?: readonly Finding['code'][]
  /** What says that the sensor is worn out, in a sentence; null when nothing does. */
  worn: Sentence | null
  /** A sensor that may recover in its storage solution, in a sentence, and whether it was left there already. */
  mayRecover?: { sentence: Sentence; soaked: boolean } | null
  /** Decided by the maker: tested, never adjusted. */
  neverAdjust?: boolean
  /** Whether the site's rule is to calibrate at each visit. */
  routine?: boolean
}

/** Why an adjustment is proposed that the error alone would not need. */
export const ROUTINE = 'Your rule for this sensor is to calibrate at each visit.'

/** Findings after which a result is not believed before it was repeated. */
const DOUBTFUL: readonly Finding['code'][] = [
  'slope-high',
  'lot-expired',
  'change-larger-than-drift',
  'segments-disagree',
  'correction-implausible',
  'temperatures-apart',
  'key-without-effect',
  'gap-outside',
  'repeats-apart',
]

/** Findings that a second measurement settles: seen again, they are believed. */
const SETTLED_BY_REPEAT: readonly Finding['code'][] = ['change-larger-than-drift', 'correction-implausible']

/**
 * Proposes what to do with a calibration's result; the operator decides.
 * @example proposeAfterCalibration({ findings: [], error: 0.02, uncertainty: 0.02, tolerance: 0.1, scale: { unit: 'pH', decimals: 2 }, cleaned: true, repeated: false, worn: null }).decision // 'leave-alone'
 */
export function proposeAfterCalibration(evidence: CalibrationEvidence): ProposedDecision {
  const { findings, error, uncertainty, tolerance, scale, cleaned, worn, mayRecover } = evidence
  const stop = findings.find((f) => f.severity === 'stop')
  if (stop?.code === 'no-response' && evidence.repeated) {
    return { decision: 'replace', reason: say`${stop.sentence} It was so twice: replace it.` }
  }
  if (stop) return { decision: 'repeat', reason: say`${stop.sentence} ${stop.advice}` }
  if (mayRecover && !mayRecover.soaked) return { decision: 'condition', reason: mayRecover.sentence }
  if (worn) {
    return cleaned
      ? { decision: 'replace', reason: say`${worn} It has been cleaned already: replace it.` }
      : { decision: 'clean-and-recheck', reason: say`${worn} Clean it and measure again before you give it up.` }
  }
  const isSettled = (f: Finding) => SETTLED_BY_REPEAT.includes(f.code) && evidence.doubted?.includes(f.code) === true
  const doubtful = findings.find((f) => f.severity !== 'note' && DOUBTFUL.includes(f.code) && !isSettled(f))
  if (doubtful) return { decision: 'repeat', reason: say`${doubtful.sentence} ${doubtful.advice}` }
  const size = difference(Math.abs(error), scale.unit, scale.decimals)
  const limit = difference(tolerance, scale.unit, scale.decimals)
  const high = error > 0 ? 'high' : 'low'
  const inSample = errorInSample(evidence)
  if (Math.abs(error) > ADJUST_ABOVE * tolerance) {
    const isBeyond = Math.abs(error) > tolerance
    const unsure = difference(uncertainty, scale.unit, scale.decimals)
    const isOpen = isBeyond && judgeTolerance(error, uncertainty, tolerance) !== 'out'
    const weight = isBeyond ? say`beyond your limit of ${limit}` : say`more than half of your limit of ${limit}`
    const doubt = isOpen ? say` That is too close to tell within ± ${unsure}.` : ''
    const reason = say`${inSample}It reads ${size} too ${high} at the process value, ${weight}.${doubt}`
    if (!evidence.neverAdjust) return { decision: 'adjust', reason }
    return cleaned
      ? { decision: 'replace', reason: say`${reason} It is not adjusted here: clean it once more, or replace it.` }
      : { decision: 'clean-and-recheck', reason: say`${reason} It is not adjusted here: clean it and test again.` }
  }
  const within = say`${inSample}It is ${size} off at the process value; your limit is ${limit}.`
  if (evidence.routine && !evidence.neverAdjust) return { decision: 'adjust', reason: say`${within} ${ROUTINE}` }
  return {
    decision: 'leave-alone',
    reason: say`${within} An adjustment would add more error than it takes away.`,
  }
}

/** The error that was measured in the sample, where the one at the process value is another number. */
function errorInSample({ error, atSample, scale: { unit, decimals } }: CalibrationEvidence): Sentence {
  if (atSample === undefined || atSample.toFixed(decimals) === error.toFixed(decimals)) return ''
  const size = difference(Math.abs(atSample), unit, decimals)
  return say`In the sample it reads ${size} too ${atSample > 0 ? 'high' : 'low'}. `
}

/**
 * Proposes what to do after a check in one standard.
 * @param shown what the device shows, and what is right there, on the scale of the display
 * @param error displayed minus right, its 95 % half-width and the tolerance, in the unit of errors
 * @example proposeAfterCheck({ shown: quantity(7.3, 'pH', 2), right: quantity(7.02, 'pH', 2), limit: difference(0.1, 'pH', 2), unsure: difference(0.02, 'pH', 2) }, 0.28, 0.02, 0.1).decision // 'adjust'
 */
export function proposeAfterCheck(
  words: { shown: Quantity; right: Quantity; limit: Quantity; unsure: Quantity },
  error: number,
  uncertainty: number,
  tolerance: number,
): ProposedDecision {
  const verdict = judgeTolerance(error, uncertainty, tolerance)
  const reason = say`It reads ${words.shown} where ${words.right} is right; your limit is ${words.limit}.`
  if (verdict === 'in') return { decision: 'leave-alone', reason }
  if (verdict === 'out') return { decision: 'adjust', reason }
  return {
    decision: 'adjust',
    reason: say`${reason} That is too close to tell within ± ${words.unsure}: calibrate to be sure.`,
  }
}
