import { milligramModel } from '../../measurement/milligramModel.ts'
import { COMPARE } from '../../procedures/compare.ts'
import { commissioning, RETIRE } from '../../procedures/lifeCycle.ts'
import type { Kind } from '../../procedures/procedure.ts'
import { KNOWN_STANDARD, SAMPLE } from '../../procedures/sample.ts'
import { byGain, PLAIN_HEALTH } from '../common.ts'

declare module '../../measurement/sensorKind.ts' {
  interface SensorKinds {
    chlorine: true
  }
}

/** Free chlorine: a membrane sensor that reads mg/L straight and is set by samples. */
export const CHLORINE: Kind = {
  id: 'chlorine',
  name: 'Free chlorine',
  model: milligramModel('Free chlorine', { highest: 50, usualDrift: { rateSd: 0.06 / 30, walk: 0.03 ** 2 / 30 } }),
  words: {
    sensor: 'sensor',
    immerse: 'Flow on and steady, no bubbles on the membrane.',
    clean: {
      title: 'Rinse the membrane cap softly',
      hint: 'Water only. Do not touch the membrane; a slack or stained one is replaced.',
    },
  },
  settingText: () => '',
  standards: [],
  commonStandards: [],
  procedures: [KNOWN_STANDARD, SAMPLE, COMPARE, RETIRE, commissioning(KNOWN_STANDARD)],
  quickCheck: null,
  verb: 'Sample',
  tripOrder: 5,
  rest: {
    minutes: 120,
    title: 'Let it run in the process',
    hint: 'Two hours with flow and voltage on, better a night, until the reading stands.',
  },
  flatWaitSeconds: 120,
  signalDisplay: null,
  signalLeads: false,
  readsUncalibrated: true,
  temperatureInput: true,
  fragile: false,
  rated: null,
  sample: {
    floor: 0.1,
    oldestHours: 0.5,
    largestCorrection: 0.6,
    scale: { unit: 'mg/L', decimals: 2 },
    usualUncertainty: 0.05,
    amount: true,
    hazards: ['reagent'],
    corrected: ({ activeCalibration }, _reading, right, frozen) => byGain(activeCalibration, right, frozen),
  },
  simulator: null,
  health: { ...PLAIN_HEALTH, causes: { nothing: 12, 'bad-standard': 4, 'device-reset': 3 } },
  unitSlip: () => null,
  leftOverSpread: () => 0.01,
  standardNote: '',
  expectsDisplay: false,
  slopeTitle: null,
}
