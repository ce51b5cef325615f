import type { Standard } from '../../measurement/standard.ts'
import { quantity } from '../../quantities/sentence.ts'
import { ION_STANDARD_UNCERTAINTY, ION_STANDARDS, ionStandardValue } from '../../standards/ionStandards.ts'

export const ION_BOTTLES: readonly Standard[] = ION_STANDARDS.map((s) => {
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
})
