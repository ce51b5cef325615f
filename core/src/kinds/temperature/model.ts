import { linearModel, noStandard } from '../../measurement/linearModel.ts'
import { requireWithin } from '../../quantities/outOfRange.ts'
import { TEMPERATURE } from './presets.ts'

export const TEMPERATURE_MODEL = linearModel({
  quantity: 'Temperature',
  unit: '°C',
  decimals: 1,
  parameters: [{ key: 'offset', label: 'Offset', unit: '°C', decimals: 2, scale: 1, low: -20, high: 20 }],
  preset: () => TEMPERATURE,
  standardValue: noStandard,
  wrongCup: { miss: Number.POSITIVE_INFINITY, near: 0 },
  moved: 0.5,
  usualDrift: { rateSd: 0.05 / 30, walk: 0.03 ** 2 / 30 },
  range: { low: -10, high: 110 },
  check: (value) => requireWithin('Temperature', value, -50, 250, '°C'),
})
