import type { Standard } from '../../measurement/standard.ts'
import { quantity } from '../../quantities/sentence.ts'
import { PH_BUFFERS, phBufferValue } from '../../standards/phBuffers.ts'

/** High buffers take up carbon dioxide soonest (common practice, no source). */
const TAKES_UP_CARBON_DIOXIDE: readonly string[] = ['pH10.01', 'pH9.21']

export const PH_STANDARDS: readonly Standard[] = PH_BUFFERS.map(({ code, family, label, nominal, uncertainty }) => {
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
})
