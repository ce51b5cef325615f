import { nernstSlope } from '../electrode/nernst.ts'
import { fromEh, type ReferenceCode } from '../electrode/referenceElectrodes.ts'
import { requireWithin } from '../quantities/outOfRange.ts'
import { phBufferValue } from './phBuffers.ts'

/** Of one that is known everywhere, or of a site's own. */
export type OrpStandardCode = string

export interface OrpStandard {
  code: OrpStandardCode
  label: string
  low: number
  high: number
  /** Half-width of the 95 % interval of its Eh, mV. */
  uncertainty: number
  source: string
  /** What it can do to the person who pours it. */
  caution: string
}

/**
 * Standard potential of the quinhydrone electrode, mV: 699.4 at 25 degC, -0.734 per degC
 * (from memory of D. J. G. Ives and G. J. Janz, Reference Electrodes, 1961).
 */
const quinhydronePotential = (temperature: number) => 699.4 - 0.734 * (temperature - 25)

const quinhydrone = (buffer: string) => (temperature: number) =>
  quinhydronePotential(temperature) - nernstSlope(temperature) * phBufferValue(buffer, temperature)

const ENTRIES: (OrpStandard & { eh: (temperature: number) => number })[] = [
  {
    code: 'zobell',
    label: 'Ferro/ferricyanide (ZoBell)',
    low: 5,
    high: 40,
    uncertainty: 5,
    source: 'Nordstrom, Geochim. Cosmochim. Acta 41 (1977) 1835',
    caution: 'Holds cyanide complexes: keep acid away from it, and collect what is left.',
    eh: (t) => 430.28 - 2.5157 * (t - 25) - 0.0037979 * (t - 25) ** 2,
  },
  {
    code: 'light',
    label: 'Ferrous/ferric in acid (Light)',
    low: 20,
    high: 30,
    uncertainty: 10,
    source:
      'Light, Anal. Chem. 44 (1972) 1038; ASTM D1498: 675 mV at 25 °C, taken as the same a few degrees either way',
    caution: 'Strong sulfuric acid: goggles and gloves, and collect what is left.',
    eh: () => 675,
  },
  {
    code: 'quinhydrone-4',
    label: 'Quinhydrone in buffer 4.01',
    low: 15,
    high: 35,
    uncertainty: 10,
    source: 'Ives and Janz, Reference Electrodes (1961); ASTM D1498',
    caution: 'Quinhydrone irritates skin and eyes. Make it up fresh: it keeps for hours.',
    eh: quinhydrone('pH4.01'),
  },
  {
    code: 'quinhydrone-7',
    label: 'Quinhydrone in buffer 7.00',
    low: 15,
    high: 35,
    uncertainty: 10,
    source: 'Ives and Janz, Reference Electrodes (1961); ASTM D1498',
    caution: 'Quinhydrone irritates skin and eyes. Make it up fresh: it keeps for hours.',
    eh: quinhydrone('pH7.00'),
  },
]

export const ORP_STANDARDS: readonly OrpStandard[] = ENTRIES.map(({ eh: _, ...standard }) => standard)

/**
 * Takes in a standard of a site's own, in place of one with the same code.
 * @param eh mV against hydrogen, at a temperature, degC
 * @example takeOrpStandard({ ...orpStandard('zobell'), code: 'example' }, () => 475).code // 'example'
 */
export function takeOrpStandard(standard: OrpStandard, eh: (temperature: number) => number): OrpStandard {
  const at = ENTRIES.findIndex((s) => s.code === standard.code)
  ENTRIES.splice(at < 0 ? ENTRIES.length : at, at < 0 ? 0 : 1, { ...standard, eh })
  return standard
}

/**
 * The standard with this code. Throws RangeError for an unknown one.
 * @example orpStandard('zobell').uncertainty // 5
 */
export function orpStandard(code: OrpStandardCode): OrpStandard {
  return entry(code)
}

function entry(code: OrpStandardCode) {
  const found = ENTRIES.find((e) => e.code === code)
  if (!found) throw new RangeError(`There is no ORP standard "${code}".`)
  return found
}

/**
 * Redox potential of an ORP standard against the standard hydrogen electrode.
 * @param temperature degC, within the standard's own range
 * @returns Eh, mV
 * @throws OutOfRange, RangeError for an unknown code
 * @example orpStandardEh('zobell', 20) // 442.76
 */
export function orpStandardEh(code: OrpStandardCode, temperature: number): number {
  const standard = entry(code)
  requireWithin(`Temperature of ${standard.label}`, temperature, standard.low, standard.high, '°C')
  return standard.eh(temperature)
}

/**
 * What an ORP sensor with this reference electrode should show in a standard, mV.
 * @example orpStandardReading('zobell', 'agcl-3M', 25) // 221.28
 */
export function orpStandardReading(code: OrpStandardCode, reference: ReferenceCode, temperature: number): number {
  return fromEh(orpStandardEh(code, temperature), reference, temperature)
}
