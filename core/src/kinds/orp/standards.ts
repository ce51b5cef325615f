import { toEh } from '../../electrode/referenceElectrodes.ts'
import { LABEL_TEMPERATURE, printedValue, reachOf } from '../../measurement/ownStandards.ts'
import type { Standard } from '../../measurement/standard.ts'
import type { OwnStandardTraits } from '../../procedures/procedure.ts'
import { quantity } from '../../quantities/sentence.ts'
import type { Hazard } from '../../standards/hazards.ts'
import { ORP_STANDARDS, type OrpStandard, orpStandardEh, takeOrpStandard } from '../../standards/orpStandards.ts'

const HAZARD_OF: Readonly<Record<string, Hazard>> = {
  zobell: 'cyanide',
  light: 'strong-acid',
  'quinhydrone-4': 'quinhydrone',
  'quinhydrone-7': 'quinhydrone',
}

const bottleOf = (s: OrpStandard): Standard => ({
  code: s.code,
  kind: 'orp',
  label: s.label,
  shortLabel: s.label,
  unit: 'mV',
  decimals: 0,
  nominal: orpStandardEh(s.code, Math.min(s.high, Math.max(s.low, LABEL_TEMPERATURE))),
  uncertainty: s.uncertainty,
  relative: false,
  low: s.low,
  high: s.high,
  caution: s.caution,
  ...(HAZARD_OF[s.code] ? { hazard: HAZARD_OF[s.code] } : {}),
  ...(s.code.startsWith('quinhydrone') ? { keeping: { days: 1, storage: 'Made up fresh' } } : {}),
  takesLotTable: false,
  valueAt: (temperature) => orpStandardEh(s.code, temperature),
  quantityOf: (value) => quantity(value, 'mV Eh', 0),
})

export const ORP_BOTTLES: Standard[] = ORP_STANDARDS.map(bottleOf)

/** Bottles say what an electrode reads in them; against which reference it reads so differs from maker to maker. */
export const OWN_ORP_STANDARDS: OwnStandardTraits = {
  low: -1500,
  high: 1500,
  usualUncertainty: 10,
  take({ code, label, table, uncertainty, caution, against = 'agcl-3M' }) {
    const printed = printedValue(label, table)
    const { low, high } = reachOf(table)
    const standard: OrpStandard = { code, label, low, high, uncertainty, source: 'as its bottle says', caution }
    takeOrpStandard(standard, (t) => (against === 'hydrogen' ? printed(t) : toEh(printed(t), against, t)))
    return bottleOf(standard)
  },
}
