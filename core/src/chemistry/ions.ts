import { requireWithin } from '../quantities/outOfRange.ts'

export interface Ion {
  code: string
  label: string
  /** Of the ion, elementary charges. */
  charge: number
  /** g/mol, from the standard atomic weights (IUPAC 2021, abridged). */
  molarMass: number
  /** Kielland's ion size, angstrom. */
  size: number
}

/** Ions for which sensors are sold, and the partners in their salts. */
export const IONS = {
  chloride: { code: 'chloride', label: 'Chloride', charge: -1, molarMass: 35.45, size: 3 },
  nitrate: { code: 'nitrate', label: 'Nitrate', charge: -1, molarMass: 62.004, size: 3 },
  ammonium: { code: 'ammonium', label: 'Ammonium', charge: 1, molarMass: 18.039, size: 2.5 },
  potassium: { code: 'potassium', label: 'Potassium', charge: 1, molarMass: 39.098, size: 3 },
  sodium: { code: 'sodium', label: 'Sodium', charge: 1, molarMass: 22.99, size: 4 },
  calcium: { code: 'calcium', label: 'Calcium', charge: 2, molarMass: 40.078, size: 6 },
  fluoride: { code: 'fluoride', label: 'Fluoride', charge: -1, molarMass: 18.998, size: 3.5 },
} as const satisfies Record<string, Ion>

export type IonCode = keyof typeof IONS

/**
 * mg/L of an ion as mol/L. @throws OutOfRange
 * @example toMolar(354.5, IONS.chloride) // 0.01
 */
export function toMolar(milligrams: number, ion: Pick<Ion, 'molarMass' | 'label'>): number {
  return requireWithin(`Concentration of ${ion.label.toLowerCase()}`, milligrams, 0, 1e6, 'mg/L') / ion.molarMass / 1000
}

/**
 * mol/L of an ion as mg/L. @throws OutOfRange
 * @example toMilligrams(0.01, IONS.chloride) // 354.5
 */
export function toMilligrams(molar: number, ion: Pick<Ion, 'molarMass' | 'label'>): number {
  return requireWithin(`Concentration of ${ion.label.toLowerCase()}`, molar, 0, 20, 'mol/L') * ion.molarMass * 1000
}
