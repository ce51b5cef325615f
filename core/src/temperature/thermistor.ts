import { ZERO_CELSIUS } from '../quantities/constants.ts'
import { requireWithin } from '../quantities/outOfRange.ts'

/** Coefficients of 1/T = a + b ln R + c (ln R)^3, T in kelvin, R in ohm (Steinhart and Hart, Deep-Sea Res. 15 (1968) 497). */
export interface SteinhartHart {
  a: number
  b: number
  c: number
}

/**
 * Coefficients with which a thermistor of this resistance at 25 degC follows the one-constant (beta) law.
 * @example thermistorResistance(0, betaThermistor(10_000, 3950)) // 33621
 */
export function betaThermistor(resistance25: number, beta: number): SteinhartHart {
  requireWithin('Resistance at 25 °C', resistance25, 1, 1e7, 'Ω')
  requireWithin('Beta', beta, 500, 10_000, 'K')
  return { a: 1 / (25 + ZERO_CELSIUS) - Math.log(resistance25) / beta, b: 1 / beta, c: 0 }
}

/**
 * Coefficients through three points of a resistance table.
 * @throws RangeError when two of the points are the same
 * @example thermistorTemperature(10_000, steinhartHartThrough([[0, 32_650], [25, 10_000], [50, 3603]])) // 25
 */
export function steinhartHartThrough(
  points: readonly [[number, number], [number, number], [number, number]],
): SteinhartHart {
  const [[t1, r1], [t2, r2], [t3, r3]] = points
  const [l1, l2, l3] = [r1, r2, r3].map((r) => Math.log(requireWithin('Resistance', r, 1e-2, 1e9, 'Ω'))) as [
    number,
    number,
    number,
  ]
  const [y1, y2, y3] = [t1, t2, t3].map(
    (t) => 1 / (requireWithin('Temperature', t, -100, 300, '°C') + ZERO_CELSIUS),
  ) as [number, number, number]
  if (l1 === l2 || l2 === l3 || l1 === l3) throw new RangeError('Three different resistances are needed.')
  const g2 = (y2 - y1) / (l2 - l1)
  const g3 = (y3 - y1) / (l3 - l1)
  const c = (g3 - g2) / (l3 - l2) / (l1 + l2 + l3)
  const b = g2 - c * (l1 * l1 + l1 * l2 + l2 * l2)
  return { a: y1 - (b + l1 * l1 * c) * l1, b, c }
}

/**
 * Temperature of an NTC thermistor, degC. @param resistance ohm, 0.01 to 1e9 @throws OutOfRange
 * @example thermistorTemperature(3603, betaThermistor(10_000, 3950)) // 49.891
 */
export function thermistorTemperature(resistance: number, { a, b, c }: SteinhartHart): number {
  const log = Math.log(requireWithin('Resistance', resistance, 1e-2, 1e9, 'Ω'))
  const inverse = a + b * log + c * log ** 3
  return requireWithin('Temperature', 1 / inverse - ZERO_CELSIUS, -100, 300, '°C')
}

/**
 * Resistance of an NTC thermistor, ohm: the exact inverse by Cardano's formula. @param temperature degC, -100 to 300 @throws OutOfRange
 * @example thermistorResistance(50, betaThermistor(10_000, 3950)) // 3588.2
 */
export function thermistorResistance(temperature: number, { a, b, c }: SteinhartHart): number {
  const y = a - 1 / (requireWithin('Temperature', temperature, -100, 300, '°C') + ZERO_CELSIUS)
  if (c === 0) return Math.exp(-y / b)
  // x^3 + p x + q = 0 with x = ln R has one real root for p > 0, as thermistors have it.
  const p = b / c
  const q = y / c
  const root = Math.sqrt((p / 3) ** 3 + (q / 2) ** 2)
  return Math.exp(Math.cbrt(-q / 2 + root) + Math.cbrt(-q / 2 - root))
}
