import { requireWithin } from '../quantities/outOfRange.ts'
import { exactly, inPercent, quantity, say } from '../quantities/sentence.ts'
import { type Budget, input, propagate } from '../uncertainty/propagation.ts'
import type { Finding } from './finding.ts'

/** A sample taken at the sensor and measured elsewhere; all values in the sensor's unit. */
export interface ReferenceSample {
  /** Reading of the sensor at the moment of the sample, kept since. */
  frozen: number
  frozenUncertainty: number
  /** Result of the other method. */
  result: number
  resultUncertainty: number
  /** Between taking the sample and measuring it, h. */
  ageHours: number
  /** Did the water flow past the sensor when the sample was taken? */
  flowOn: boolean
}

export interface SampleRules {
  /** Results below this are noise, in the sensor's unit. */
  floor: number
  /** A sample older than this is another water, h: minutes for chlorine, a day for nitrate kept cold. */
  oldestHours: number
  /** A correction larger than this share of the reading is not believed, 1. */
  largestCorrection: number
}

export interface SampleCorrection {
  /** By what the sensor's slope is to be multiplied; null where the reading is 0. */
  factor: Budget | null
  /** What is to be added to its reading. */
  offset: Budget
  findings: Finding[]
  /** Do the two agree within their uncertainties (En at most 1)? Then leave it alone. */
  agrees: boolean
}

/**
 * Correction from a reference sample: always result minus the frozen reading, never minus the reading of now.
 * @throws OutOfRange for values below 0 or ages that are none
 */
export function correctFromSample(sample: ReferenceSample, rules: SampleRules): SampleCorrection {
  const { frozen, frozenUncertainty, result, resultUncertainty, ageHours, flowOn } = sample
  requireWithin('Reading at the moment of the sample', frozen, 0, 1e6)
  requireWithin('Result of the sample', result, 0, 1e6)
  requireWithin('Age of the sample', ageHours, 0, 1e5, 'h')
  const inputs = [input('Reading', frozen, frozenUncertainty), input('Result', result, resultUncertainty)]
  const offset = propagate(([f, r]) => (r as number) - (f as number), inputs)
  const factor = frozen > 0 ? propagate(([f, r]) => (r as number) / Math.max(f as number, 1e-9), inputs) : null
  const findings: Finding[] = []
  if (ageHours > rules.oldestHours) {
    findings.push({
      code: 'sample-too-old',
      severity: 'stop',
      sentence: say`The sample was ${quantity(ageHours, 'h', 1)} old when it was measured; ${exactly(rules.oldestHours, 'h')} is the most.`,
      advice: 'Take a new one. What changes in the bottle is not the sensor\u2019s error.',
      numbers: { ageHours, oldestHours: rules.oldestHours },
    })
  }
  if (!flowOn) {
    findings.push({
      code: 'flow-off',
      severity: 'stop',
      sentence: 'No water flowed past the sensor when the sample was taken.',
      advice: 'Set the flow, wait until the reading stands, and sample again.',
      numbers: {},
    })
  }
  if (result < rules.floor) {
    findings.push({
      code: 'result-below-floor',
      severity: 'stop',
      sentence: say`The result, ${exactly(result)}, is below ${exactly(rules.floor)}: a slope from it is noise.`,
      advice: 'Wait for a higher value in the process, or use a standard.',
      numbers: { result, floor: rules.floor },
    })
  }
  const share = Math.abs(offset.value) / Math.max(frozen, 1e-9)
  if (share > rules.largestCorrection) {
    findings.push({
      code: 'correction-implausible',
      severity: 'warn',
      sentence: say`The correction is ${inPercent(share, 0)} of the reading; more than ${inPercent(rules.largestCorrection, 0)} is more likely a slip than drift.`,
      advice: 'Check the unit, the dilution and the bottle, and sample again before you believe it.',
      numbers: { share, largest: rules.largestCorrection },
    })
  }
  return { factor, offset, findings, agrees: Math.abs(offset.value) <= offset.uncertainty }
}
