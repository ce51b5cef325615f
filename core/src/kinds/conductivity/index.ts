import type { Compensation } from '../../conductivity/compensation.ts'
import { COMPARE } from '../../procedures/compare.ts'
import { ELECTRONICS } from '../../procedures/electronics.ts'
import { commissioning, RETIRE } from '../../procedures/lifeCycle.ts'
import type { Kind, SimulatorRow } from '../../procedures/procedure.ts'
import { SAMPLE } from '../../procedures/sample.ts'
import { selfCalibrating } from '../../procedures/selfCalibration.ts'
import { celsius, exactly, say } from '../../quantities/sentence.ts'
import { PLAIN_HEALTH, TWO_PERCENT } from '../common.ts'
import { highPurityConductivity } from '../highPurity.ts'
import { CONDUCTIVITY_MODEL } from './model.ts'
import { CONDUCTIVITY_DRY_ZERO, CONDUCTIVITY_ONE_POINT, CONDUCTIVITY_TWO_POINT, drying } from './procedures.ts'
import { CONDUCTIVITY_SETTING } from './setting.ts'
import { settingFinding } from './settingFinding.ts'
import { CONDUCTIVITY_BOTTLES, OWN_CONDUCTIVITY_STANDARDS } from './standards.ts'
import { CONDUCTIVITY_TEST_ONLY } from './testOnly.ts'

declare module '../../measurement/sensorKind.ts' {
  interface SensorKinds {
    conductivity: true
  }
}

const LAW_WORDS: Record<Exclude<Compensation['law'], 'linear'>, string> = {
  none: 'not compensated',
  seawater: 'seawater compensation',
  'natural-water': 'natural water compensation',
  'high-purity': 'high-purity compensation',
}

/** A short stands for 0 MΩ·cm, and no display tells it from this, µS/cm. */
const SHORT = 1e6

const ohmic = (megohm: number, temperature = 25): SimulatorRow => ({
  label: say`${exactly(megohm, 'MΩ·cm')}, ${celsius(temperature, 0)}`,
  signal: megohm > 1 / SHORT ? 1 / megohm : SHORT,
  temperature,
})
const siemens = (conductivity: number, temperature = 25): SimulatorRow => ({
  label: say`${exactly(conductivity, 'µS/cm')}, ${celsius(temperature, 0)}`,
  signal: conductivity,
  temperature,
})
/** Only amounts above nothing, or nothing itself where it has a meaning. */
const from =
  (least: number, row: (value: number, temperature: number) => SimulatorRow) =>
  (value: number, temperature: number): SimulatorRow | null =>
    value >= least && value < 1e7 ? row(value, temperature) : null

/** Conductivity, and what devices make of it: salinity, specific gravity, resistivity, ppm. */
export const CONDUCTIVITY: Kind = {
  id: 'conductivity',
  name: 'Conductivity',
  short: 'EC',
  alsoCalled: ['ec', 'cond', 'salinity', 'sg', 'specific gravity', 'resistivity', 'tds', 'conductance'],
  model: CONDUCTIVITY_MODEL,
  words: {
    sensor: 'cell',
    immerse: 'Fully immersed, vent holes up and covered, bubbles tapped off, clear of the walls.',
    clean: {
      title: 'Rub the face hard with the cleaner, then rinse',
      hint: 'Rinse under running water. Do not touch the face with a finger afterwards.',
    },
  },
  settingText: ({ compensation: c = { law: 'none' }, display = 'µS/cm', factoryCell }) => {
    const law = c.law === 'linear' ? `${c.alpha} % per °C to ${c.reference} °C` : LAW_WORDS[c.law]
    return `shows ${display}, ${law}${factoryCell ? ', factory-calibrated cell' : ''}`
  },
  setting: CONDUCTIVITY_SETTING,
  standards: CONDUCTIVITY_BOTTLES,
  ownStandard: OWN_CONDUCTIVITY_STANDARDS,
  commonStandards: ['kcl-84', 'kcl-1413', 'kcl-2.77', 'kcl-12.88', 'seawater-53'],
  procedures: [
    CONDUCTIVITY_TEST_ONLY,
    CONDUCTIVITY_ONE_POINT,
    selfCalibrating(CONDUCTIVITY_ONE_POINT),
    CONDUCTIVITY_DRY_ZERO,
    selfCalibrating(CONDUCTIVITY_DRY_ZERO, { zero: drying, judgedBy: CONDUCTIVITY_ONE_POINT }),
    CONDUCTIVITY_TWO_POINT,
    SAMPLE,
    COMPARE,
    ELECTRONICS,
    RETIRE,
    commissioning(CONDUCTIVITY_ONE_POINT),
    commissioning(selfCalibrating(CONDUCTIVITY_ONE_POINT, { fresh: true })),
    { ...commissioning(CONDUCTIVITY_TEST_ONLY, 'found-standard'), suits: ({ device }) => device.factoryCell === true },
  ],
  quickCheck: CONDUCTIVITY_TEST_ONLY.id,
  verb: 'Calibrate',
  tripOrder: 2,
  rest: null,
  flatWaitSeconds: 60,
  signalDisplay: null,
  signalLeads: false,
  readsUncalibrated: true,
  temperatureInput: true,
  fragile: false,
  rated: 'conductivity',
  sample: {
    floor: 0.05,
    oldestHours: 24,
    largestCorrection: 0.4,
    scale: null,
    usualUncertainty: 1,
    amount: true,
    hazards: [],
    corrected: ({ activeCalibration: c }, _reading, right, frozen) => ({
      factor: ((c.factor ?? 1) * right) / frozen,
      zero: c.zero ?? 0,
    }),
  },
  simulator: {
    // Inputs of a purified-water unit are common practice, no source.
    rows: ({ device, processValue }) =>
      device.display === 'MΩ·cm'
        ? [1, 10, 18].map((megohm) => ohmic(megohm))
        : (processValue > 2000 ? [1413, 12_880, 53_000] : [5, 100, 150, 1413]).map((value) => siemens(value)),
    units: {
      MΩ·cm: from(0, ohmic),
      'µS/cm': from(1e-3, siemens),
      'mS/cm': from(1e-6, (value, temperature) => siemens(1000 * value, temperature)),
    },
    tolerance: TWO_PERCENT,
    zeroAt: 0,
  },
  health: {
    ...PLAIN_HEALTH,
    cell: true,
    causes: {
      nothing: 12,
      bubble: 4,
      'bad-standard': 5,
      'temperature-wrong': 6,
      'ground-loop': 3,
      'cell-fouled': 10,
      'cell-not-dry': 5,
      'device-reset': 4,
    },
  },
  unitSlip: () => 'conductivity',
  leftOverSpread: (right) => 0.01 * Math.abs(right),
  settingFinding,
  inPlace: highPurityConductivity,
  standardNote: say`the label holds at ${celsius(25, 0)}`,
  expectsDisplay: true,
  slopeTitle: null,
}
