import { milligramModel } from '../../measurement/milligramModel.ts'
import type { Kind } from '../../procedures/procedure.ts'
import { MILLIGRAM_SAMPLE, MILLIGRAM_SENSOR } from '../milligramSensor.ts'

declare module '../../measurement/sensorKind.ts' {
  interface SensorKinds {
    'nitrate-optical': true
  }
}

/** Nitrate by ultraviolet absorption across a gap: reads mg/L of nitrogen straight. */
export const OPTICAL_NITRATE: Kind = {
  ...MILLIGRAM_SENSOR,
  id: 'nitrate-optical',
  name: 'Optical nitrate',
  short: 'NO3',
  alsoCalled: ['nitrate (optical)', 'uv nitrate'],
  model: milligramModel('Nitrate-N', { highest: 500, usualDrift: { rateSd: 1 / 30, walk: 0.6 ** 2 / 30 } }),
  words: {
    sensor: 'sensor',
    immerse: 'The gap filled, no bubbles in it, shaded from light.',
    clean: {
      title: 'Clean the gap with distilled water and a soft cloth',
      hint: 'Nothing that scratches. Look through it against the light.',
    },
  },
  tripOrder: 6,
  rest: null,
  sample: {
    ...MILLIGRAM_SAMPLE,
    floor: 0.3,
    oldestHours: 24,
    usualUncertainty: 0.3,
  },
  unitSlip: () => 'nitrate',
}
