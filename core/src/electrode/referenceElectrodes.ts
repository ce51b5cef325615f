import { requireWithin } from '../quantities/outOfRange.ts'
import { monotoneInterpolation } from '../statistics/monotoneInterpolation.ts'

/**
 * Potential of reference half-cells against the standard hydrogen electrode, junction included, mV by temperature.
 * U.S. Geological Survey, National Field Manual, chapter A6.5 (2002), table of half-cell potentials; from memory.
 */
const TEMPERATURES = [10, 15, 20, 25, 30, 35, 40]

const ROWS = [
  { code: 'agcl-3M', label: 'Ag/AgCl, KCl 3 mol/L', values: [220, 216, 213, 209, 205, 202, 198] },
  { code: 'agcl-3.3M', label: 'Ag/AgCl, KCl 3.3 mol/L', values: [217, 214, 210, 207, 203, 199, 195] },
  { code: 'agcl-3.5M', label: 'Ag/AgCl, KCl 3.5 mol/L', values: [215, 212, 208, 205, 201, 197, 193] },
  { code: 'agcl-saturated', label: 'Ag/AgCl, KCl saturated', values: [214, 209, 204, 199, 194, 189, 184] },
  { code: 'calomel-saturated', label: 'Calomel, KCl saturated', values: [254, 251, 248, 244, 241, 238, 234] },
] as const

export type ReferenceCode = (typeof ROWS)[number]['code']

export interface ReferenceElectrode {
  code: ReferenceCode
  label: string
}

/** Reference electrodes of installed ORP and pH sensors. */
export const REFERENCE_ELECTRODES: readonly ReferenceElectrode[] = ROWS.map(({ code, label }) => ({ code, label }))

const BY_CODE = new Map(
  ROWS.map((row) => [row.code, monotoneInterpolation(TEMPERATURES, row.values, `Temperature of ${row.label}`, '°C')]),
)

/** Half-width of the 95 % interval of a potential from the table, mV: its last digit and how far sources differ. */
export const REFERENCE_UNCERTAINTY = 3

/**
 * Potential of a reference electrode against the standard hydrogen electrode.
 * @param temperature degC, 10 to 40
 * @returns mV
 * @throws OutOfRange for the temperature, RangeError for an unknown code
 * @example referencePotential('agcl-3M', 25) // 209
 */
export function referencePotential(code: ReferenceCode, temperature: number): number {
  const found = BY_CODE.get(code)
  if (!found) throw new RangeError(`There is no reference electrode "${code}".`)
  return found(temperature)
}

/**
 * Redox potential against the standard hydrogen electrode (Eh, mV) of a reading against a reference electrode.
 * @example toEh(221, 'agcl-3M', 25) // 430
 */
export function toEh(reading: number, reference: ReferenceCode, temperature: number): number {
  return requireWithin('ORP', reading, -2000, 2000, 'mV') + referencePotential(reference, temperature)
}

/**
 * Reading against a reference electrode at a redox potential Eh, mV: the inverse of toEh.
 * @example fromEh(430.28, 'agcl-3M', 25) // 221.28
 */
export function fromEh(eh: number, reference: ReferenceCode, temperature: number): number {
  return requireWithin('Eh', eh, -2500, 2500, 'mV') - referencePotential(reference, temperature)
}
