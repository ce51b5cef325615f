import { ZERO_CELSIUS } from '../quantities/constants.ts'
import { requireWithin } from '../quantities/outOfRange.ts'
import { practicalSalinity, seawaterConductivity } from './practicalSalinity.ts'
import { highPurityFrom25, highPurityTo25 } from './pureWater.ts'

/** How a device refers a conductivity to its reference temperature. */
export type Compensation =
  | { law: 'none' }
  /** `alpha` in % per degC of the value at the reference temperature. */
  | { law: 'linear'; alpha: number; reference: number }
  | { law: 'natural-water' }
  | { law: 'seawater' }
  | { law: 'high-purity' }

/** Usual coefficient of a mixed salt solution at 25 degC, % per degC (common practice, no source; 1.9 to 2.2). */
export const USUAL_ALPHA = 2

/**
 * Viscosity of water at atmospheric pressure, uPa s.
 * M. L. Huber et al., J. Phys. Chem. Ref. Data 38 (2009) 101, the equation for liquid water at 0.1 MPa.
 * @param temperature degC, -5 to 100
 * @example waterViscosity(20) // 1001.6
 */
export function waterViscosity(temperature: number): number {
  const t = (requireWithin('Temperature', temperature, -5, 100, '°C') + ZERO_CELSIUS) / 300
  return 280.68 * t ** -1.9 + 511.45 * t ** -7.7 + 61.131 * t ** -19.6 + 0.45903 * t ** -40
}

/**
 * The exponent that turns the viscosity of water into the factors of ISO 7888: 1.918 at 0 degC and 1.116 at 20 degC.
 * The standard prints them as a table; the power meets it within 0.002 (table from memory).
 */
const NATURAL_WATER_EXPONENT = 0.931

/**
 * Factor f25 of ISO 7888 (EN 27888) for natural waters: conductivity at 25 degC = f25 * conductivity at `temperature`.
 * @param temperature degC, 0 to 36
 * @throws OutOfRange
 * @example naturalWaterFactor(10) // 1.429
 */
export function naturalWaterFactor(temperature: number): number {
  requireWithin('Temperature of natural water', temperature, 0, 36, '°C')
  return (waterViscosity(temperature) / waterViscosity(25)) ** NATURAL_WATER_EXPONENT
}

function linearFactor(alpha: number, reference: number, temperature: number): number {
  requireWithin('Temperature coefficient', alpha, 0, 10, '%/°C')
  requireWithin('Reference temperature', reference, 0, 40, '°C')
  requireWithin('Temperature', temperature, -5, 110, '°C')
  const factor = 1 + (alpha / 100) * (temperature - reference)
  return requireWithin('Linear compensation factor', factor, 0.1, 20)
}

/**
 * The temperature to which a compensation refers, degC; null when it refers to none.
 * @example referenceTemperature({ law: 'linear', alpha: 2, reference: 20 }) // 20
 */
export function referenceTemperature(compensation: Compensation): number | null {
  if (compensation.law === 'none') return null
  return compensation.law === 'linear' ? compensation.reference : 25
}

/**
 * Conductivity referred to the reference temperature, as a device with this compensation shows it.
 * @param conductivity uS/cm, as it is at `temperature`
 * @param temperature degC; the range depends on the law (natural water 0 to 36, seawater -2 to 40, high purity 0 to 100)
 * @throws OutOfRange
 * @example compensate(1278, 20, { law: 'linear', alpha: 2, reference: 25 }) // 1420
 */
export function compensate(conductivity: number, temperature: number, compensation: Compensation): number {
  requireWithin('Conductivity', conductivity, 0, 2e6, 'µS/cm')
  switch (compensation.law) {
    case 'none':
      return conductivity
    case 'linear':
      return conductivity / linearFactor(compensation.alpha, compensation.reference, temperature)
    case 'natural-water':
      return conductivity * naturalWaterFactor(temperature)
    case 'seawater':
      return seawaterConductivity(practicalSalinity(conductivity, temperature), 25)
    case 'high-purity':
      return highPurityTo25(conductivity, temperature)
  }
}

/**
 * The inverse of compensate: what lies behind a displayed value, uS/cm at `temperature`.
 * @example uncompensate(1420, 20, { law: 'linear', alpha: 2, reference: 25 }) // 1278
 */
export function uncompensate(displayed: number, temperature: number, compensation: Compensation): number {
  requireWithin('Conductivity', displayed, 0, 2e6, 'µS/cm')
  switch (compensation.law) {
    case 'none':
      return displayed
    case 'linear':
      return displayed * linearFactor(compensation.alpha, compensation.reference, temperature)
    case 'natural-water':
      return displayed / naturalWaterFactor(temperature)
    case 'seawater':
      return seawaterConductivity(practicalSalinity(displayed, 25), temperature)
    case 'high-purity':
      return highPurityFrom25(displayed, temperature)
  }
}
