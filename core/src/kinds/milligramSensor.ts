import { COMPARE } from '../procedures/compare.ts'
import { commissioning, RETIRE } from '../procedures/lifeCycle.ts'
import type { Kind } from '../procedures/procedure.ts'
import { KNOWN_STANDARD, SAMPLE } from '../procedures/sample.ts'
import { byGain, PLAIN_HEALTH } from './common.ts'

/** What sensors have in common that read mg/L straight, and are set by samples. */
export const MILLIGRAM_SENSOR = {
  settingText: () => '',
  standards: [],
  commonStandards: [],
  procedures: [KNOWN_STANDARD, SAMPLE, COMPARE, RETIRE, commissioning(KNOWN_STANDARD)],
  quickCheck: null,
  verb: 'Sample',
  flatWaitSeconds: 120,
  signalDisplay: null,
  signalLeads: false,
  readsUncalibrated: true,
  temperatureInput: true,
  fragile: false,
  rated: null,
  simulator: null,
  health: { ...PLAIN_HEALTH, causes: { nothing: 12, 'bad-standard': 4, 'device-reset': 3 } },
  leftOverSpread: () => 0.01,
  standardNote: '',
  expectsDisplay: false,
  slopeTitle: null,
} as const satisfies Partial<Kind>

export const MILLIGRAM_SAMPLE = {
  largestCorrection: 0.6,
  scale: { unit: 'mg/L', decimals: 2 },
  amount: true,
  hazards: ['reagent'],
  corrected: ({ activeCalibration }, _reading, right, frozen) => byGain(activeCalibration, right, frozen),
} as const satisfies Partial<Kind['sample']>
