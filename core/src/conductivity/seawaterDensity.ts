import { T68_PER_T90 } from '../quantities/constants.ts'
import { requireWithin } from '../quantities/outOfRange.ts'
import { bracketedRoot } from '../statistics/bracketedRoot.ts'

/** International equation of state of seawater, EOS-80: UNESCO Technical Papers in Marine Science 44 (1983), algorithm 3. */

const horner = (x: number, ...c: readonly number[]) => c.reduceRight((sum, value) => sum * x + value, 0)

/** Density at surface pressure, kg/m3. */
function surfaceDensity(s: number, t: number): number {
  const water = horner(t, 999.842594, 6.793952e-2, -9.09529e-3, 1.001685e-4, -1.120083e-6, 6.536332e-9)
  return (
    water +
    s * horner(t, 8.24493e-1, -4.0899e-3, 7.6438e-5, -8.2467e-7, 5.3875e-9) +
    s ** 1.5 * horner(t, -5.72466e-3, 1.0227e-4, -1.6546e-6) +
    s * s * 4.8314e-4
  )
}

/** Secant bulk modulus, bar; p in bar. */
function secantBulkModulus(s: number, t: number, p: number): number {
  const k0 =
    horner(t, 19652.21, 148.4206, -2.327105, 1.360477e-2, -5.155288e-5) +
    s * horner(t, 54.6746, -0.603459, 1.09987e-2, -6.167e-5) +
    s ** 1.5 * horner(t, 7.944e-2, 1.6483e-2, -5.3009e-4)
  const a =
    horner(t, 3.239908, 1.43713e-3, 1.16092e-4, -5.77905e-7) +
    s * horner(t, 2.2838e-3, -1.0981e-5, -1.6078e-6) +
    s ** 1.5 * 1.91075e-4
  const b = horner(t, 8.50935e-5, -6.12293e-6, 5.2787e-8) + s * horner(t, -9.9348e-7, 2.0816e-8, 9.1697e-10)
  return k0 + p * (a + p * b)
}

/**
 * Density of seawater, or of pure water for salinity 0 (EOS-80).
 * @param salinity practical salinity, 0 to 45 (the equation holds to 42)
 * @param temperature degC (ITS-90), -2 to 40
 * @param pressure dbar above the atmosphere, 0 to 10000
 * @returns kg/m3
 * @throws OutOfRange
 * @example seawaterDensity(35, 25) // 1023.3
 */
export function seawaterDensity(salinity: number, temperature: number, pressure = 0): number {
  requireWithin('Practical salinity', salinity, 0, 45)
  const t = requireWithin('Temperature of seawater', temperature, -2, 40, '°C') * T68_PER_T90
  const p = requireWithin('Pressure', pressure, 0, 10_000, 'dbar') / 10
  const density = surfaceDensity(salinity, t)
  return p === 0 ? density : density / (1 - p / secantBulkModulus(salinity, t, p))
}

/**
 * Specific gravity: density of the sample at `temperature` over density of pure water at `reference`, both at
 * surface pressure. "25/25" has 25 for both; a hydrometer names its own pair.
 * @throws OutOfRange
 * @example specificGravity(35, 25, 25) // 1.0264
 */
export function specificGravity(salinity: number, temperature: number, reference: number): number {
  return seawaterDensity(salinity, temperature) / seawaterDensity(0, reference)
}

/** A gravity at either end may lie beyond it by the last digits of its own computation. */
const ROUNDING = 1e-12

/**
 * Practical salinity of a sample with this specific gravity; the inverse of specificGravity.
 * @throws OutOfRange when no salinity from 0 to 45 has it
 * @example salinityOfSpecificGravity(1.0264, 25, 25) // 35.036
 */
export function salinityOfSpecificGravity(gravity: number, temperature: number, reference: number): number {
  const low = specificGravity(0, temperature, reference)
  const high = specificGravity(45, temperature, reference)
  requireWithin('Specific gravity', gravity, low * (1 - ROUNDING), high * (1 + ROUNDING))
  const target = Math.min(high, Math.max(low, gravity))
  return bracketedRoot((s) => specificGravity(s, temperature, reference) - target, 0, 45, 1e-9)
}
