import { requireWithin } from '../quantities/outOfRange.ts'
import { bracketedRoot } from '../statistics/bracketedRoot.ts'

/** Callendar-Van Dusen coefficients of IEC 60751:2008, industrial platinum. */
const A = 3.9083e-3
const B = -5.775e-7
const C = -4.183e-12

/**
 * Resistance of a platinum thermometer (IEC 60751).
 * @param temperature degC, -200 to 850
 * @param nominal resistance at 0 degC, ohm: 100 for Pt100, 1000 for Pt1000
 * @returns ohm
 * @throws OutOfRange
 * @example platinumResistance(50) // 119.4
 */
export function platinumResistance(temperature: number, nominal = 100): number {
  const t = requireWithin('Temperature', temperature, -200, 850, '°C')
  requireWithin('Nominal resistance', nominal, 1, 1e5, 'Ω')
  const below = t < 0 ? C * (t - 100) * t ** 3 : 0
  return nominal * (1 + A * t + B * t * t + below)
}

/**
 * Temperature of a platinum thermometer; the inverse of platinumResistance.
 * @param resistance ohm, 18.52 to 390.48 for a Pt100
 * @throws OutOfRange
 * @example platinumTemperature(138.51) // 100.01
 */
export function platinumTemperature(resistance: number, nominal = 100): number {
  requireWithin('Nominal resistance', nominal, 1, 1e5, 'Ω')
  const low = platinumResistance(-200, nominal)
  const high = platinumResistance(850, nominal)
  requireWithin('Resistance', resistance, low, high, 'Ω')
  if (resistance >= nominal) {
    return (-A + Math.sqrt(A * A - 4 * B * (1 - resistance / nominal))) / (2 * B)
  }
  return bracketedRoot((t) => platinumResistance(t, nominal) - resistance, -200, 0, 1e-9)
}

/**
 * Tolerance classes of IEC 60751:2008 for thermometers, half-width in degC: AA, A, B, C.
 * @example platinumTolerance(100, 'B') // 0.8
 */
export function platinumTolerance(temperature: number, tolerance: 'AA' | 'A' | 'B' | 'C'): number {
  const size = Math.abs(requireWithin('Temperature', temperature, -200, 850, '°C'))
  const [base, rise] = { AA: [0.1, 0.0017], A: [0.15, 0.002], B: [0.3, 0.005], C: [0.6, 0.01] }[tolerance] as [
    number,
    number,
  ]
  return base + rise * size
}
