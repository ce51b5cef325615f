import { ZERO_CELSIUS } from '../quantities/constants.ts'
import { requireWithin } from '../quantities/outOfRange.ts'

/** Standard atomic weight of nitrogen and masses of what carries it, g/mol (IUPAC 2021, abridged). */
const NITROGEN = 14.007
export const NITROGEN_FORMS = {
  NO3: { label: 'Nitrate', molarMass: 62.004 },
  'NO3-N': { label: 'Nitrate as nitrogen', molarMass: NITROGEN },
  NH4: { label: 'Ammonium', molarMass: 18.039 },
  NH3: { label: 'Ammonia', molarMass: 17.031 },
  'NH4-N': { label: 'Ammonium as nitrogen', molarMass: NITROGEN },
} as const

export type NitrogenForm = keyof typeof NITROGEN_FORMS

/**
 * The same amount of nitrogen written as another form, mg/L. @throws OutOfRange
 * @example convertNitrogen(50, 'NO3', 'NO3-N') // 11.295
 */
export function convertNitrogen(value: number, from: NitrogenForm, to: NitrogenForm): number {
  requireWithin(NITROGEN_FORMS[from].label, value, 0, 1e6, 'mg/L')
  return (value * NITROGEN_FORMS[to].molarMass) / NITROGEN_FORMS[from].molarMass
}

/**
 * pKa of ammonium in fresh water: 0.09018 + 2729.92 / T (K. Emerson et al., J. Fish. Res. Board Can. 32 (1975) 2379).
 * @param temperature degC, 0 to 50
 * @example ammoniumPka(25) // 9.2464
 */
export function ammoniumPka(temperature: number): number {
  return 0.09018 + 2729.92 / (requireWithin('Temperature', temperature, 0, 50, '°C') + ZERO_CELSIUS)
}

/**
 * Share of total ammonia that is un-ionised (NH3), in fresh water; the form that harms fish.
 * In seawater it is about a fifth less.
 * @param ph 0 to 14
 * @param temperature degC, 0 to 50
 * @returns 0 to 1
 * @example unionisedAmmonia(8.2, 25) // 0.082461
 */
export function unionisedAmmonia(ph: number, temperature: number): number {
  return 1 / (10 ** (ammoniumPka(temperature) - requireWithin('pH', ph, 0, 14)) + 1)
}
