import { IONS, toMolar } from '../../chemistry/ions.ts'
import type { Standard } from '../../measurement/standard.ts'
import type { OwnStandardTraits } from '../../procedures/procedure.ts'
import { quantity } from '../../quantities/sentence.ts'
import {
  ION_STANDARD_UNCERTAINTY,
  ION_STANDARDS,
  type IonStandard,
  ionStandardValue,
  takeIonStandard,
} from '../../standards/ionStandards.ts'

function bottleOf(s: IonStandard): Standard {
  const { activity } = ionStandardValue(s, 25)
  return {
    code: s.code,
    kind: 'ion',
    label: s.label,
    // Of one ion there are two strengths: the salt and its strength tell them apart.
    shortLabel: s.label.replace(/^\w+, /, ''),
    unit: 'mg/L',
    decimals: activity < 100 ? 1 : 0,
    nominal: activity,
    uncertainty: (ION_STANDARD_UNCERTAINTY / 100) * activity,
    relative: true,
    low: 0,
    high: 50,
    caution: '',
    // Nitrogen compounds are kept cold and dark (common practice, no source).
    ...(s.ion === 'chloride' ? {} : { keeping: { days: 60, storage: '4 to 8 °C, dark' } }),
    takesLotTable: false,
    valueAt: (temperature) => ionStandardValue(s, temperature).activity,
    quantityOf: (value) => quantity(value, 'mg/L', value < 100 ? 1 : 0),
  }
}

export const ION_BOTTLES: Standard[] = ION_STANDARDS.map(bottleOf)

/** Labels say what is in it; what the electrode feels of that follows from the strength of the one salt. */
export const OWN_ION_STANDARDS: OwnStandardTraits = {
  low: 0.01,
  high: 15_000,
  usualUncertainty: ION_STANDARD_UNCERTAINTY,
  take({ code, label, table, uncertainty, caution, ion = 'chloride' }) {
    const counterIon = IONS[ion].charge > 0 ? 'chloride' : 'potassium'
    const standard: IonStandard = {
      code,
      label,
      ion,
      counterIon,
      molarity: toMolar(table.values[0] as number, IONS[ion]),
    }
    takeIonStandard(standard)
    const bottle = bottleOf(standard)
    return { ...bottle, uncertainty: (uncertainty / 100) * bottle.nominal, caution }
  },
}
