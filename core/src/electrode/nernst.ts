import { ZERO_CELSIUS } from '../quantities/constants.ts'
import { requireWithin } from '../quantities/outOfRange.ts'

/** Molar gas constant, J/(mol K). CODATA 2018, exact since the 2019 revision of the SI. */
const GAS_CONSTANT = 8.31446261815324

/** Faraday constant, C/mol. CODATA 2018, exact. */
const FARADAY_CONSTANT = 96485.33212331001

/**
 * Nernst slope k(T) = ln(10) R T / F for a singly charged ion.
 * @param temperature degC, -5 to 110 (the range of aqueous sensors)
 * @returns mV per decade (per pH): 54.20 / 59.16 / 64.12 at 0 / 25 / 50 degC
 * @throws OutOfRange
 * @example nernstSlope(25) // 59.159
 */
export function nernstSlope(temperature: number): number {
  requireWithin('Temperature', temperature, -5, 110, '°C')
  return (1000 * Math.LN10 * GAS_CONSTANT * (temperature + ZERO_CELSIUS)) / FARADAY_CONSTANT
}
