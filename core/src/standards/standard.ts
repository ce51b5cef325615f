import type { IonCode } from '../chemistry/ions.ts'
import type { ReferenceCode } from '../electrode/referenceElectrodes.ts'
import { CONDUCTIVITY_STANDARDS, conductivityStandardValue } from './conductivityStandards.ts'
import { ION_STANDARD_UNCERTAINTY, ION_STANDARDS, ionStandardValue } from './ionStandards.ts'
import { ORP_STANDARDS, type OrpStandardCode, orpStandardEh, orpStandardReading } from './orpStandards.ts'
import { PH_BUFFERS, type PhTable, phBufferValue } from './phBuffers.ts'

/** What a bottled standard is for. */
export type StandardKind = 'ph' | 'conductivity' | 'orp' | 'ion'

/** A bottled standard of any kind, as the Shelf and the Bench see it. */
export interface Standard {
  code: string
  kind: StandardKind
  label: string
  /** Unit of its value: pH, uS/cm, mV (Eh), mg/L (activity). */
  unit: '' | 'µS/cm' | 'mV' | 'mg/L'
  decimals: number
  /** Value on the label, at 25 degC. */
  nominal: number
  /** Half-width of the 95 % interval of its value, in its unit. */
  uncertainty: number
  /** Where its value is known, degC. */
  low: number
  high: number
  /** What it can do to the person who pours it; empty for harmless ones. */
  caution: string
}

const ALL: readonly Standard[] = [
  ...PH_BUFFERS.map(
    (b): Standard => ({
      code: b.code,
      kind: 'ph',
      label: b.family === 'technical' ? b.label : `${b.nominal.toFixed(3)} ${b.label}`,
      unit: '',
      decimals: b.family === 'technical' ? 2 : 3,
      nominal: b.nominal,
      uncertainty: b.uncertainty,
      low: b.code === 'tartrate' ? 25 : 0,
      high: 50,
      caution: '',
    }),
  ),
  ...CONDUCTIVITY_STANDARDS.map(
    (s): Standard => ({
      code: s.code,
      kind: 'conductivity',
      label: s.label,
      unit: 'µS/cm',
      decimals: s.nominal < 1000 ? 1 : 0,
      nominal: s.nominal,
      uncertainty: (s.uncertainty / 100) * s.nominal,
      low: s.low,
      high: s.high,
      caution: '',
    }),
  ),
  ...ORP_STANDARDS.map(
    (s): Standard => ({
      code: s.code,
      kind: 'orp',
      label: s.label,
      unit: 'mV',
      decimals: 0,
      nominal: orpStandardEh(s.code, 25),
      uncertainty: s.uncertainty,
      low: s.low,
      high: s.high,
      caution: s.caution,
    }),
  ),
  ...ION_STANDARDS.map((s): Standard => {
    const { activity } = ionStandardValue(s, 25)
    return {
      code: s.code,
      kind: 'ion',
      label: s.label,
      unit: 'mg/L',
      decimals: activity < 100 ? 1 : 0,
      nominal: activity,
      uncertainty: (ION_STANDARD_UNCERTAINTY / 100) * activity,
      low: 0,
      high: 50,
      caution: '',
    }
  }),
]

const BY_CODE = new Map(ALL.map((s) => [s.code, s]))

/** All bottled standards known, by kind. */
export const STANDARDS: readonly Standard[] = ALL

/** The standard with this code. Throws RangeError for an unknown one. */
export function standardOf(code: string): Standard {
  const found = BY_CODE.get(code)
  if (!found) throw new RangeError(`There is no standard "${code}".`)
  return found
}

/** Ion of an ion standard. Throws RangeError for a standard of another kind. */
export function ionOfStandard(code: string): IonCode {
  const found = ION_STANDARDS.find((s) => s.code === code)
  if (!found) throw new RangeError(`"${code}" is no ion standard.`)
  return found.ion
}

/**
 * Value of a standard at a temperature, in its unit: pH, uS/cm as it is there, Eh in mV (or the reading against a
 * reference electrode when one is named), ion activity in mg/L.
 * @param lotTable the lot's own printed table, which wins (pH and conductivity)
 * @throws OutOfRange for the temperature, RangeError for an unknown code
 */
export function standardValue(
  code: string,
  temperature: number,
  lotTable?: PhTable,
  reference?: ReferenceCode,
): number {
  switch (standardOf(code).kind) {
    case 'ph':
      return phBufferValue(code, temperature, lotTable)
    case 'conductivity':
      return conductivityStandardValue(code, temperature, lotTable)
    case 'orp':
      return reference
        ? orpStandardReading(code as OrpStandardCode, reference, temperature)
        : orpStandardEh(code as OrpStandardCode, temperature)
    case 'ion':
      return ionStandardValue(ION_STANDARDS.find((s) => s.code === code) as (typeof ION_STANDARDS)[number], temperature)
        .activity
  }
}
