import { activityCoefficient, ionicStrength } from '../chemistry/activity.ts'
import { IONS, type IonCode, toMilligrams } from '../chemistry/ions.ts'
import { requireWithin } from '../quantities/outOfRange.ts'

/** A solution of one salt in water, as an ion standard is. */
export interface IonStandard {
  code: string
  label: string
  ion: IonCode
  counterIon: IonCode
  /** Of the salt, mol/L. */
  molarity: number
}

/** Half-width of the 95 % interval of the value of an ion standard as used, % (common practice, no source). */
export const ION_STANDARD_UNCERTAINTY = 2

export const ION_STANDARDS: readonly IonStandard[] = [
  {
    code: 'chloride-319',
    label: 'Chloride, KCl 0.01 mol/L (319 mg/L as activity)',
    ion: 'chloride',
    counterIon: 'potassium',
    molarity: 0.01,
  },
  {
    code: 'chloride-46.2',
    label: 'Chloride, KCl 0.00136 mol/L (46.2 mg/L as activity)',
    ion: 'chloride',
    counterIon: 'potassium',
    molarity: 0.00136,
  },
  {
    code: 'nitrate-100N',
    label: 'Nitrate, 100 mg/L as N (KNO3)',
    ion: 'nitrate',
    counterIon: 'potassium',
    molarity: 0.1 / 14.007,
  },
  {
    code: 'nitrate-1N',
    label: 'Nitrate, 1 mg/L as N (KNO3)',
    ion: 'nitrate',
    counterIon: 'potassium',
    molarity: 0.001 / 14.007,
  },
  {
    code: 'ammonium-100N',
    label: 'Ammonium, 100 mg/L as N (NH4Cl)',
    ion: 'ammonium',
    counterIon: 'chloride',
    molarity: 0.1 / 14.007,
  },
  {
    code: 'ammonium-1N',
    label: 'Ammonium, 1 mg/L as N (NH4Cl)',
    ion: 'ammonium',
    counterIon: 'chloride',
    molarity: 0.001 / 14.007,
  },
]

const OWN = new Map<string, IonStandard>()

/**
 * Takes in a standard of a site's own, in place of one with the same code.
 * @example takeIonStandard({ ...ionStandard('chloride-319'), code: 'example' }).code // 'example'
 */
export function takeIonStandard(standard: IonStandard): IonStandard {
  OWN.set(standard.code, standard)
  return standard
}

/**
 * The standard with this code. Throws RangeError for an unknown one.
 * @example ionStandard('chloride-319').molarity // 0.01
 */
export function ionStandard(code: string): IonStandard {
  const found = ION_STANDARDS.find((s) => s.code === code) ?? OWN.get(code)
  if (!found) throw new RangeError(`There is no ion standard "${code}".`)
  return found
}

export interface IonStandardValue {
  /** What is in it, mg/L. */
  concentration: number
  /** What the electrode feels, expressed as mg/L and as mol/L. */
  activity: number
  activityMolar: number
  activityCoefficient: number
}

/**
 * Concentration and activity of the ion in a standard of one 1:1 salt.
 * A label of 319 mg/L on KCl 0.01 mol/L is the activity; the concentration is 354.5 mg/L.
 * @param temperature degC, 0 to 50
 * @throws OutOfRange for the temperature or a molarity beyond 0.5 mol/L
 * @example ionStandardValue(ionStandard('chloride-319'), 25).activity // 318.47
 */
export function ionStandardValue(standard: Omit<IonStandard, 'code' | 'label'>, temperature: number): IonStandardValue {
  requireWithin('Temperature', temperature, 0, 50, '°C')
  requireWithin('Molarity', standard.molarity, 1e-7, 0.5, 'mol/L')
  const ion = IONS[standard.ion]
  const counter = IONS[standard.counterIon]
  const strength = ionicStrength([
    { concentration: standard.molarity, charge: ion.charge },
    { concentration: standard.molarity, charge: counter.charge },
  ])
  const coefficient = activityCoefficient(ion.charge, ion.size, strength, temperature)
  const concentration = toMilligrams(standard.molarity, ion)
  return {
    concentration,
    activity: concentration * coefficient,
    activityMolar: standard.molarity * coefficient,
    activityCoefficient: coefficient,
  }
}
