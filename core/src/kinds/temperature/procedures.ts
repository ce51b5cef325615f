import { findUnitSlip } from '../../calibration/slips.ts'
import { calibrateTemperature } from '../../calibration/temperatureCalibration.ts'
import {
  calibrationResult,
  findingsOfInstruments,
  findingsOfReadings,
  observeFrom,
  parameterFigure,
} from '../../procedures/assess.ts'
import type { Assessment, Procedure, VisitState } from '../../procedures/procedure.ts'
import type { FieldSpec } from '../../procedures/step.ts'
import { adjusts, apply, result } from '../../procedures/steps.ts'
import { displayed } from '../../procedures/words.ts'
import { celsius, degreesApart, say } from '../../quantities/sentence.ts'

/** A good hand thermometer, half-width 95 %, degC (common practice, no source). */
const USUAL = 0.2

const thermometer = ({ setup }: VisitState, n: 1 | 2): FieldSpec[] => [
  {
    key: `reading${n}`,
    label: 'Reads',
    kind: 'number',
    unit: '°C',
    low: -10,
    high: 110,
    decimals: 2,
    usualTemperature: setup.processTemperature,
    row: n === 1 ? 'First thermometer' : 'Second thermometer',
  },
  {
    key: `uncertainty${n}`,
    label: 'Good to ±',
    kind: 'number',
    unit: '°C',
    low: 0.01,
    high: 5,
    decimals: 2,
    usual: USUAL,
    row: n === 1 ? 'First thermometer' : 'Second thermometer',
  },
  {
    key: `instrument${n}`,
    label: 'Which one',
    kind: 'instrument',
    optional: true,
    instruments: ['thermometer'],
    statesUncertainty: { key: `uncertainty${n}`, unit: '°C' },
    row: n === 1 ? 'First thermometer' : 'Second thermometer',
  },
]

function judge(e: VisitState): Assessment | null {
  const reading = e.readings.moment
  const form = e.forms.thermometers?.values
  if (!reading || !form) return null
  const of = (n: 1 | 2) => ({ reading: Number(form[`reading${n}`]), uncertainty: Number(form[`uncertainty${n}`]) })
  const [first, second] = [of(1), of(2)]
  // The offset is of the bare sensor; what the device adds already is in the calibration in force.
  const { offset, findings } = calibrateTemperature(
    { reading: reading.signal, uncertainty: Math.max(reading.signalUncertainty, 0.02) },
    first,
    second,
  )
  const slip = findUnitSlip(displayed(e, reading), (first.reading + second.reading) / 2, 'temperature')
  const stopped = slip !== null || findings.some((f) => f.severity === 'stop')
  return calibrationResult(e, {
    found: stopped ? null : { characteristic: { offset: offset.value }, uncertainty: { offset: offset.uncertainty } },
    findings: [
      ...(slip ? [slip] : []),
      ...findings,
      ...findingsOfReadings(e, ['moment']),
      ...findingsOfInstruments(e, 'thermometers'),
    ],
    figures: [
      parameterFigure(e, 'offset', offset),
      {
        label: 'Mean of the two',
        value: say`${celsius((first.reading + second.reading) / 2, 2)}`,
        note: say`${degreesApart(Math.abs(first.reading - second.reading), 2)} apart`,
      },
    ],
    uncertainty: offset.uncertainty,
  })
}

export const TEMPERATURE_TWO_THERMOMETERS: Procedure = {
  id: 'temperature-two-thermometers',
  name: 'Two thermometers',
  summary: 'Offset against the mean of two independent thermometers, which must agree.',
  needs: 'Two thermometers',
  pours: {},
  roles: [],
  version: 1,
  handsOnMinutes: 7,
  steps: (e) => [
    {
      key: 'beside',
      kind: 'confirm',
      short: 'Thermometers beside it',
      title: 'Hold both thermometers beside the sensor',
      hint: 'In moving water, as deep as they are made for, for three minutes. Two of one maker are not independent.',
      main: 'Confirm placement',
      ticks: ['Both in the same water as the sensor', 'Water moves'],
      usualSkips: [],
      after: [],
      hazards: ['mains'],
    },
    {
      key: 'moment',
      kind: 'capture',
      medium: 'process',
      short: 'Sensor reads',
      title: 'Read the sensor',
      hint: 'It counts once it stands still.',
      main: 'Capture reading',
      usualSkips: [],
      after: ['beside'],
    },
    {
      key: 'thermometers',
      kind: 'form',
      short: 'Both thermometers',
      title: 'What do the two thermometers read?',
      hint: 'Read them now, without lifting them out.',
      main: 'Save readings',
      usualSkips: [],
      after: ['moment'],
      fields: [...thermometer(e, 1), ...thermometer(e, 2)],
    },
    { ...result(['moment', 'thermometers'], 'What the thermometers say', 'moment'), cleanFrom: 'beside' },
    ...(adjusts(e) === false ? [] : [apply(e)]),
  ],
  judge: (e) => judge(e),
  observe: (e) => observeFrom(e, judge(e)),
}
