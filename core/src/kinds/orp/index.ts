import { REFERENCE_ELECTRODES } from '../../electrode/referenceElectrodes.ts'
import { COMPARE } from '../../procedures/compare.ts'
import { ELECTRONICS } from '../../procedures/electronics.ts'
import { commissioning, RETIRE } from '../../procedures/lifeCycle.ts'
import type { Kind } from '../../procedures/procedure.ts'
import { selfCalibrating } from '../../procedures/selfCalibration.ts'
import { MILLIVOLT_UNITS, millivoltRow, PLAIN_HEALTH } from '../common.ts'
import { ORP_MODEL } from './model.ts'
import { ORP_CHECK, ORP_OFFSET, ORP_TWO_POINT, ORP_ZERO_PLUG } from './procedures.ts'
import { ORP_SETTING } from './setting.ts'
import { ORP_BOTTLES, OWN_ORP_STANDARDS } from './standards.ts'

declare module '../../measurement/sensorKind.ts' {
  interface SensorKinds {
    orp: true
  }
}

/** Redox potential: a metal and a reference electrode in one body. */
export const ORP: Kind = {
  id: 'orp',
  name: 'ORP',
  short: 'ORP',
  alsoCalled: ['redox', 'mv', 'eh'],
  model: ORP_MODEL,
  words: {
    sensor: 'probe',
    immerse: 'Metal and junction covered. Tap once, so that no bubble sits on the metal.',
    clean: {
      title: 'Clean the metal and the junction, then rinse',
      hint: 'A few drops of cleaner and a soft brush; polish dull metal gently. Rinse at once and well.',
    },
  },
  settingText: ({ reference }) =>
    REFERENCE_ELECTRODES.find((r) => r.code === reference)?.label ?? 'reference electrode not noted',
  setting: ORP_SETTING,
  standards: ORP_BOTTLES,
  ownStandard: OWN_ORP_STANDARDS,
  commonStandards: ORP_BOTTLES.map((s) => s.code),
  procedures: [
    ORP_CHECK,
    ORP_OFFSET,
    selfCalibrating(ORP_OFFSET),
    ORP_ZERO_PLUG,
    ORP_TWO_POINT,
    COMPARE,
    ELECTRONICS,
    RETIRE,
    commissioning(ORP_OFFSET),
    commissioning(selfCalibrating(ORP_OFFSET, { fresh: true })),
  ],
  quickCheck: ORP_CHECK.id,
  verb: 'Calibrate',
  tripOrder: 4,
  rest: { minutes: 60, title: 'Soak it in storage solution', hint: 'At least an hour, better a day.' },
  flatWaitSeconds: 120,
  signalDisplay: { low: -1000, high: 1000, unit: 'mV', decimals: 1 },
  signalLeads: false,
  readsUncalibrated: true,
  temperatureInput: true,
  fragile: false,
  rated: null,
  sample: null,
  simulator: {
    rows: () => [-500, 0, 250, 700].map((mv) => millivoltRow(mv)),
    units: MILLIVOLT_UNITS,
    tolerance: () => 5,
    zeroAt: 0,
  },
  health: {
    ...PLAIN_HEALTH,
    referenceElectrode: true,
    slopeKey: 'gain',
    zeroKey: 'offset',
    // Its zero is what is added to the reading.
    zeroWithReference: 1,
    // Its standards are sure to 5 mV, and platinum remembers (common practice, no source).
    zeroScatter: 2,
    causes: {
      nothing: 12,
      'electrolyte-used-up': 10,
      'electrolyte-contaminated': 8,
      'junction-blocked': 7,
      bubble: 3,
      'bad-standard': 5,
      'connector-wet': 4,
      'ground-loop': 4,
      'device-reset': 3,
    },
  },
  unitSlip: () => null,
  leftOverSpread: () => 6,
  standardNote: 'against the reference in this sensor',
  expectsDisplay: false,
  slopeTitle: null,
}
