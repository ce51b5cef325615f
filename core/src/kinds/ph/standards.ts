import { LABEL_TEMPERATURE, printedValue, reachOf } from '../../measurement/ownStandards.ts'
import type { Standard } from '../../measurement/standard.ts'
import type { OwnStandardTraits } from '../../procedures/procedure.ts'
import { quantity } from '../../quantities/sentence.ts'
import { PH_BUFFERS, type PhBuffer, phBufferValue, takePhBuffer } from '../../standards/phBuffers.ts'

/** High buffers take up carbon dioxide soonest (common practice, no source). */
const TAKES_UP_CARBON_DIOXIDE: readonly string[] = ['pH10.01', 'pH9.21']

function bottleOf({ code, family, label, nominal, uncertainty }: PhBuffer): Standard {
  const technical = family === 'technical'
  return {
    code,
    kind: 'ph',
    label: technical ? label : `${nominal.toFixed(3)} ${label}`,
    shortLabel: technical ? label : `${nominal.toFixed(3)} ${label}`,
    unit: 'pH',
    decimals: technical ? 2 : 3,
    nominal,
    uncertainty,
    relative: false,
    low: code === 'tartrate' ? 25 : 0,
    high: 50,
    caution: '',
    ...(TAKES_UP_CARBON_DIOXIDE.includes(code) ? { keeping: { days: 30, storage: 'Room, dark' } } : {}),
    takesLotTable: true,
    valueAt: (temperature, lotTable) => phBufferValue(code, temperature, lotTable),
    quantityOf: (value) => quantity(value, 'pH', 3),
  }
}

export const PH_STANDARDS: Standard[] = PH_BUFFERS.map(bottleOf)

export const OWN_BUFFERS: OwnStandardTraits = {
  low: 0,
  high: 14,
  usualUncertainty: 0.02,
  take({ code, label, table, uncertainty, caution }) {
    const valueAt = printedValue(label, table)
    const { low, high } = reachOf(table)
    const nominal = valueAt(Math.min(high, Math.max(low, LABEL_TEMPERATURE)))
    const buffer: PhBuffer = { code, label, nominal, family: 'technical', uncertainty, source: 'as its bottle says' }
    takePhBuffer(buffer, valueAt)
    return { ...bottleOf(buffer), low, high, caution }
  },
}
