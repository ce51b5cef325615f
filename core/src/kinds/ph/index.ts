import { calibratePhOnePoint } from '../../calibration/phMultiPoint.ts'
import { phToMillivolts } from '../../electrode/phElectrode.ts'
import { COMPARE } from '../../procedures/compare.ts'
import { ELECTRONICS } from '../../procedures/electronics.ts'
import { commissioning, RETIRE } from '../../procedures/lifeCycle.ts'
import type { Kind } from '../../procedures/procedure.ts'
import { SAMPLE } from '../../procedures/sample.ts'
import { selfCalibrating } from '../../procedures/selfCalibration.ts'
import { celsius, difference, say } from '../../quantities/sentence.ts'
import { MILLIVOLT_UNITS, millivoltRow, PLAIN_HEALTH } from '../common.ts'
import { highPurityPh } from '../highPurity.ts'
import { PH_MODEL, phElectrodeOf } from './model.ts'
import { PH_CHECK, PH_HEALTH, PH_THREE_POINT, PH_TWO_POINT } from './procedures.ts'
import { OWN_BUFFERS, PH_STANDARDS } from './standards.ts'

declare module '../../measurement/sensorKind.ts' {
  interface SensorKinds {
    ph: true
  }
}

/** A simulator is set to the tenth of a millivolt. */
const SIMULATED = [4, 7, 10].map((ph) => Math.round(10 * phToMillivolts(ph, 25, { zero: 0, slopeEfficiency: 1 })) / 10)

/** pH: a glass electrode and a reference in one body. */
export const PH: Kind = {
  id: 'ph',
  name: 'pH',
  short: 'pH',
  alsoCalled: [],
  model: PH_MODEL,
  words: {
    sensor: 'probe',
    immerse: 'Tip and junction covered. Tilt it and tap once, so that no bubble sits on the glass.',
    clean: {
      title: 'Clean the glass, then rinse it',
      hint: 'A few drops of cleaner in water; a soft brush only for heavy deposits. Rinse at once. Blot, never wipe.',
    },
  },
  settingText: () => '',
  standards: PH_STANDARDS,
  ownStandard: OWN_BUFFERS,
  commonStandards: ['pH4.01', 'pH7.00', 'pH10.01'],
  procedures: [
    PH_CHECK,
    PH_TWO_POINT,
    selfCalibrating(PH_TWO_POINT),
    PH_THREE_POINT,
    selfCalibrating(PH_THREE_POINT),
    PH_HEALTH,
    SAMPLE,
    COMPARE,
    ELECTRONICS,
    RETIRE,
    commissioning(PH_TWO_POINT),
    commissioning(selfCalibrating(PH_TWO_POINT, { fresh: true })),
  ],
  quickCheck: PH_CHECK.id,
  verb: 'Calibrate',
  tripOrder: 3,
  rest: {
    minutes: 60,
    title: 'Soak it in storage solution',
    hint: 'At least an hour, better a day. KCl solution, never pure water.',
  },
  flatWaitSeconds: 120,
  signalDisplay: { low: -1000, high: 1000, unit: 'mV', decimals: 1 },
  signalLeads: true,
  settledWithin: difference(0.03, 'pH', 2),
  readsUncalibrated: true,
  temperatureInput: true,
  fragile: true,
  rated: 'ph',
  sample: {
    floor: -1,
    oldestHours: 2,
    largestCorrection: 0.2,
    scale: { unit: 'pH', decimals: 2 },
    usualUncertainty: 0.05,
    amount: false,
    slipBeyond: 1,
    temperatureMatters: true,
    hazards: [],
    corrected: ({ activeCalibration }, reading, right) => {
      const { slopeEfficiency } = phElectrodeOf(activeCalibration)
      const zero = calibratePhOnePoint(
        { millivolts: reading.signal, uncertainty: reading.signalUncertainty, temperature: reading.temperature },
        { ph: right, uncertainty: 0.05 },
        { slopeEfficiency, uncertainty: 0.02 },
      )
      return { slopeEfficiency, zero: zero.value }
    },
  },
  simulator: {
    rows: () => SIMULATED.map((mv) => millivoltRow(mv, true)),
    units: MILLIVOLT_UNITS,
    tolerance: () => 0.05,
    zeroAt: 7,
  },
  health: {
    ...PLAIN_HEALTH,
    referenceElectrode: true,
    glass: true,
    slopeKey: 'slopeEfficiency',
    zeroKey: 'zero',
    // Common practice, no source.
    leastSlope: 85,
    greatestZero: 60,
    // Reference troubles are 8 of 10 with pH sensors (common practice, no source); kept milder here, since visits that
    // go well are diagnosed too.
    causes: {
      nothing: 12,
      'electrolyte-used-up': 10,
      'electrolyte-contaminated': 8,
      'junction-blocked': 8,
      'glass-aged': 6,
      'glass-coated': 6,
      'glass-cracked': 3,
      'dried-out': 4,
      bubble: 3,
      'bad-standard': 5,
      'temperature-wrong': 4,
      'connector-wet': 4,
      'ground-loop': 4,
      'device-reset': 3,
    },
  },
  unitSlip: () => null,
  leftOverSpread: () => 0.05,
  inPlace: highPurityPh,
  standardNote: say`the label holds at ${celsius(25, 0)}`,
  expectsDisplay: false,
  slopeTitle: 'One pH is, for a perfect electrode',
}
