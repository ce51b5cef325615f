import { milligramModel } from '../../measurement/milligramModel.ts'
import { COMPARE } from '../../procedures/compare.ts'
import { commissioning, RETIRE } from '../../procedures/lifeCycle.ts'
import type { Kind } from '../../procedures/procedure.ts'
import { KNOWN_STANDARD, SAMPLE } from '../../procedures/sample.ts'
import { byGain, PLAIN_HEALTH } from '../common.ts'

declare module '../../measurement/sensorKind.ts' {
  interface SensorKinds {
    'nitrate-optical': true
  }
}

/** Nitrate by ultraviolet absorption across a gap: reads mg/L of nitrogen straight. */
export const OPTICAL_NITRATE: Kind = {
  id: 'nitrate-optical',
  name: 'Optical nitrate',
  model: milligramModel('Nitrate-N', { highest: 500, usualDrift: { rateSd: 1 / 30, walk: 0.6 ** 2 / 30 } }),
  words: {
    sensor: 'sensor',
    immerse: 'The gap filled, no bubbles in it, shaded from light.',
    clean: {
      title: 'Clean the gap with distilled water and a soft cloth',
      hint: 'Nothing that scratches. Look through it against the light.',
    },
  },
  settingText: () => '',
  standards: [],
  commonStandards: [],
  procedures: [KNOWN_STANDARD, SAMPLE, COMPARE, RETIRE, commissioning(KNOWN_STANDARD)],
  quickCheck: null,
  verb: 'Sample',
  tripOrder: 6,
  rest: null,
  flatWaitSeconds: 120,
  signalDisplay: null,
  signalLeads: false,
  readsUncalibrated: true,
  temperatureInput: true,
  fragile: false,
  rated: null,
  sample: {
    floor: 0.3,
    oldestHours: 24,
    largestCorrection: 0.6,
    scale: { unit: 'mg/L', decimals: 2 },
    usualUncertainty: 0.3,
    amount: true,
    hazards: ['reagent'],
    corrected: ({ activeCalibration }, _reading, right, frozen) => byGain(activeCalibration, right, frozen),
  },
  simulator: null,
  health: { ...PLAIN_HEALTH, causes: { nothing: 12, 'bad-standard': 4, 'device-reset': 3 } },
  unitSlip: () => 'nitrate',
  leftOverSpread: () => 0.01,
  standardNote: '',
  expectsDisplay: false,
  slopeTitle: null,
}
