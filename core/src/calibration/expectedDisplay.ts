import { type Compensation, compensate, referenceTemperature } from '../conductivity/compensation.ts'
import { nernstSlope } from '../electrode/nernst.ts'
import { ISOTHERMAL_PH } from '../electrode/phElectrode.ts'
import { requireWithin } from '../quantities/outOfRange.ts'
import { celsius, exactly, millivolts, type Quantity, quantity, type Sentence, say } from '../quantities/sentence.ts'
import {
  type ConductivityTable,
  conductivityStandard,
  conductivityStandardValue,
} from '../standards/conductivityStandards.ts'
import { type PhTable, phBuffer, phBufferValue } from '../standards/phBuffers.ts'

/** The number that a device should show if all is well, and why it is not what the label says. */
export interface ExpectedDisplay {
  expected: number
  label: number
  /** One sentence for each thing that moves it away from the label; empty when nothing does. */
  reasons: Sentence[]
}

export interface PhDeviceSetting {
  /** The temperature with which the device works out pH: the sensor's, or one keyed in. */
  temperatureFrom: 'sensor' | 'keyed-in'
  /** degC, where it is keyed in. */
  keyedIn?: number
  /** The solution's own coefficient, pH per degC, where the device refers the solution to 25 degC; 0 otherwise. */
  solutionCoefficient?: number
}

/**
 * Refers the pH of a solution to 25 degC: a separate step from the electrode's compensation, wanted in boiler duty only.
 * @param coefficient how much the solution's pH falls per degC, pH/degC, -0.1 to 0.1
 *   (0.033 for dilute ammonia and pure water: common practice, no source)
 */
export function solutionPhAt25(ph: number, temperature: number, coefficient: number): number {
  requireWithin('Solution coefficient', coefficient, -0.1, 0.1, 'pH/°C')
  return requireWithin('pH', ph, -1, 15) + coefficient * (requireWithin('Temperature', temperature, -5, 110, '°C') - 25)
}

const THIN = 0.004

/**
 * What a well calibrated pH device shows in a buffer.
 * @param temperature degC of the buffer, within its table
 * @throws OutOfRange, RangeError for an unknown buffer
 */
export function expectedPhDisplay(
  bufferCode: string,
  temperature: number,
  setting: PhDeviceSetting,
  lotTable?: PhTable,
): ExpectedDisplay {
  const buffer = phBuffer(bufferCode)
  const there = phBufferValue(bufferCode, temperature, lotTable)
  const reasons: Sentence[] = []
  if (Math.abs(there - buffer.nominal) > THIN) {
    reasons.push(
      say`At ${celsius(temperature)} the ${buffer.label} buffer is ${quantity(there, 'pH', 3)}; the label holds at ${celsius(25, 0)}${lotTable ? ' or for other lots' : ''}.`,
    )
  }
  let expected = there
  if (setting.temperatureFrom === 'keyed-in') {
    const used = requireWithin('Temperature keyed in', setting.keyedIn ?? Number.NaN, -5, 110, '°C')
    expected = ISOTHERMAL_PH - ((ISOTHERMAL_PH - there) * nernstSlope(temperature)) / nernstSlope(used)
    if (Math.abs(expected - there) > THIN) {
      reasons.push(
        say`The device uses ${celsius(used)}, as keyed in: it takes ${millivolts(nernstSlope(used), 2)} for a pH where the electrode gives ${millivolts(nernstSlope(temperature), 2)}.`,
      )
    }
  }
  const coefficient = setting.solutionCoefficient ?? 0
  if (coefficient !== 0) {
    const referred = solutionPhAt25(expected, temperature, coefficient)
    if (Math.abs(referred - expected) > THIN) {
      reasons.push(
        say`It refers the solution to ${celsius(25, 0)} with ${exactly(coefficient, 'pH/°C')}, which a buffer does not follow. Turn that off to calibrate.`,
      )
    }
    expected = referred
  }
  return { expected, label: buffer.nominal, reasons }
}

/**
 * What a well calibrated conductivity device with this compensation shows in a standard, uS/cm.
 * @param temperature degC of the standard, within its table and the compensation's range
 * @throws OutOfRange, RangeError for an unknown standard
 */
export function expectedConductivityDisplay(
  standardCode: string,
  temperature: number,
  compensation: Compensation,
  lotTable?: ConductivityTable,
): ExpectedDisplay {
  const standard = conductivityStandard(standardCode)
  const there = conductivityStandardValue(standardCode, temperature, lotTable)
  const expected = compensate(there, temperature, compensation)
  const reasons: Sentence[] = []
  const off = Math.abs(expected / standard.nominal - 1) > 0.001
  const reference = referenceTemperature(compensation)
  if (off && reference === null) {
    reasons.push(
      say`The device does not compensate: it shows the ${standard.label} standard as it is at ${celsius(temperature, 1)}.`,
    )
  } else if (off) {
    if (reference !== null && reference !== 25)
      reasons.push(say`The device refers to ${celsius(reference, 0)}, the label to ${celsius(25, 0)}.`)
    if (Math.abs(temperature - 25) > 0.05) {
      const per = (100 * (there / conductivityStandardValue(standardCode, 25, lotTable) - 1)) / (temperature - 25)
      reasons.push(
        say`The standard itself changes by ${quantity(per, '%', 2)} per °C, and the device takes off ${deviceCoefficient(compensation, temperature)}.`,
      )
    }
  }
  return { expected, label: standard.nominal, reasons }
}

function deviceCoefficient(compensation: Compensation, temperature: number): Sentence | Quantity {
  if (compensation.law === 'linear') return exactly(compensation.alpha, '%')
  if (compensation.law === 'seawater') return 'what seawater of the same salinity does'
  if (compensation.law === 'natural-water') return say`what natural water does at ${celsius(temperature, 1)}`
  return 'what a trace of salt in pure water does'
}
