import type { Standard } from '../../measurement/standard.ts'
import { quantity } from '../../quantities/sentence.ts'
import { CONDUCTIVITY_STANDARDS, conductivityStandardValue } from '../../standards/conductivityStandards.ts'

export const CONDUCTIVITY_BOTTLES: readonly Standard[] = CONDUCTIVITY_STANDARDS.map((s) => ({
  code: s.code,
  kind: 'conductivity',
  label: s.label,
  shortLabel: s.label,
  unit: 'µS/cm',
  decimals: s.nominal < 1000 ? 1 : 0,
  nominal: s.nominal,
  uncertainty: (s.uncertainty / 100) * s.nominal,
  relative: true,
  low: s.low,
  high: s.high,
  caution: '',
  takesLotTable: true,
  valueAt: (temperature, lotTable) => conductivityStandardValue(s.code, temperature, lotTable),
  quantityOf: (value) => (value >= 2000 ? quantity(value / 1000, 'mS/cm', 2) : quantity(value, 'µS/cm', 1)),
}))
