import { T68_PER_T90 } from '../quantities/constants.ts'
import { requireWithin } from '../quantities/outOfRange.ts'
import { bracketedRoot } from '../statistics/bracketedRoot.ts'

/**
 * Practical Salinity Scale 1978. All coefficients: UNESCO Technical Papers in Marine Science 44 (1983),
 * Fofonoff and Millard, algorithms 1 and 2. Temperatures here are ITS-90; the scale itself is on IPTS-68.
 */

/** Conductivity of seawater of S = 35 at 15 degC (IPTS-68) and surface pressure, uS/cm (UNESCO 44; Culkin and Smith 1980). */
export const STANDARD_SEAWATER_CONDUCTIVITY = 42914

/** Conductivity ratio of S = 35 at temperature t68 to that at 15 degC. */
function standardRatio(t68: number): number {
  return 0.6766097 + t68 * (2.00564e-2 + t68 * (1.104259e-4 + t68 * (-6.9698e-7 + t68 * 1.0031e-9)))
}

/** Salinity from the ratio to S = 35 at the same temperature and pressure. */
function salinityOfRatio(ratio: number, t68: number): number {
  const x = Math.sqrt(ratio)
  const shift = t68 - 15
  const a = 0.008 + x * (-0.1692 + x * (25.3851 + x * (14.0941 + x * (-7.0261 + x * 2.7081))))
  const b = 0.0005 + x * (-0.0056 + x * (-0.0066 + x * (-0.0375 + x * (0.0636 + x * -0.0144))))
  return a + (shift / (1 + 0.0162 * shift)) * b
}

/** Effect of pressure on a conductivity ratio: R = rt Rt (1 + ...). */
function pressureTerm(pressure: number): number {
  return pressure * (2.07e-5 + pressure * (-6.37e-10 + pressure * 3.989e-15))
}

function pressureBase(t68: number, ratio: number): number {
  return 1 + t68 * (3.426e-2 + t68 * 4.464e-4) + (0.4215 - 3.107e-3 * t68) * ratio
}

function checkPlace(temperature: number, pressure: number): number {
  requireWithin('Temperature of seawater', temperature, -2, 40, '°C')
  requireWithin('Pressure', pressure, 0, 10_000, 'dbar')
  return temperature * T68_PER_T90
}

/**
 * Practical salinity from conductivity (PSS-78).
 * @param conductivity uS/cm, uncompensated, at `temperature`; more than 0
 * @param temperature degC (ITS-90), -2 to 40
 * @param pressure dbar above the atmosphere, 0 to 10000
 * @returns practical salinity, without unit; the scale holds for 2 to 42
 * @throws OutOfRange, also when the salinity comes out beyond 0 to 45
 * @example practicalSalinity(53_087, 25) // 35.012
 */
export function practicalSalinity(conductivity: number, temperature: number, pressure = 0): number {
  const t68 = checkPlace(temperature, pressure)
  requireWithin('Conductivity of seawater', conductivity, 1, 150_000, 'µS/cm')
  const R = conductivity / STANDARD_SEAWATER_CONDUCTIVITY
  const rp = pressure === 0 ? 1 : 1 + pressureTerm(pressure) / pressureBase(t68, R)
  const salinity = salinityOfRatio(R / (rp * standardRatio(t68)), t68)
  // The polynomial dips a few thousandths below 0 for almost fresh water: nothing there is salt.
  return requireWithin('Practical salinity', salinity < 0 && salinity > -0.01 ? 0 : salinity, 0, 45)
}

/**
 * Conductivity of seawater of a practical salinity: the inverse of practicalSalinity, solved to 1e-10 in the ratio.
 * @param salinity 0.02 to 45; the scale holds for 2 to 42
 * @param temperature degC (ITS-90), -2 to 40
 * @param pressure dbar, 0 to 10000
 * @returns uS/cm
 * @throws OutOfRange
 * @example seawaterConductivity(35, 15) // 42918
 */
export function seawaterConductivity(salinity: number, temperature: number, pressure = 0): number {
  const t68 = checkPlace(temperature, pressure)
  requireWithin('Practical salinity', salinity, 0.02, 45)
  const ratio = bracketedRoot((x) => salinityOfRatio(x, t68) - salinity, 1e-5, 1.5, 1e-12)
  const C = standardRatio(t68) * ratio
  if (pressure === 0) return C * STANDARD_SEAWATER_CONDUCTIVITY
  // R = C (1 + c / (ar + br R)) is a quadratic in R (UNESCO 44, algorithm 1).
  const c = pressureTerm(pressure)
  const br = 0.4215 - 3.107e-3 * t68
  const ar = 1 + t68 * (3.426e-2 + t68 * 4.464e-4)
  const half = ar - br * C
  const R = (-half + Math.sqrt(half * half + 4 * br * C * (ar + c))) / (2 * br)
  return R * STANDARD_SEAWATER_CONDUCTIVITY
}
