import { LABEL_TEMPERATURE, printedValue, reachOf } from '../../measurement/ownStandards.ts'
import type { Standard } from '../../measurement/standard.ts'
import type { OwnStandardTraits } from '../../procedures/procedure.ts'
import { quantity } from '../../quantities/sentence.ts'
import {
  CONDUCTIVITY_STANDARDS,
  type ConductivityStandard,
  conductivityStandardValue,
  takeConductivityStandard,
} from '../../standards/conductivityStandards.ts'

const bottleOf = (s: ConductivityStandard): Standard => ({
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
})

export const CONDUCTIVITY_BOTTLES: Standard[] = CONDUCTIVITY_STANDARDS.map(bottleOf)

export const OWN_CONDUCTIVITY_STANDARDS: OwnStandardTraits = {
  low: 0.05,
  high: 500_000,
  usualUncertainty: 1,
  take({ code, label, table, uncertainty, caution }) {
    const isTable = table.temperatures.length > 1
    const { low, high } = reachOf(table)
    const valueAt = printedValue(label, table)
    const nominal = valueAt(Math.min(high, Math.max(low, LABEL_TEMPERATURE)))
    const taken = takeConductivityStandard(
      { code, label, nominal, uncertainty },
      isTable ? { low, high, valueAt } : null,
    )
    return { ...bottleOf(taken), caution }
  },
}
