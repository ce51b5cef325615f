import { ionZeroShift } from '../../calibration/ionCalibration.ts'
import { IONS } from '../../chemistry/ions.ts'
import { COMPARE } from '../../procedures/compare.ts'
import { ELECTRONICS } from '../../procedures/electronics.ts'
import { commissioning, RETIRE } from '../../procedures/lifeCycle.ts'
import type { Kind } from '../../procedures/procedure.ts'
import { SAMPLE } from '../../procedures/sample.ts'
import { selfCalibrating } from '../../procedures/selfCalibration.ts'
import { celsius, say } from '../../quantities/sentence.ts'
import { MILLIVOLT_UNITS, millivoltRow, PLAIN_HEALTH, TWO_PERCENT } from '../common.ts'
import { ION_MODEL, ionElectrodeAt } from './model.ts'
import { ION_FOUR_POINT, ION_THREE_POINT, ION_TWO_POINT, pairFindings } from './procedures.ts'
import { ION_SETTING } from './setting.ts'
import { ION_BOTTLES, OWN_ION_STANDARDS } from './standards.ts'

declare module '../../measurement/sensorKind.ts' {
  interface SensorKinds {
    ion: true
  }
}

/** One ion: a selective membrane tip, and a reference electrode that it shares with its body. */
export const ION: Kind = {
  id: 'ion',
  name: 'Ions',
  short: 'ISE',
  alsoCalled: ['ion', 'ise', 'chloride', 'nitrate', 'ammonium', 'potassium', 'sodium', 'calcium', 'fluoride'],
  model: ION_MODEL,
  words: {
    sensor: 'tip',
    immerse: 'Membrane and junction covered; turn it once, so that no bubble sits on the membrane.',
    clean: {
      title: 'Rinse the tip and the junction',
      hint: 'Water only, no cleaner on the membrane. Blot it, never wipe.',
    },
  },
  settingText: ({ ion = 'chloride', expects = 'activity' }) =>
    `${IONS[ion].label.toLowerCase()}, computes in ${expects}`,
  setting: ION_SETTING,
  standards: ION_BOTTLES,
  ownStandard: OWN_ION_STANDARDS,
  commonStandards: [],
  procedures: [
    ION_TWO_POINT,
    selfCalibrating(ION_TWO_POINT),
    ION_THREE_POINT,
    ION_FOUR_POINT,
    SAMPLE,
    COMPARE,
    ELECTRONICS,
    RETIRE,
    commissioning(ION_TWO_POINT),
    commissioning(selfCalibrating(ION_TWO_POINT, { fresh: true })),
  ],
  quickCheck: null,
  verb: 'Calibrate',
  // Last: computed from the others on its body.
  tripOrder: 7,
  rest: {
    minutes: 24 * 60,
    title: 'Hydrate the tip in its low standard',
    hint: 'A day. A dry tip drifts for hours and shows a small gap.',
  },
  flatWaitSeconds: 300,
  signalDisplay: { low: -1000, high: 1000, unit: 'mV', decimals: 1 },
  signalLeads: true,
  readsUncalibrated: false,
  temperatureInput: true,
  fragile: false,
  rated: null,
  sample: {
    floor: 0.1,
    oldestHours: 24,
    largestCorrection: 0.6,
    scale: { unit: 'mg/L', decimals: 1 },
    usualUncertainty: 2,
    amount: true,
    hazards: [],
    corrected: ({ activeCalibration: c, device }, { temperature }, right, frozen) => {
      const shift = ionZeroShift(right, frozen, ionElectrodeAt(c, temperature, device), temperature)
      return {
        ...c,
        zero: (c.zero ?? 0) + shift,
        ...(c.zero2 === undefined ? {} : { zero2: c.zero2 + shift }),
      }
    },
  },
  simulator: {
    rows: () => [100, 150, 200].map((mv) => millivoltRow(mv, true)),
    units: MILLIVOLT_UNITS,
    tolerance: TWO_PERCENT,
    zeroAt: 0,
  },
  health: {
    ...PLAIN_HEALTH,
    referenceElectrode: true,
    slopeKey: 'slopeEfficiency',
    zeroKey: 'zero',
    // Common practice, no source.
    leastSlope: 80,
    causes: {
      nothing: 12,
      'electrolyte-used-up': 6,
      'electrolyte-contaminated': 5,
      'junction-blocked': 4,
      'dried-out': 3,
      bubble: 3,
      'bad-standard': 5,
      'temperature-wrong': 3,
      'connector-wet': 3,
      'ground-loop': 3,
      'ion-tip-spent': 8,
      'interfering-ion': 5,
      'device-reset': 3,
    },
  },
  unitSlip: ({ ion }) => (ion === 'nitrate' || ion === 'ammonium' ? ion : null),
  leftOverSpread: (right) => 0.01 * Math.abs(right),
  earlyFindings: pairFindings,
  standardNote: say`the label holds at ${celsius(25, 0)}`,
  expectsDisplay: false,
  slopeTitle: 'A tenfold is, for a perfect tip',
}
