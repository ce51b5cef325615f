import { fromEh } from '../../electrode/referenceElectrodes.ts'
import { GAIN, linearModel } from '../../measurement/linearModel.ts'
import { requireWithin } from '../../quantities/outOfRange.ts'
import { type OrpStandardCode, orpStandardEh, orpStandardReading } from '../../standards/orpStandards.ts'
import { ORP_OFFSET_RULE } from './limits.ts'
import { ORP_MILLIVOLTS } from './presets.ts'

export const ORP_MODEL = linearModel({
  quantity: 'ORP',
  unit: 'mV',
  decimals: 0,
  parameters: [
    { ...GAIN, label: 'Gain', low: 50, high: 150 },
    {
      key: 'offset',
      label: 'Offset',
      unit: 'mV',
      decimals: 1,
      scale: 1,
      low: -300,
      high: 300,
      sound: [-ORP_OFFSET_RULE, ORP_OFFSET_RULE],
      limits: [
        { value: 2 * ORP_OFFSET_RULE, word: 'gone' },
        { value: -2 * ORP_OFFSET_RULE, word: 'gone' },
      ],
    },
  ],
  preset: () => ORP_MILLIVOLTS,
  standardValue: (code, temperature, device) =>
    device.reference
      ? orpStandardReading(code as OrpStandardCode, device.reference, temperature)
      : fromEh(orpStandardEh(code as OrpStandardCode, temperature), 'agcl-3M', temperature),
  wrongCup: { miss: 100, near: 60 },
  moved: 20,
  usualDrift: { rateSd: 8 / 30, walk: 4 ** 2 / 30 },
  range: { low: -2000, high: 2000 },
  check: (value) => requireWithin('ORP', value, -2000, 2000, 'mV'),
})
