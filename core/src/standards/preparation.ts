import { requireWithin } from '../quantities/outOfRange.ts'

/** A salt to weigh in, water of crystal included. */
export interface Salt {
  code: string
  label: string
  /** g/mol with its water of crystal (standard atomic weights, IUPAC 2021, abridged). */
  molarMass: number
  /** What it gives in solution: mol of the ion per mol of the salt, g/mol of the ion. */
  ion: { label: string; molarMass: number; perMole: number }
}

const chloride = (perMole: number) => ({ label: 'chloride', molarMass: 35.45, perMole })
const nitrate = (perMole: number) => ({ label: 'nitrate', molarMass: 62.004, perMole })
const calcium = { label: 'calcium', molarMass: 40.078, perMole: 1 }

export const SALTS: readonly Salt[] = [
  { code: 'KCl', label: 'Potassium chloride KCl', molarMass: 74.548, ion: chloride(1) },
  { code: 'NaCl', label: 'Sodium chloride NaCl', molarMass: 58.44, ion: chloride(1) },
  { code: 'KNO3', label: 'Potassium nitrate KNO3', molarMass: 101.102, ion: nitrate(1) },
  { code: 'NaNO3', label: 'Sodium nitrate NaNO3', molarMass: 84.994, ion: nitrate(1) },
  {
    code: 'NH4Cl',
    label: 'Ammonium chloride NH4Cl',
    molarMass: 53.489,
    ion: { label: 'ammonium', molarMass: 18.039, perMole: 1 },
  },
  { code: 'CaCl2.2H2O', label: 'Calcium chloride dihydrate CaCl2·2H2O', molarMass: 147.008, ion: calcium },
  { code: 'Ca(NO3)2.4H2O', label: 'Calcium nitrate tetrahydrate Ca(NO3)2·4H2O', molarMass: 236.146, ion: calcium },
  {
    code: 'NaF',
    label: 'Sodium fluoride NaF',
    molarMass: 41.988,
    ion: { label: 'fluoride', molarMass: 18.998, perMole: 1 },
  },
]

/**
 * The salt with this code. Throws RangeError for an unknown one.
 * @example salt('KCl').molarMass // 74.548
 */
export function salt(code: string): Salt {
  const found = SALTS.find((s) => s.code === code)
  if (!found) throw new RangeError(`There is no salt "${code}".`)
  return found
}

/**
 * Mass to weigh in for a solution.
 * @param molarity of the salt, mol/L, up to 6
 * @param volume of the finished solution, L, up to 1000
 * @param purity of the salt as bought, %, 50 to 100
 * @returns g
 * @throws OutOfRange
 * @example massToWeigh(74.548, 0.01, 1) // 0.74548
 */
export function massToWeigh(molarMass: number, molarity: number, volume: number, purity = 100): number {
  requireWithin('Molar mass', molarMass, 1, 2000, 'g/mol')
  requireWithin('Molarity', molarity, 0, 6, 'mol/L')
  requireWithin('Volume', volume, 1e-4, 1000, 'L')
  requireWithin('Purity', purity, 50, 100, '%')
  return (molarMass * molarity * volume * 100) / purity
}

/**
 * Molarity that a weighed mass gives, mol/L: the inverse of massToWeigh.
 * @example molarityOfMass(74.548, 0.74548, 1) // 0.01
 */
export function molarityOfMass(molarMass: number, mass: number, volume: number, purity = 100): number {
  requireWithin('Molar mass', molarMass, 1, 2000, 'g/mol')
  requireWithin('Mass', mass, 0, 1e6, 'g')
  requireWithin('Volume', volume, 1e-4, 1000, 'L')
  requireWithin('Purity', purity, 50, 100, '%')
  return requireWithin('Molarity', (mass * purity) / 100 / molarMass / volume, 0, 6, 'mol/L')
}

/**
 * Volume of stock to dilute: V1 = c2 V2 / c1. Holds for amounts, so for mg/L and mol/L; not for conductivity.
 * @param wanted concentration after, at most that of the stock, in the same unit
 * @returns in the unit of `volume`
 * @throws OutOfRange
 * @example stockVolume(1000, 50, 0.5) // 0.025
 */
export function stockVolume(stock: number, wanted: number, volume: number): number {
  requireWithin('Concentration of the stock', stock, 1e-9, 1e9)
  requireWithin('Wanted concentration', wanted, 0, stock)
  requireWithin('Volume', volume, 1e-6, 1e9)
  return (wanted * volume) / stock
}

/**
 * Concentration after diluting `stockVolume` of stock to `volume`. @throws OutOfRange
 * @example dilutedConcentration(1000, 0.025, 0.5) // 50
 */
export function dilutedConcentration(stock: number, stockVolume: number, volume: number): number {
  requireWithin('Concentration of the stock', stock, 1e-9, 1e9)
  requireWithin('Volume', volume, 1e-6, 1e9)
  return (stock * requireWithin('Volume of stock', stockVolume, 0, volume)) / volume
}
