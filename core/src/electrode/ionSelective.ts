import { requireWithin } from '../quantities/outOfRange.ts'
import { nernstSlope } from './nernst.ts'

/** What turns activity into millivolts: E = E0 + eta k(T)/z log10(a + sum of K a_j^(z/zj)) (Nikolsky-Eisenman). */
export interface IonCharacteristic {
  /** Signal at activity 1 mol/L, mV. */
  zero: number
  /** Slope efficiency: measured / ideal; 1 for an ideal electrode. */
  slopeEfficiency: number
  /** Of the ion, elementary charges; the sign gives the direction. */
  charge: number
}

/** Another ion to which the membrane also answers. */
export interface Interference {
  /** mol/L */
  activity: number
  charge: number
  /** Selectivity coefficient K of Nikolsky and Eisenman. */
  selectivity: number
}

/**
 * Slope of an ion electrode, mV per decade; negative for anions. @param temperature degC, -5 to 110
 * @example ionSlope({ zero: 0, slopeEfficiency: 0.95, charge: -1 }, 25) // -56.201
 */
export function ionSlope(electrode: IonCharacteristic, temperature: number): number {
  requireWithin('E0', electrode.zero, -2000, 2000, 'mV')
  requireWithin('Slope efficiency', electrode.slopeEfficiency, 0.05, 2)
  requireWithin('Size of the charge', Math.abs(electrode.charge), 1, 3)
  return (electrode.slopeEfficiency * nernstSlope(temperature)) / electrode.charge
}

function interferenceSum(charge: number, others: readonly Interference[]): number {
  return others.reduce((sum, other) => {
    requireWithin('Activity of an interfering ion', other.activity, 0, 20, 'mol/L')
    requireWithin('Selectivity coefficient', other.selectivity, 0, 1e6)
    return sum + other.selectivity * other.activity ** (charge / other.charge)
  }, 0)
}

/**
 * Signal of an ion-selective electrode (Nikolsky-Eisenman; IUPAC Recommendations 1994, Pure Appl. Chem. 66, 2527).
 * @param activity mol/L, 1e-9 to 20; may be 0 where an interfering ion gives a signal
 * @param temperature degC, -5 to 110
 * @returns mV
 * @throws OutOfRange
 * @example ionToMillivolts(0.001, 25, { zero: 200, slopeEfficiency: 1, charge: -1 }) // 377.48
 */
export function ionToMillivolts(
  activity: number,
  temperature: number,
  electrode: IonCharacteristic,
  others: readonly Interference[] = [],
): number {
  requireWithin('Activity', activity, 0, 20, 'mol/L')
  const total = activity + interferenceSum(electrode.charge, others)
  requireWithin('Activity, interference included', total, 1e-9, 1e3, 'mol/L')
  return electrode.zero + ionSlope(electrode, temperature) * Math.log10(total)
}

/**
 * Activity behind a signal, interference taken off: the inverse of ionToMillivolts.
 * @returns mol/L
 * @throws OutOfRange, also when the interference alone explains more than the signal
 * @example millivoltsToIon(377.48, 25, { zero: 200, slopeEfficiency: 1, charge: -1 }) // 0.00099992
 */
export function millivoltsToIon(
  millivolts: number,
  temperature: number,
  electrode: IonCharacteristic,
  others: readonly Interference[] = [],
): number {
  requireWithin('Potential', millivolts, -2000, 2000, 'mV')
  const decades = (millivolts - electrode.zero) / ionSlope(electrode, temperature)
  const total = 10 ** requireWithin('Logarithm of the activity', decades, -12, 2)
  return requireWithin(
    'Activity left after interference',
    total - interferenceSum(electrode.charge, others),
    0,
    20,
    'mol/L',
  )
}
