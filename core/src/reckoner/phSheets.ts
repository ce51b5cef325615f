import { expectedPhDisplay } from '../calibration/expectedDisplay.ts'
import { nernstSlope } from '../electrode/nernst.ts'
import { millivoltsToPh, phToMillivolts } from '../electrode/phElectrode.ts'
import { requireWithin } from '../quantities/outOfRange.ts'
import { PH_BUFFERS, phBuffer, phBufferTemperatureCoefficient, phBufferValue } from '../standards/phBuffers.ts'
import { type Given, type Sheet, show, temperatureField, trace } from './sheet.ts'

const electrode = (given: Given) => ({
  zero: given.number('zero'),
  slopeEfficiency: requireWithin('Slope', given.number('slope'), 5, 200, '%') / 100,
})
const at = (given: Given) => given.number('temperature')
const two = { decimals: 2 }

const bufferChoice = {
  kind: 'choice',
  id: 'buffer',
  label: 'Buffer',
  options: PH_BUFFERS.map((b) => ({ value: b.code, label: b.label })),
  initial: 'pH7.00',
} as const

const MILLIVOLTS: Sheet = {
  id: 'ph-mv',
  group: 'pH',
  title: 'pH and millivolts',
  question: 'What signal belongs to a pH on this electrode, and what pH to a signal?',
  given: [
    temperatureField(),
    { kind: 'number', id: 'zero', label: 'Zero point, at pH 7', unit: 'mV', decimals: 1, initial: 0 },
    { kind: 'number', id: 'slope', label: 'Slope, of ideal', unit: '%', decimals: 1, initial: 100 },
  ],
  linked: [
    {
      id: 'ph',
      label: 'pH',
      unit: 'pH',
      decimals: 3,
      toState: (value) => requireWithin('pH', value, -1, 15),
      fromState: (state) => state,
    },
    {
      id: 'mv',
      label: 'Signal',
      unit: 'mV',
      decimals: 1,
      toState: (value, given) =>
        requireWithin('pH of this signal', millivoltsToPh(value, at(given), electrode(given)), -1, 15),
      fromState: (state, given) => phToMillivolts(state, at(given), electrode(given)),
    },
  ],
  start: { held: 'ph', value: 8.1 },
  outputs: [
    {
      id: 'step',
      label: 'One pH is',
      unit: 'mV',
      decimals: 2,
      of: (given) => electrode(given).slopeEfficiency * nernstSlope(at(given)),
    },
  ],
  working: (given, state) => {
    const e = electrode(given)
    const k = nernstSlope(at(given))
    const mv = phToMillivolts(state, at(given), e)
    return [
      'E = E0 + η · k(T) · (7 − pH)',
      'k(T) = ln 10 · R · T / F',
      `k = ${show(k, two)} mV at ${show(at(given), { decimals: 1 })} °C`,
      `${show(mv, { decimals: 1 })} mV = ${show(e.zero, { decimals: 1 })} + ${show(e.slopeEfficiency, { decimals: 3 })} · ${show(k, two)} · (7 − ${show(state, { decimals: 3 })})`,
    ]
  },
  source: 'Nernst equation with the CODATA 2018 constants R and F',
  range: 'pH −1 to 15, −5 to 110 °C. Exact but for what zero and slope are worth.',
  curve: (given, state) => ({
    xLabel: 'pH',
    yLabel: 'mV',
    points: trace(0, 14, (ph) => phToMillivolts(ph, at(given), electrode(given)), 14),
    at: [state, phToMillivolts(state, at(given), electrode(given))],
  }),
}

const BUFFER: Sheet = {
  id: 'ph-buffer',
  group: 'pH',
  title: 'Buffer at temperature',
  question: 'What is this buffer worth at the temperature it has?',
  given: [bufferChoice, temperatureField(20)],
  linked: [],
  outputs: [
    {
      id: 'value',
      label: 'Value there',
      unit: 'pH',
      decimals: 3,
      of: (given) => phBufferValue(given.choice('buffer'), at(given)),
      uncertainty: (_, given) => phBuffer(given.choice('buffer')).uncertainty,
    },
    {
      id: 'ideal',
      label: 'An ideal electrode gives',
      unit: 'mV',
      decimals: 1,
      of: (given) =>
        phToMillivolts(phBufferValue(given.choice('buffer'), at(given)), at(given), { zero: 0, slopeEfficiency: 1 }),
    },
    {
      id: 'coefficient',
      label: 'Change per °C',
      unit: 'pH',
      decimals: 4,
      of: (given) => phBufferTemperatureCoefficient(given.choice('buffer'), at(given)),
    },
  ],
  working: (given) => {
    const code = given.choice('buffer')
    return [
      'Table of the standard, smooth and monotone between its rows',
      `${phBuffer(code).label} is ${show(phBufferValue(code, at(given)), { decimals: 3 })} at ${show(at(given), { decimals: 1 })} °C`,
    ]
  },
  source: 'IUPAC 2002 for the primary standards; the technical ones as printed on bottles. A table on your lot wins.',
  range: '0 to 50 °C; the tartrate from 25 °C.',
  curve: (given) => {
    const code = given.choice('buffer')
    return {
      xLabel: '°C',
      yLabel: 'pH',
      points: trace(0, 50, (t) => phBufferValue(code, t)),
      at: [at(given), phBufferValue(code, at(given))],
    }
  },
}

const expected = (given: Given) =>
  expectedPhDisplay(given.choice('buffer'), at(given), {
    temperatureFrom: given.choice<'sensor' | 'keyed-in'>('from'),
    keyedIn: given.number('keyedIn'),
    solutionCoefficient: given.number('coefficient'),
  })

const EXPECTED: Sheet = {
  id: 'ph-expected',
  group: 'pH',
  title: 'Expected pH display',
  question: 'In this buffer, at this temperature and setting, what should a sound pH device show?',
  given: [
    bufferChoice,
    temperatureField(15, 'Buffer is at'),
    {
      kind: 'choice',
      id: 'from',
      label: 'The device takes its temperature from',
      options: [
        { value: 'sensor', label: 'its sensor' },
        { value: 'keyed-in', label: 'a value keyed in' },
      ],
      initial: 'sensor',
    },
    {
      kind: 'number',
      id: 'keyedIn',
      label: 'Keyed in',
      unit: '°C',
      decimals: 1,
      initial: 25,
      matters: (given) => given.choice('from') === 'keyed-in',
    },
    {
      kind: 'number',
      id: 'coefficient',
      label: 'Solution coefficient, pH per °C',
      unit: '',
      decimals: 3,
      initial: 0,
      hint: '0 unless the device refers the solution to 25 °C, as some do in boiler duty.',
    },
  ],
  linked: [],
  outputs: [
    {
      id: 'expected',
      label: 'It should show',
      unit: 'pH',
      decimals: 2,
      of: (given) => expected(given).expected,
      uncertainty: (_, given) => phBuffer(given.choice('buffer')).uncertainty,
    },
    { id: 'label', label: 'The label says', unit: 'pH', decimals: 2, of: (given) => expected(given).label },
  ],
  working: (given) => {
    const there = phBufferValue(given.choice('buffer'), at(given))
    const lines = ['shown = 7 − (7 − pH(T)) · k(T) / k(T of the device) + c · (T − 25)']
    const used = given.choice('from') === 'keyed-in' ? given.number('keyedIn') : at(given)
    lines.push(
      `${show(expected(given).expected, { decimals: 3 })} = 7 − (7 − ${show(there, { decimals: 3 })}) · ${show(nernstSlope(at(given)), two)} / ${show(nernstSlope(used), two)} + ${show(given.number('coefficient'), { decimals: 3 })} · (${show(at(given), { decimals: 1 })} − 25)`,
    )
    return lines
  },
  remarks: (given) => expected(given).reasons,
  source: 'Buffer table and Nernst equation; the compensation corrects the electrode only, not the solution',
  range: '0 to 50 °C.',
}

export const PH_SHEETS: readonly Sheet[] = [MILLIVOLTS, BUFFER, EXPECTED]
