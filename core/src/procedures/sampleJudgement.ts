import type { Finding } from '../calibration/finding.ts'
import { ionZeroShift } from '../calibration/ionCalibration.ts'
import { calibratePhOnePoint } from '../calibration/phMultiPoint.ts'
import { correctFromSample, type SampleRules } from '../calibration/sampleCorrection.ts'
import { findUnitSlip } from '../calibration/slips.ts'
import { type CalibrationParameters, ionElectrodeAt, phCharacteristic, type SensorKind } from '../kinds/index.ts'
import { OutOfRange } from '../quantities/outOfRange.ts'
import { nullIfOutOfRange, slipKindOf } from '../visits/liveFindings.ts'
import { calibrationResult, findingsOfReadings } from './assess.ts'
import type { Assessment, CapturedReading, FieldSpec, VisitState } from './procedure.ts'
import { errorText, shownText } from './words.ts'

/**
 * Correction by a sample that was taken at the sensor and measured elsewhere, minutes or days later. The correction is
 * result minus the reading frozen at that moment, never minus the reading of now.
 */

/** By what the sample is measured, and what a result may be. Common practice, no source. */
const RULES: Record<SensorKind, SampleRules & { unit: string; decimals: number; usual: string }> = {
  ph: { floor: -1, oldestHours: 2, largestCorrection: 0.2, unit: 'pH', decimals: 2, usual: '0.05' },
  orp: {
    floor: -2000,
    oldestHours: 1,
    largestCorrection: 1,
    unit: 'mV',
    decimals: 0,
    usual: '15',
  },
  conductivity: {
    floor: 0.05,
    oldestHours: 24,
    largestCorrection: 0.4,
    unit: '',
    decimals: 2,
    usual: '1',
  },
  ion: {
    floor: 0.1,
    oldestHours: 24,
    largestCorrection: 0.6,
    unit: 'mg/L',
    decimals: 1,
    usual: '2',
  },
  chlorine: {
    floor: 0.1,
    oldestHours: 0.5,
    largestCorrection: 0.6,
    unit: 'mg/L',
    decimals: 2,
    usual: '0.05',
  },
  'nitrate-optical': {
    floor: 0.3,
    oldestHours: 24,
    largestCorrection: 0.6,
    unit: 'mg/L',
    decimals: 2,
    usual: '0.3',
  },
  temperature: {
    floor: -50,
    oldestHours: 1,
    largestCorrection: 1,
    unit: '°C',
    decimals: 1,
    usual: '0.2',
  },
}

const rulesOf = (e: VisitState) => RULES[e.setup.kind]

export function resultFields(e: VisitState): FieldSpec[] {
  const rules = rulesOf(e)
  const scale = e.model.shownScale(e.setup.device)
  const { unit, decimals } = { unit: rules.unit || scale.unit, decimals: rules.unit ? rules.decimals : scale.decimals }
  return [
    {
      key: 'result',
      label: 'Result of the sample',
      kind: 'number',
      unit,
      ...e.model.shownRange(e.setup.device),
      decimals,
      hint: `In ${unit === 'pH' ? 'pH' : unit}, as the sensor shows it.`,
    },
    {
      key: 'uncertainty',
      label: 'Good to ±',
      kind: 'number',
      unit,
      low: 10 ** -decimals / 10,
      high: e.model.shownRange(e.setup.device).high,
      decimals,
      usual: rules.usual,
      hint: 'Half-width that holds 95 %: from the laboratory\u2019s sheet, or what the kit\u2019s steps allow.',
    },
    {
      key: 'ageMinutes',
      label: 'Measured after',
      kind: 'number',
      unit: 'min',
      low: 0,
      high: 60 * 24 * 14,
      decimals: 0,
      usual: '5',
      hint: `From sample to measurement; at most ${rules.oldestHours < 1 ? `${60 * rules.oldestHours} min` : `${rules.oldestHours} h`}.`,
    },
    { key: 'method', label: 'By which method', kind: 'text', optional: true, hint: 'Kit, photometer, laboratory.' },
  ]
}

/** A value as the device shows it, taken back to core units at the moment of the sample. */
function coreValue(e: VisitState, shown: number, reading: CapturedReading): number {
  const { model, setup } = e
  const signal = model.fromShown(shown, reading.temperature, setup.activeCalibration, setup.device)
  return model.valueOf(signal, reading.temperature, setup.activeCalibration, setup.device)
}

export const typedNumberOf = (e: VisitState, step: string, key: string) =>
  Number(e.forms[step]?.values[key] ?? Number.NaN)

/** What the sensor must be for the frozen reading to have been the result. */
function corrected(e: VisitState, reading: CapturedReading, right: number, frozen: number): CalibrationParameters {
  const { activeCalibration, kind, device } = e.setup
  switch (kind) {
    case 'ph': {
      const { slopeEfficiency } = phCharacteristic(activeCalibration)
      const zero = calibratePhOnePoint(
        { millivolts: reading.signal, uncertainty: reading.signalUncertainty, temperature: reading.temperature },
        { ph: right, uncertainty: 0.05 },
        { slopeEfficiency, uncertainty: 0.02 },
      )
      return { slopeEfficiency, zero: zero.value }
    }
    case 'ion': {
      const shift = ionZeroShift(
        right,
        frozen,
        ionElectrodeAt(activeCalibration, reading.temperature, device),
        reading.temperature,
      )
      return {
        ...activeCalibration,
        zero: (activeCalibration.zero ?? 0) + shift,
        ...(activeCalibration.zero2 === undefined ? {} : { zero2: activeCalibration.zero2 + shift }),
      }
    }
    case 'conductivity':
      return { factor: ((activeCalibration.factor ?? 1) * right) / frozen, zero: activeCalibration.zero ?? 0 }
    case 'orp':
    case 'temperature':
      return { ...activeCalibration, offset: (activeCalibration.offset ?? 0) + right - frozen }
    default: {
      const factor = right / frozen
      return { gain: (activeCalibration.gain ?? 1) * factor, offset: (activeCalibration.offset ?? 0) * factor }
    }
  }
}

/** What the stated uncertainty of a displayed result is in core units; the other way where one way leaves the range. */
function widthOf(e: VisitState, facts: SampleFacts, reading: CapturedReading, right: number): number {
  const at = (shown: number) => nullIfOutOfRange(() => coreValue(e, shown, reading))
  const other = at(facts.result + facts.uncertainty) ?? at(facts.result - facts.uncertainty)
  return other === null ? Math.abs(right) : Math.abs(other - right)
}

interface SampleFacts {
  reading: CapturedReading
  result: number
  uncertainty: number
  ageHours: number
  flowOn: boolean
  source: string
}

export function judgeFacts(e: VisitState, facts: SampleFacts): Assessment {
  const { model, setup } = e
  const rules = rulesOf(e)
  const { reading } = facts
  const frozen = model.valueOf(reading.signal, reading.temperature, setup.activeCalibration, setup.device)
  const right = rules.unit ? facts.result : coreValue(e, facts.result, reading)
  const moved = model.valueOf(
    reading.signal + reading.signalUncertainty,
    reading.temperature,
    setup.activeCalibration,
    setup.device,
  )
  const frozenWidth = Math.abs(moved - frozen)
  const rightWidth = rules.unit ? facts.uncertainty : widthOf(e, facts, reading, right)
  const amounts = !['ph', 'orp', 'temperature'].includes(setup.kind)
  const guarded = amounts
    ? correctFromSample(
        {
          frozen: Math.max(0, frozen),
          frozenUncertainty: frozenWidth,
          result: right,
          resultUncertainty: rightWidth,
          ageHours: facts.ageHours,
          flowOn: facts.flowOn,
        },
        rules,
      ).findings
    : correctFromSample(
        // Only the guards on age and flow apply where the scale has no zero.
        {
          frozen: 1,
          frozenUncertainty: 1,
          result: 1,
          resultUncertainty: 1,
          ageHours: facts.ageHours,
          flowOn: facts.flowOn,
        },
        { ...rules, floor: 0 },
      ).findings
  const slipKind = slipKindOf(e)
  const slip = slipKind && right > 0 && frozen > 0 ? findUnitSlip(right, frozen, slipKind) : null
  const findings: Finding[] = [...(slip ? [slip] : []), ...guarded, ...findingsOfReadings(e, ['moment', 'point-1'])]
  const error = model.errorOf(frozen, right)
  const width = (delta: number) => Math.abs(model.errorOf(frozen, right + delta) - error)
  const uncertainty = Math.hypot(width(rightWidth), Math.abs(model.errorOf(frozen + frozenWidth, right) - error))
  if (!amounts && setup.kind === 'ph' && Math.abs(error) > 1) {
    findings.push({
      code: 'correction-implausible',
      severity: 'warn',
      sentence: `Sample and sensor are ${Math.abs(error).toFixed(2)} pH apart.`,
      advice: 'That is rather a slip than drift: check the hand meter in a fresh buffer, and sample again.',
      numbers: { error },
    })
  }
  const figures = [
    { label: 'Frozen at the sample', value: shownText(e, reading.shown), note: `${reading.temperature.toFixed(1)} °C` },
    {
      label: facts.source,
      value: shownText(e, facts.result),
      note: `± ${shownText(e, facts.uncertainty)}`,
    },
    { label: 'Sensor minus sample', value: errorText(e, error), note: `± ${errorText(e, uncertainty, false)}` },
  ]
  const stopped = findings.some((f) => f.severity === 'stop')
  let characteristic: CalibrationParameters | null = null
  if (!stopped) {
    try {
      characteristic = corrected(e, reading, right, frozen)
    } catch (problem) {
      if (!(problem instanceof OutOfRange)) throw problem
      findings.unshift({
        code: 'correction-implausible',
        severity: 'stop',
        sentence: `No correction follows from these two. ${problem.message}`,
        advice: 'Check the unit and the dilution, and sample again.',
        numbers: {},
      })
    }
  }
  const calibrated = calibrationResult(e, {
    found: characteristic && { characteristic, uncertainty: {} },
    findings,
    figures: [],
    uncertainty,
  })
  const agrees = Math.abs(error) <= uncertainty
  const believable = calibrated.found !== null && calibrated.proposal.decision !== 'repeat'
  return {
    ...calibrated,
    figures,
    proposal:
      believable && agrees
        ? {
            decision: 'leave-alone',
            reason: `They agree: ${errorText(e, error)} apart, and together they can tell ${errorText(e, uncertainty, false)}. Leave the device alone.`,
          }
        : calibrated.proposal,
    choices: calibrated.found ? ['leave-alone', 'adjust', 'repeat'] : ['repeat', 'leave-alone'],
    // Drift is reckoned at the process value; the sample was perhaps stronger or weaker than that.
    asFoundError: calibrated.errorNow,
    errorNow: calibrated.errorNow,
    uncertainty,
  }
}
