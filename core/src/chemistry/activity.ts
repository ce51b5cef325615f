import { ZERO_CELSIUS } from '../quantities/constants.ts'
import { requireWithin } from '../quantities/outOfRange.ts'

/**
 * Relative permittivity of water, 0 to 100 degC.
 * C. G. Malmberg and A. A. Maryott, J. Res. Natl. Bur. Stand. 56 (1956) 1.
 * @example waterPermittivity(25) // 78.303
 */
export function waterPermittivity(temperature: number): number {
  const t = requireWithin('Temperature', temperature, 0, 100, '°C')
  return 87.74 - 0.40008 * t + 9.398e-4 * t * t - 1.41e-6 * t ** 3
}

/**
 * Debye-Hueckel constants of water: A in (kg/mol)^(1/2), decadic, and B in (kg/mol)^(1/2) / angstrom
 * (A = 1.8246e6 / (eps T)^(3/2), B = 50.29 / (eps T)^(1/2); Robinson and Stokes; Bates, Determination of pH).
 * @param temperature degC, 0 to 100
 * @example debyeHueckelConstants(25) // { a: 0.5115, b: 0.32914 }
 */
export function debyeHueckelConstants(temperature: number): { a: number; b: number } {
  const product = waterPermittivity(temperature) * (temperature + ZERO_CELSIUS)
  return { a: 1.8246e6 / product ** 1.5, b: 50.29 / Math.sqrt(product) }
}

/**
 * Activity coefficient of an ion by the extended Debye-Hueckel law.
 * @param charge of the ion, -3 to 3, not 0
 * @param ionSize effective diameter of the hydrated ion, angstrom (J. Kielland, J. Am. Chem. Soc. 59 (1937) 1675), 2 to 11
 * @param ionicStrength mol/L, 0 to 0.1
 * @param temperature degC, 0 to 100
 * @throws OutOfRange
 * @example extendedDebyeHueckel(-1, 3, 0.01) // 0.89835
 */
export function extendedDebyeHueckel(charge: number, ionSize: number, ionicStrength: number, temperature = 25): number {
  requireCharge(charge)
  requireWithin('Ion size', ionSize, 2, 11, 'Å')
  const root = Math.sqrt(
    requireWithin('Ionic strength for the extended Debye-Hückel law', ionicStrength, 0, 0.1, 'mol/L'),
  )
  const { a, b } = debyeHueckelConstants(temperature)
  return 10 ** ((-a * charge * charge * root) / (1 + b * ionSize * root))
}

/**
 * Activity coefficient of an ion by the Davies equation (C. W. Davies, Ion Association, 1962; 0.3 I).
 * @param ionicStrength mol/L, 0 to 0.5
 * @throws OutOfRange
 * @example davies(-1, 0.1) // 0.78065
 */
export function davies(charge: number, ionicStrength: number, temperature = 25): number {
  requireCharge(charge)
  const strength = requireWithin('Ionic strength for the Davies equation', ionicStrength, 0, 0.5, 'mol/L')
  const root = Math.sqrt(strength)
  const { a } = debyeHueckelConstants(temperature)
  return 10 ** (-a * charge * charge * (root / (1 + root) - 0.3 * strength))
}

function requireCharge(charge: number): void {
  const size = Math.abs(charge)
  requireWithin('Size of the charge', size === Math.round(size) ? size : Number.NaN, 1, 3)
}

/** Where the extended law ends and the Davies equation takes over, mol/L. */
const EXTENDED_UP_TO = 0.1

/**
 * Activity coefficient by the law that holds at this ionic strength: extended Debye-Hueckel to 0.1, Davies to 0.5 mol/L.
 * @example activityCoefficient(-1, 3, 0.01) // 0.89835
 */
export function activityCoefficient(charge: number, ionSize: number, ionicStrength: number, temperature = 25): number {
  return ionicStrength <= EXTENDED_UP_TO
    ? extendedDebyeHueckel(charge, ionSize, ionicStrength, temperature)
    : davies(charge, ionicStrength, temperature)
}

/**
 * Ionic strength of a composition, half the sum of c z^2, mol/L.
 * @example ionicStrength([{ concentration: 0.01, charge: 2 }, { concentration: 0.02, charge: -1 }]) // 0.03
 */
export function ionicStrength(ions: readonly { concentration: number; charge: number }[]): number {
  return ions.reduce(
    (sum, ion) => sum + 0.5 * requireWithin('Concentration', ion.concentration, 0, 20, 'mol/L') * ion.charge ** 2,
    0,
  )
}

/**
 * Ionic strength guessed from conductivity: I = 0.0127 EC in mS/cm at 25 degC, for natural and nutrient waters
 * (R. A. Griffin and J. J. Jurinak, Soil Sci. 116 (1973) 26). Good to about a fifth.
 * @param conductivity25 uS/cm at 25 degC, 0 to 32000
 * @returns mol/L
 * @example ionicStrengthOfConductivity(2000) // 0.0254
 */
export function ionicStrengthOfConductivity(conductivity25: number): number {
  return 0.0127e-3 * requireWithin('Conductivity at 25 °C', conductivity25, 0, 32_000, 'µS/cm')
}
