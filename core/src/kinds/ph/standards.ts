import type { Standard } from '../../measurement/standard.ts'
import { PH_BUFFERS, phBufferValue } from '../../standards/phBuffers.ts'

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
    takesLotTable: true,
    valueAt: (temperature, lotTable) => phBufferValue(code, temperature, lotTable),
  }
})
