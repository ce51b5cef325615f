import type { Standard } from '../../measurement/standard.ts'
import { quantity } from '../../quantities/sentence.ts'
import type { Hazard } from '../../standards/hazards.ts'
import { ORP_STANDARDS, type OrpStandardCode, orpStandardEh } from '../../standards/orpStandards.ts'

const HAZARD_OF: Record<OrpStandardCode, Hazard> = {
  zobell: 'cyanide',
  light: 'strong-acid',
  'quinhydrone-4': 'quinhydrone',
  'quinhydrone-7': 'quinhydrone',
}

export const ORP_BOTTLES: readonly Standard[] = ORP_STANDARDS.map((s) => ({
  code: s.code,
  kind: 'orp',
  label: s.label,
  shortLabel: s.label,
  unit: 'mV',
  decimals: 0,
  nominal: orpStandardEh(s.code, 25),
  uncertainty: s.uncertainty,
  relative: false,
  low: s.low,
  high: s.high,
  caution: s.caution,
  hazard: HAZARD_OF[s.code],
  ...(s.code.startsWith('quinhydrone') ? { keeping: { days: 1, storage: 'Made up fresh' } } : {}),
  takesLotTable: false,
  valueAt: (temperature) => orpStandardEh(s.code, temperature),
  quantityOf: (value) => quantity(value, 'mV Eh', 0),
}))
