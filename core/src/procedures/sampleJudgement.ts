import type { Finding } from '../calibration/finding.ts'
import { correctFromSample } from '../calibration/sampleCorrection.ts'
import { findUnitSlip } from '../calibration/slips.ts'
import type { CapturedReading } from '../measurement/capturedReading.ts'
import type { CalibrationParameters } from '../measurement/measurementModel.ts'
import { nullIfOutOfRange, OutOfRange } from '../quantities/outOfRange.ts'
import { celsius, exactly, say } from '../quantities/sentence.ts'
import { calibrationResult, findingsOfInstruments, findingsOfReadings } from './assess.ts'
import type { Assessment, SampleTraits, VisitState } from './procedure.ts'
import type { FieldSpec } from './step.ts'
import { displayed, errorQuantity, shownQuantity } from './words.ts'

/**
 * Correction by a sample that was taken at the sensor and measured elsewhere, minutes or days later. The correction is
 * result minus the reading frozen at that moment, never minus the reading of now.
 */

/** Only kinds that can be set by a sample offer these procedures. */
function traitsOf({ kind }: VisitState): SampleTraits {
  if (!kind.sample) throw new RangeError('This kind of sensor is not corrected by a sample.')
  return kind.sample
}

export function resultFields(e: VisitState): FieldSpec[] {
  const rules = traitsOf(e)
  const { unit, decimals } = rules.scale ?? e.model.shownScale(e.setup.device)
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
      usual: rules.usualUncertainty,
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
      usual: 5,
      hint: say`From sample to measurement; at most ${rules.oldestHours < 1 ? exactly(60 * rules.oldestHours, 'min') : exactly(rules.oldestHours, 'h')}.`,
    },
    ...(rules.temperatureMatters
      ? [
          {
            key: 'sampleTemperature',
            label: 'Sample was at',
            kind: 'number' as const,
            unit: '°C',
            low: -5,
            high: 110,
            decimals: 1,
            usualTemperature: e.readings.moment?.temperature ?? e.setup.processTemperature,
            optional: true,
            hint: say`When it was measured; the process was at ${celsius(e.readings.moment?.temperature ?? e.setup.processTemperature)}.`,
          },
        ]
      : []),
    ...(rules.waterPh
      ? [
          {
            key: 'waterPh',
            label: 'pH of the water',
            kind: 'number' as const,
            unit: 'pH',
            low: 4,
            high: 11,
            decimals: 1,
            optional: true,
            hint: 'Leave blank if you can’t measure it.',
          },
        ]
      : []),
    {
      key: 'instrument',
      label: 'Measured with',
      kind: 'instrument',
      optional: true,
      instruments: ['hand-meter', 'kit'],
      statesUncertainty: { key: 'uncertainty', unit },
    },
    { key: 'method', label: 'By which method', kind: 'text', optional: true, hint: 'Kit, photometer, laboratory.' },
  ]
}

/** So far apart in temperature the water itself has another pH, degC (common practice, no source). */
const TEMPERATURES_APART = 5

/** A sample that was measured warmer or colder than it was taken. */
function sampleTemperature(e: VisitState, reading: CapturedReading): Finding[] {
  const measured = typedNumberOf(e, 'lab', 'sampleTemperature')
  const apart = measured - reading.temperature
  if (!Number.isFinite(apart) || Math.abs(apart) <= TEMPERATURES_APART) return []
  return [
    {
      code: 'temperatures-apart',
      severity: 'warn',
      sentence: say`The sample was measured at ${celsius(measured)}, the process was at ${celsius(reading.temperature)}.`,
      advice:
        'The pH of the water itself moves with its temperature. Measure the sample at the temperature of the process.',
      numbers: { measured, process: reading.temperature },
    },
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

function waterPhOf(e: VisitState): number | null {
  const ph = typedNumberOf(e, 'lab', 'waterPh')
  return Number.isFinite(ph) ? ph : null
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
  const rules = traitsOf(e)
  const { reading } = facts
  const frozen = model.valueOf(reading.signal, reading.temperature, setup.activeCalibration, setup.device)
  const right = rules.scale ? facts.result : coreValue(e, facts.result, reading)
  const moved = model.valueOf(
    reading.signal + reading.signalUncertainty,
    reading.temperature,
    setup.activeCalibration,
    setup.device,
  )
  const frozenWidth = Math.abs(moved - frozen)
  const rightWidth = rules.scale ? facts.uncertainty : widthOf(e, facts, reading, right)
  const guarded = rules.amount
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
  const slipKind = e.kind.unitSlip(setup.device)
  const slip = slipKind && right > 0 && frozen > 0 ? findUnitSlip(right, frozen, slipKind) : null
  const findings: Finding[] = [
    ...(slip ? [slip] : []),
    ...sampleTemperature(e, reading),
    ...(rules.waterPh && e.forms.lab ? [rules.waterPh(waterPhOf(e), reading.temperature)] : []),
    ...guarded,
    ...findingsOfReadings(e, ['moment', 'point-1']),
    ...findingsOfInstruments(e, 'lab'),
  ]
  const error = model.errorOf(frozen, right)
  const width = (delta: number) => Math.abs(model.errorOf(frozen, right + delta) - error)
  const uncertainty = Math.hypot(width(rightWidth), Math.abs(model.errorOf(frozen + frozenWidth, right) - error))
  if (Math.abs(error) > (rules.slipBeyond ?? Number.POSITIVE_INFINITY)) {
    findings.push({
      code: 'correction-implausible',
      severity: 'warn',
      sentence: say`Sample and sensor are ${errorQuantity(e, Math.abs(error), false)} apart.`,
      advice: 'More likely a slip than drift: check the hand meter in a fresh buffer, and sample again.',
      numbers: { error },
    })
  }
  const figures = [
    {
      label: reading.shown === null ? 'Worked out at the sample' : 'Frozen at the sample',
      value: shownQuantity(e, displayed(e, reading)),
      note: say`${celsius(reading.temperature, 1)}`,
    },
    {
      label: facts.source,
      value: shownQuantity(e, facts.result),
      note: say`± ${shownQuantity(e, facts.uncertainty)}`,
    },
    {
      label: 'Sensor minus sample',
      value: errorQuantity(e, error),
      note: say`± ${errorQuantity(e, uncertainty, false)}`,
    },
  ]
  const stopped = findings.some((f) => f.severity === 'stop')
  let characteristic: CalibrationParameters | null = null
  if (!stopped) {
    try {
      characteristic = rules.corrected(setup, reading, right, frozen)
    } catch (problem) {
      if (!(problem instanceof OutOfRange)) throw problem
      findings.unshift({
        code: 'correction-implausible',
        severity: 'stop',
        sentence: say`No correction can be computed. ${problem.sentence}`,
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
    atSample: error,
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
            reason: say`They agree: ${errorQuantity(e, error)} apart, expected at most ±${errorQuantity(e, uncertainty, false)}. Leave the device alone.`,
          }
        : calibrated.proposal,
    choices: calibrated.found ? ['leave-alone', 'adjust', 'repeat'] : ['repeat', 'leave-alone'],
    // Drift is computed at the process value; the sample was perhaps stronger or weaker than that.
    asFoundError: calibrated.errorNow,
    errorNow: calibrated.errorNow,
    uncertainty,
  }
}
