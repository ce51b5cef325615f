import { nernstSlope } from '../electrode/nernst.ts'
import { ISOTHERMAL_PH, type PhCharacteristic } from '../electrode/phElectrode.ts'
import { requireWithin } from '../quantities/outOfRange.ts'
import { type PhTable, phBuffer, phBufferTemperatureCoefficient, phBufferValue } from '../standards/phBuffers.ts'
import { Z95 } from '../statistics/normalDistribution.ts'

/** One standard as read: what the sensor said in which buffer. */
export interface PhPoint {
  bufferCode: string
  /** Settled signal, mV. */
  millivolts: number
  /** Half-width of its 95 % interval (settling, noise, display), mV. */
  millivoltsUncertainty: number
  /** Measured in the buffer, degC, 0 to 50. */
  temperature: number
  /** Half-width of the 95 % interval of that temperature, degC. */
  temperatureUncertainty?: number
  lotTable?: PhTable
}

export interface PhCalibration extends PhCharacteristic {
  /** Half-widths of the 95 % intervals: mV, and 1 (not %). */
  zeroUncertainty: number
  slopeEfficiencyUncertainty: number
  /** Covariance of zero (mV) and slope efficiency (1). */
  covariance: number
  points: {
    bufferCode: string
    bufferValue: number
    millivolts: number
    temperature: number
    /** Combined half-width of this point on the potential axis, mV. */
    uncertainty: number
  }[]
  /** Millivolts from one buffer to the other, and what an ideal electrode would have given. */
  measuredStep: number
  idealStep: number
}

/** The temperature input of an installed sensor, half-width 95 %, degC (common practice, no source). */
export const USUAL_TEMPERATURE_UNCERTAINTY = 0.5

/**
 * Two-point pH calibration: zero point and slope efficiency from two buffers, each at its own temperature.
 *
 * With u_i = k(T_i) (pHiso - pH_i), E_i = E0 + eta u_i is a straight line in u; so eta = dE / du and E0 = E1 - eta u1.
 * Uncertainty by the law of propagation (GUM, JCGM 100:2008, 5.1): settled signal, buffer value, temperature.
 *
 * @throws OutOfRange for a temperature outside the buffer's table or a signal outside -2000..2000 mV
 * @throws RangeError when both points are the same standard: no slope follows from them
 */
export function calibratePhTwoPoint(first: PhPoint, second: PhPoint, isothermalPh = ISOTHERMAL_PH): PhCalibration {
  const a = linearise(first, isothermalPh)
  const b = linearise(second, isothermalPh)
  const run = b.u - a.u
  if (Math.abs(run) < 1) throw new RangeError('Both points are the same standard; a slope needs two different ones.')
  const measuredStep = second.millivolts - first.millivolts
  const slopeEfficiency = measuredStep / run
  const zero = first.millivolts - slopeEfficiency * a.u

  const va = potentialVariance(first, a, slopeEfficiency)
  const vb = potentialVariance(second, b, slopeEfficiency)
  const slopeVariance = (va + vb) / run ** 2
  // E0 = (E_a u_b - E_b u_a) / (u_b - u_a)
  const zeroVariance = (va * b.u ** 2 + vb * a.u ** 2) / run ** 2
  const covariance = -(va * b.u + vb * a.u) / run ** 2
  return {
    zero,
    slopeEfficiency,
    isothermalPh,
    zeroUncertainty: Z95 * Math.sqrt(zeroVariance),
    slopeEfficiencyUncertainty: Z95 * Math.sqrt(slopeVariance),
    covariance,
    points: [pointRecord(first, a, va), pointRecord(second, b, vb)],
    measuredStep,
    idealStep: run,
  }
}

interface LinearPoint {
  bufferValue: number
  /** Ideal potential against the zero point, mV. */
  u: number
}

function linearise(point: PhPoint, isothermalPh: number): LinearPoint {
  requireWithin('Potential', point.millivolts, -2000, 2000, 'mV')
  const bufferValue = phBufferValue(point.bufferCode, point.temperature, point.lotTable)
  return { bufferValue, u: nernstSlope(point.temperature) * (isothermalPh - bufferValue) }
}

const pointRecord = (point: PhPoint, linear: LinearPoint, variance: number) => ({
  bufferCode: point.bufferCode,
  bufferValue: linear.bufferValue,
  millivolts: point.millivolts,
  temperature: point.temperature,
  uncertainty: Z95 * Math.sqrt(variance),
})

/** Variance of one point along the potential axis, mV^2. */
function potentialVariance(point: PhPoint, linear: LinearPoint, slopeEfficiency: number): number {
  const k = nernstSlope(point.temperature)
  const temperatureSd = (point.temperatureUncertainty ?? USUAL_TEMPERATURE_UNCERTAINTY) / Z95
  const perDegree =
    slopeEfficiency *
    (linear.u / (point.temperature + 273.15) -
      k * phBufferTemperatureCoefficient(point.bufferCode, point.temperature, point.lotTable))
  const bufferSd = (phBuffer(point.bufferCode).uncertainty / 2) * k * slopeEfficiency
  return (point.millivoltsUncertainty / Z95) ** 2 + bufferSd ** 2 + (perDegree * temperatureSd) ** 2
}

/**
 * Half-width of the 95 % interval of a pH read through a calibration, from the calibration alone, pH.
 * @param ph -1 to 15, where it is read
 * @param temperature degC
 */
export function phUncertaintyAt(calibration: PhCalibration, ph: number, temperature: number): number {
  const k = nernstSlope(temperature)
  const u = k * ((calibration.isothermalPh ?? ISOTHERMAL_PH) - requireWithin('pH', ph, -1, 15))
  const zeroVariance = (calibration.zeroUncertainty / Z95) ** 2
  const slopeVariance = (calibration.slopeEfficiencyUncertainty / Z95) ** 2
  const variance = zeroVariance + u * u * slopeVariance + 2 * u * calibration.covariance
  return (Z95 * Math.sqrt(Math.max(0, variance))) / (calibration.slopeEfficiency * k)
}

/**
 * Error at the process value of a device that still works with another characteristic than the electrode has:
 * displayed minus true, pH. Zero and slope errors combine there, which the error in a buffer does not show.
 * @param actual what the electrode is now
 * @param inForce the calibration held by the device
 */
export function errorAtProcessValue(
  actual: PhCharacteristic,
  activeCalibration: PhCharacteristic,
  processPh: number,
  temperature: number,
): number {
  requireWithin('Process value', processPh, -1, 15)
  requireWithin('Slope efficiency in force', activeCalibration.slopeEfficiency, 0.05, 2)
  const k = nernstSlope(temperature)
  const isoActual = actual.isothermalPh ?? ISOTHERMAL_PH
  const isoInForce = activeCalibration.isothermalPh ?? ISOTHERMAL_PH
  const signal = actual.zero + actual.slopeEfficiency * k * (isoActual - processPh)
  return isoInForce - (signal - activeCalibration.zero) / (activeCalibration.slopeEfficiency * k) - processPh
}

/**
 * Potential that the electrode must have given for a device to show `shown`, from the calibration in force in the
 * device. It lets display-only devices be followed like the others: each visit's displayed values, taken back
 * through the calibration that was in force, chain to slope and zero from the commissioning on.
 */
export function millivoltsBehindDisplay(
  shown: number,
  temperature: number,
  activeCalibration: PhCharacteristic,
): number {
  requireWithin('Displayed pH', shown, -1, 15)
  return (
    activeCalibration.zero +
    activeCalibration.slopeEfficiency *
      nernstSlope(temperature) *
      ((activeCalibration.isothermalPh ?? ISOTHERMAL_PH) - shown)
  )
}
