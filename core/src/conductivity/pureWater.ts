import { ZERO_CELSIUS } from '../quantities/constants.ts'
import { requireWithin } from '../quantities/outOfRange.ts'
import { monotoneInterpolation } from '../statistics/monotoneInterpolation.ts'
import { seawaterDensity } from './seawaterDensity.ts'

/**
 * Density of pure water at atmospheric pressure, kg/m3.
 * G. S. Kell, J. Chem. Eng. Data 20 (1975) 97, equation 16, for 0 to 150 degC.
 */
function waterDensity(t: number): number {
  if (t <= 40) return seawaterDensity(0, t)
  const top =
    999.83952 + t * (16.945176 + t * (-7.9870401e-3 + t * (-46.170461e-6 + t * (105.56302e-9 - t * 280.54253e-12))))
  return top / (1 + 16.87985e-3 * t)
}

/**
 * Ion product of water on the molal scale, (mol/kg)^2.
 * W. L. Marshall and E. U. Franck, J. Phys. Chem. Ref. Data 10 (1981) 295 (IAPWS release of 1980).
 * @example Math.log10(ionProductOfWater(25)) // -13.995
 */
export function ionProductOfWater(temperature: number): number {
  const t = requireWithin('Temperature', temperature, 0, 100, '°C') + ZERO_CELSIUS
  const density = Math.log10(waterDensity(temperature) / 1000)
  const log =
    -4.098 - 3245.2 / t + 2.2362e5 / t ** 2 - 3.984e7 / t ** 3 + (13.957 - 1262.3 / t + 8.5641e5 / t ** 2) * density
  return 10 ** log
}

/** Limiting molar conductivities, S cm2/mol, from memory of R. A. Robinson and R. H. Stokes, Electrolyte Solutions, app. 6.2; OH- of the later measurements. */
const TEMPERATURES = [0, 5, 15, 25, 35, 45, 55, 100]
const HYDROGEN = [225, 250.1, 300.6, 349.8, 397, 441.4, 483.1, 635]
const HYDROXIDE = [117, 133, 165.5, 198.3, 233, 267.2, 301.4, 446]
const SODIUM = [26.5, 30.3, 39.7, 50.15, 61.5, 73.7, 86.9, 150]
const CHLORIDE = [41, 47.5, 61.4, 76.35, 92.2, 108.9, 126.4, 207]

const sum = (a: readonly number[], b: readonly number[]) => a.map((value, i) => value + (b[i] as number))
const waterIons = monotoneInterpolation(TEMPERATURES, sum(HYDROGEN, HYDROXIDE), 'Temperature', '°C')
const saltIons = monotoneInterpolation(TEMPERATURES, sum(SODIUM, CHLORIDE), 'Temperature', '°C')

/** Resistivity of water with nothing in it at 25 degC, Mohm cm (T. S. Light et al., Electrochem. Solid-State Lett. 8 (2005) E16; ASTM D5391). */
export const PURE_WATER_RESISTIVITY_25 = 18.18

const conductivityOf = (t: number) => Math.sqrt(ionProductOfWater(t)) * (waterDensity(t) / 1000) * waterIons(t)
const ANCHOR = 1 / PURE_WATER_RESISTIVITY_25 / conductivityOf(25)

/**
 * Conductivity of water with nothing in it: its own ions times their mobilities, scaled by 0.1 % so that it meets
 * 18.18 Mohm cm at 25 degC.
 * @param temperature degC, 0 to 100
 * @returns uS/cm: 0.0550 at 25 degC
 * @throws OutOfRange
 * @example pureWaterConductivity(25) // 0.055006
 */
export function pureWaterConductivity(temperature: number): number {
  return ANCHOR * conductivityOf(temperature)
}

/**
 * Conductivity of a trace of salt (NaCl) at a temperature over that at 25 degC.
 * @example saltTraceRatio(50) // 1.5634
 */
export function saltTraceRatio(temperature: number): number {
  return saltIons(temperature) / saltIons(25)
}

/** More than this is no high-purity water: the salt is then no trace, uS/cm. */
const HIGH_PURITY_LIMIT = 20

/**
 * High-purity compensation: what a reading at `temperature` is at 25 degC. The salt's share goes with the salt's
 * mobility, water's own share with water's own law (the two-term method of ASTM D5391, salt taken as NaCl).
 * @param conductivity uS/cm, uncompensated; not less than pure water's own, up to 20
 * @throws OutOfRange
 * @example highPurityTo25(0.2, 50) // 0.074047
 */
export function highPurityTo25(conductivity: number, temperature: number): number {
  const own = pureWaterConductivity(temperature)
  requireWithin('Conductivity of high-purity water', conductivity, 0.98 * own, HIGH_PURITY_LIMIT, 'µS/cm')
  return pureWaterConductivity(25) + (conductivity - own) / saltTraceRatio(temperature)
}

/**
 * The inverse of highPurityTo25: what water of this conductivity at 25 degC has at `temperature`, uS/cm.
 * @example highPurityFrom25(0.0628, 50) // 0.18242
 */
export function highPurityFrom25(conductivity25: number, temperature: number): number {
  const own = pureWaterConductivity(25)
  requireWithin('Conductivity of high-purity water', conductivity25, 0.98 * own, HIGH_PURITY_LIMIT, 'µS/cm')
  return pureWaterConductivity(temperature) + (conductivity25 - own) * saltTraceRatio(temperature)
}
