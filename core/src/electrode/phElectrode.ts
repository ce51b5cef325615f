import { requireWithin } from '../quantities/outOfRange.ts'
import { nernstSlope } from './nernst.ts'

/** The isothermal point of an ordinary glass electrode: the pH at which its signal does not depend on temperature. */
export const ISOTHERMAL_PH = 7

/**
 * What turns millivolts into pH: E = E0 + eta k(T) (pHiso - pH).
 * With pHiso = 7 the zero point is the signal in pH 7.
 */
export interface PhCharacteristic {
  /** E0, the zero point, mV; 0 for an ideal electrode. */
  zero: number
  /** eta, the slope efficiency: measured slope / Nernst slope; 1 for an ideal electrode. */
  slopeEfficiency: number
  /** pHiso; ISOTHERMAL_PH unless the electrode is a special one. */
  isothermalPh?: number
}

/** An electrode as the textbook has it. */
export const IDEAL_CHARACTERISTIC: PhCharacteristic = { zero: 0, slopeEfficiency: 1 }

/**
 * Signal of a pH electrode.
 * @param ph -1 to 15
 * @param temperature degC, -5 to 110
 * @param electrode zero -1000 to 1000 mV, slope efficiency 0.05 to 2
 * @returns mV
 * @throws OutOfRange
 * @example phToMillivolts(4.01, 25, { zero: -5, slopeEfficiency: 0.97 }) // 166.58
 */
export function phToMillivolts(ph: number, temperature: number, electrode: PhCharacteristic): number {
  requireWithin('pH', ph, -1, 15)
  requireElectrode(electrode)
  const iso = electrode.isothermalPh ?? ISOTHERMAL_PH
  return electrode.zero + electrode.slopeEfficiency * nernstSlope(temperature) * (iso - ph)
}

/**
 * pH shown for a signal, with the electrode's temperature compensation. It corrects the electrode's slope only;
 * it does not refer the solution's own pH to 25 degC.
 * @param millivolts mV, -2000 to 2000
 * @param temperature degC, -5 to 110
 * @throws OutOfRange, also for a zero beyond 1000 mV or a slope efficiency beyond 0.05 to 2
 * @example millivoltsToPh(166.6, 25, { zero: -5, slopeEfficiency: 0.97 }) // 4.0096
 */
export function millivoltsToPh(millivolts: number, temperature: number, electrode: PhCharacteristic): number {
  requireWithin('Potential', millivolts, -2000, 2000, 'mV')
  requireElectrode(electrode)
  const iso = electrode.isothermalPh ?? ISOTHERMAL_PH
  return iso - (millivolts - electrode.zero) / (electrode.slopeEfficiency * nernstSlope(temperature))
}

function requireElectrode({ zero, slopeEfficiency }: PhCharacteristic): void {
  requireWithin('Zero point', zero, -1000, 1000, 'mV')
  requireWithin('Slope efficiency', slopeEfficiency, 0.05, 2)
}
