import { COMPARE } from '../../procedures/compare.ts'
import { ELECTRONICS } from '../../procedures/electronics.ts'
import { commissioning, RETIRE } from '../../procedures/lifeCycle.ts'
import type { Kind } from '../../procedures/procedure.ts'
import { PLAIN_HEALTH, pt1000 } from '../common.ts'
import { TEMPERATURE_MODEL } from './model.ts'
import { TEMPERATURE_TWO_THERMOMETERS } from './procedures.ts'

declare module '../../measurement/sensorKind.ts' {
  interface SensorKinds {
    temperature: true
  }
}

/** Temperature: compared with two thermometers in the same water. */
export const TEMPERATURE: Kind = {
  id: 'temperature',
  name: 'Temperature',
  short: 'T',
  alsoCalled: ['temp', 't', 'thermometer'],
  model: TEMPERATURE_MODEL,
  words: {
    sensor: 'sensor',
    immerse: 'Sensor and both thermometers side by side, as deep as they work, in stirred water.',
    clean: { title: 'Wipe the sensor clean', hint: 'Scale on a sensor makes it slow.' },
  },
  settingText: () => '',
  standards: [],
  commonStandards: [],
  procedures: [TEMPERATURE_TWO_THERMOMETERS, COMPARE, ELECTRONICS, RETIRE, commissioning(TEMPERATURE_TWO_THERMOMETERS)],
  quickCheck: null,
  verb: 'Calibrate',
  // First: every other kind is compensated by it.
  tripOrder: 1,
  rest: null,
  flatWaitSeconds: 120,
  signalDisplay: null,
  signalLeads: false,
  readsUncalibrated: true,
  temperatureInput: false,
  fragile: false,
  rated: 'temperature',
  sample: null,
  simulator: { rows: () => [1, 25, 35].map(pt1000), units: { '°C': pt1000 }, tolerance: () => 0.3, zeroAt: 0 },
  health: {
    ...PLAIN_HEALTH,
    thermometer: false,
    causes: { nothing: 12, 'temperature-wrong': 10, 'device-reset': 3 },
  },
  unitSlip: () => null,
  leftOverSpread: () => 0.01,
  standardNote: '',
  expectsDisplay: false,
  slopeTitle: null,
}
