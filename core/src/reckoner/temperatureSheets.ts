import { requireWithin } from '../quantities/outOfRange.ts'
import { platinumResistance, platinumTemperature, platinumTolerance } from '../temperature/platinum.ts'
import { fromFahrenheit, toFahrenheit } from '../temperature/scales.ts'
import { betaThermistor, thermistorResistance, thermistorTemperature } from '../temperature/thermistor.ts'
import { type Given, type Sheet, show, trace } from './sheet.ts'

const PLATINUM: Sheet = {
  id: 'temperature',
  group: 'Temperature',
  title: 'Degrees and platinum',
  question: 'Degrees in the other scale, and what a decade box has to stand for.',
  given: [],
  linked: [
    {
      id: 'celsius',
      label: 'Celsius',
      unit: '°C',
      decimals: 2,
      toState: (value) => requireWithin('Temperature', value, -200, 850, '°C'),
      fromState: (state) => state,
    },
    {
      id: 'fahrenheit',
      label: 'Fahrenheit',
      unit: '°F',
      decimals: 2,
      toState: (value) => requireWithin('Temperature', fromFahrenheit(value), -200, 850, '°C'),
      fromState: (state) => toFahrenheit(state),
    },
    {
      id: 'pt100',
      label: 'Pt100',
      unit: 'Ω',
      decimals: 3,
      toState: (value) => platinumTemperature(value),
      fromState: (state) => platinumResistance(state),
    },
    {
      id: 'pt1000',
      label: 'Pt1000',
      unit: 'Ω',
      decimals: 2,
      toState: (value) => platinumTemperature(value, 1000),
      fromState: (state) => platinumResistance(state, 1000),
    },
  ],
  start: { held: 'celsius', value: 25 },
  outputs: [
    {
      id: 'classB',
      label: 'Class B allows ±',
      unit: '°C',
      decimals: 2,
      of: (_, state) => platinumTolerance(state, 'B'),
    },
    {
      id: 'classA',
      label: 'Class A allows ±',
      unit: '°C',
      decimals: 2,
      of: (_, state) => platinumTolerance(state, 'A'),
    },
  ],
  working: (_, state) => [
    '°F = 1.8 · °C + 32;  R = R0 · (1 + A·t + B·t²), below 0 °C also C·(t − 100)·t³',
    `${show(platinumResistance(state), { decimals: 3 })} Ω = 100 · (1 + 3.9083e−3 · ${show(state, { decimals: 2 })} − 5.775e−7 · ${show(state, { decimals: 2 })}²)`,
  ],
  source: 'IEC 60751:2008',
  range: '−200 to 850 °C.',
  curve: (_, state) => ({
    xLabel: '°C',
    yLabel: 'Ω, Pt100',
    points: trace(Math.min(0, state), Math.max(100, state), (t) => platinumResistance(t), 20),
    at: [state, platinumResistance(state)],
  }),
}

const ntc = (given: Given) => betaThermistor(1000 * given.number('r25'), given.number('beta'))

const THERMISTOR: Sheet = {
  id: 'thermistor',
  group: 'Temperature',
  title: 'NTC thermistor',
  question: 'What resistance stands for a temperature on this thermistor?',
  given: [
    { kind: 'number', id: 'r25', label: 'At 25 °C', unit: 'kΩ', figures: 4, initial: 10 },
    { kind: 'number', id: 'beta', label: 'Beta, in kelvin', unit: '', decimals: 0, initial: 3435 },
  ],
  linked: [
    {
      id: 'celsius',
      label: 'Temperature',
      unit: '°C',
      decimals: 2,
      toState: (value) => requireWithin('Temperature', value, -100, 300, '°C'),
      fromState: (state) => state,
    },
    {
      id: 'resistance',
      label: 'Resistance',
      unit: 'Ω',
      figures: 5,
      toState: (value, given) => thermistorTemperature(value, ntc(given)),
      fromState: (state, given) => thermistorResistance(state, ntc(given)),
    },
  ],
  start: { held: 'celsius', value: 35 },
  outputs: [],
  working: (given, state) => [
    'R = R25 · exp(β · (1/T − 1/298.15))',
    `${show(thermistorResistance(state, ntc(given)))} Ω at ${show(state, { decimals: 2 })} °C`,
  ],
  remarks: () => ['Beta fits a real thermistor to about half a degree over 50 degrees. Its table is better.'],
  source: 'Steinhart and Hart 1968, with one constant',
  range: '−100 to 300 °C.',
  curve: (given, state) => ({
    xLabel: '°C',
    yLabel: 'kΩ',
    points: trace(0, 60, (t) => thermistorResistance(t, ntc(given)) / 1000, 60),
    at: [state, thermistorResistance(state, ntc(given)) / 1000],
  }),
}

export const TEMPERATURE_SHEETS: readonly Sheet[] = [PLATINUM, THERMISTOR]
