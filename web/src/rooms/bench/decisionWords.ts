import type { Decision } from '@frustum/core'

export const DECISION_WORDS: Record<Decision, string> = {
  'leave-alone': 'Leave it alone',
  adjust: 'Adjust',
  'clean-and-recheck': 'Clean and recheck',
  condition: 'Soak it first',
  replace: 'Replace it',
  repeat: 'Take the points again',
}

/** After a check nothing can be adjusted yet: the visit goes on to a calibration. */
export const decisionWord = (decision: Decision, step: string) =>
  step === 'verdict' && decision === 'adjust' ? 'Go on and calibrate' : DECISION_WORDS[decision]
