import { expectedConductivityDisplay } from '../calibration/expectedDisplay.ts'
import { type Compensation, compensate, USUAL_ALPHA, uncompensate } from '../conductivity/compensation.ts'
import { practicalSalinity, seawaterConductivity } from '../conductivity/practicalSalinity.ts'
import { highPurityFrom25, highPurityTo25, pureWaterConductivity } from '../conductivity/pureWater.ts'
import { fromEcScale, reciprocal, toEcScale } from '../conductivity/scales.ts'
import { salinityOfSpecificGravity, seawaterDensity, specificGravity } from '../conductivity/seawaterDensity.ts'
import type { EcScale } from '../quantities/ecScales.ts'
import { requireWithin } from '../quantities/outOfRange.ts'
import type { UnitSymbol } from '../quantities/quantityText.ts'
import {
  CONDUCTIVITY_STANDARDS,
  conductivityStandard,
  conductivityStandardValue,
} from '../standards/conductivityStandards.ts'
import { type Given, type GivenField, type LinkedField, type Sheet, show, temperatureField, trace } from './sheet.ts'

const at = (given: Given) => given.number('temperature')
const one = { decimals: 1 }
const three = { decimals: 3 }

const reference = (given: Given) => Number(given.choice('reference'))

const SEAWATER: Sheet = {
  id: 'seawater',
  group: 'Conductivity',
  title: 'Seawater, salinity, gravity',
  question: 'How salt is this seawater, by conductivity or by hydrometer?',
  given: [
    temperatureField(25.5, 'Water is at'),
    {
      kind: 'choice',
      id: 'reference',
      label: 'Specific gravity against pure water at',
      options: [4, 15, 20, 25].map((t) => ({ value: String(t), label: `${t} °C` })),
      initial: '25',
    },
  ],
  linked: [
    {
      id: 'here',
      label: 'Conductivity as it is',
      unit: 'mS/cm',
      decimals: 2,
      toState: (value, given) => practicalSalinity(1000 * value, at(given)),
      fromState: (s, given) => seawaterConductivity(s, at(given)) / 1000,
    },
    {
      id: 'at25',
      label: 'Conductivity at 25 °C',
      unit: 'mS/cm',
      decimals: 2,
      toState: (value) => practicalSalinity(1000 * value, 25),
      fromState: (s) => seawaterConductivity(s, 25) / 1000,
    },
    {
      id: 'salinity',
      label: 'Practical salinity',
      unit: '',
      decimals: 2,
      toState: (value) => requireWithin('Practical salinity', value, 0.02, 45),
      fromState: (s) => s,
    },
    {
      id: 'gravity',
      label: 'Specific gravity',
      unit: '',
      decimals: 4,
      toState: (value, given) => salinityOfSpecificGravity(value, at(given), reference(given)),
      fromState: (s, given) => specificGravity(s, at(given), reference(given)),
    },
  ],
  start: { held: 'salinity', value: 35 },
  outputs: [
    {
      id: 'density',
      label: 'Density',
      unit: '',
      decimals: 2,
      hint: 'kg/m³',
      of: (given, s) => seawaterDensity(s, at(given)),
    },
  ],
  working: (given, s) => [
    'S = f(R),  R = κ / 42.914 mS/cm',
    'SG = ρ(S, T) / ρ(0, reference)',
    `${show(s, three)} = f(${show(seawaterConductivity(s, at(given)) / 42914, { decimals: 5 })}) at ${show(at(given), one)} °C`,
    `${show(specificGravity(s, at(given), reference(given)), { decimals: 4 })} = ${show(seawaterDensity(s, at(given)), { decimals: 2 })} / ${show(seawaterDensity(0, reference(given)), { decimals: 2 })} kg/m³`,
  ],
  remarks: (_, s) =>
    s < 2 || s > 42 ? ['The scale is defined for salinities of 2 to 42; beyond, it is only carried on.'] : [],
  source: 'PSS-78 and EOS-80, UNESCO Technical Papers in Marine Science 44 (1983)',
  range: '−2 to 40 °C, salinity to 45; at surface pressure. The formulas are good to 0.003 in salinity and 0.01 kg/m³.',
  curve: (given, s) => ({
    xLabel: 'salinity',
    yLabel: 'mS/cm',
    points: trace(2, 42, (x) => seawaterConductivity(x, at(given)) / 1000, 40),
    at: [s, seawaterConductivity(s, at(given)) / 1000],
  }),
}

const law = (given: Given): Compensation => {
  const name = given.choice<Compensation['law']>('law')
  return name === 'linear'
    ? { law: 'linear', alpha: given.number('alpha'), reference: Number(given.choice('reference')) }
    : { law: name }
}
const isLinear = (given: Given) => given.choice('law') === 'linear'

const COMPENSATION_FIELDS: GivenField[] = [
  {
    kind: 'choice',
    id: 'law',
    label: 'The device compensates',
    options: [
      { value: 'linear', label: 'in a straight line' },
      { value: 'natural-water', label: 'as natural water (ISO 7888)' },
      { value: 'seawater', label: 'as seawater' },
      { value: 'high-purity', label: 'as high-purity water' },
      { value: 'none', label: 'not at all' },
    ],
    initial: 'linear',
  },
  {
    kind: 'number',
    id: 'alpha',
    label: 'Coefficient, % per °C',
    unit: '%',
    decimals: 2,
    initial: USUAL_ALPHA,
    matters: isLinear,
  },
  {
    kind: 'choice',
    id: 'reference',
    label: 'Referred to (straight line)',
    options: [
      { value: '25', label: '25 °C' },
      { value: '20', label: '20 °C' },
    ],
    initial: '25',
  },
]

const FORMULAS: Record<Compensation['law'], string> = {
  none: 'shown = κ(T)',
  linear: 'shown = κ(T) / (1 + α · (T − reference))',
  'natural-water': 'shown = f25(T) · κ(T)',
  seawater: 'shown = κ of the same salinity at 25 °C',
  'high-purity': 'shown = κw(25) + (κ(T) − κw(T)) / s(T): water and salt apart',
}
const SOURCES =
  'Linear: common practice. Natural water: ISO 7888. Seawater: PSS-78. High purity: the two-term method of ASTM D5391, salt as NaCl'

const COMPENSATION: Sheet = {
  id: 'compensation',
  group: 'Conductivity',
  title: 'Temperature compensation',
  question: 'What does this water show on this device, and what is it really?',
  given: [temperatureField(18, 'Water is at'), ...COMPENSATION_FIELDS],
  linked: [
    {
      id: 'here',
      label: 'As it is at this temperature',
      unit: 'µS/cm',
      figures: 5,
      toState: (value, given) => {
        compensate(value, at(given), law(given))
        return value
      },
      fromState: (state) => state,
    },
    {
      id: 'shown',
      label: 'Shown by the device',
      unit: 'µS/cm',
      figures: 5,
      toState: (value, given) => uncompensate(value, at(given), law(given)),
      fromState: (state, given) => compensate(state, at(given), law(given)),
    },
  ],
  start: { held: 'here', value: 1120 },
  outputs: [],
  working: (given, state) => [
    FORMULAS[law(given).law],
    `${show(compensate(state, at(given), law(given)))} µS/cm for ${show(state)} µS/cm at ${show(at(given), one)} °C`,
  ],
  source: SOURCES,
  range: 'Natural water 0 to 36 °C; seawater −2 to 40 °C; high purity 0 to 100 °C, to 20 µS/cm.',
  curve: (given, state) => {
    const shown = compensate(state, at(given), law(given))
    return {
      xLabel: '°C',
      yLabel: 'µS/cm as it is',
      points: trace(0, 40, (t) => uncompensate(shown, t, law(given)), 40),
      at: [at(given), state],
    }
  },
}

const expected = (given: Given) => expectedConductivityDisplay(given.choice('standard'), at(given), law(given))

const EXPECTED: Sheet = {
  id: 'conductivity-expected',
  group: 'Conductivity',
  title: 'Expected EC display',
  question: 'In this standard, at this temperature and setting, what should a sound conductivity device show?',
  given: [
    {
      kind: 'choice',
      id: 'standard',
      label: 'Standard',
      options: CONDUCTIVITY_STANDARDS.map((s) => ({ value: s.code, label: s.label })),
      initial: 'kcl-1413',
    },
    temperatureField(20, 'Standard is at'),
    ...COMPENSATION_FIELDS,
  ],
  linked: [],
  outputs: [
    {
      id: 'expected',
      label: 'It should show',
      unit: 'µS/cm',
      figures: 4,
      of: (given) => expected(given).expected,
      uncertainty: (_, given) =>
        (expected(given).expected * conductivityStandard(given.choice('standard')).uncertainty) / 100,
    },
    {
      id: 'there',
      label: 'The standard really is',
      unit: 'µS/cm',
      figures: 4,
      of: (given) => conductivityStandardValue(given.choice('standard'), at(given)),
    },
    { id: 'label', label: 'The label says', unit: 'µS/cm', figures: 4, of: (given) => expected(given).label },
  ],
  working: (given) => [
    FORMULAS[law(given).law],
    `${show(expected(given).expected)} from ${show(conductivityStandardValue(given.choice('standard'), at(given)))} µS/cm at ${show(at(given), one)} °C`,
  ],
  remarks: (given) => expected(given).reasons,
  source:
    'Table of the standard (IUPAC 2001; Jones and Bradshaw 1933; handbooks; PSS-78 for seawater), then the compensation',
  range: 'The standard’s own table, mostly 0 to 50 °C, and the range of the compensation.',
  curve: (given) => ({
    xLabel: '°C',
    yLabel: 'µS/cm shown',
    points: trace(5, 35, (t) => expectedConductivityDisplay(given.choice('standard'), t, law(given)).expected, 30),
    at: [at(given), expected(given).expected],
  }),
}

const scale = (id: string, name: EcScale & UnitSymbol, label: string, figures: number): LinkedField => ({
  id,
  label,
  unit: name,
  figures,
  toState: (value) => fromEcScale(value, name),
  fromState: (state) => toEcScale(state, name),
})

const SCALES: Sheet = {
  id: 'ec-scales',
  group: 'Conductivity',
  title: 'EC scales',
  question: 'The same water in mS/cm, CF, and the three ppm scales.',
  given: [],
  linked: [
    scale('ms', 'mS/cm', 'mS/cm (also dS/m)', 4),
    scale('us', 'µS/cm', 'µS/cm', 5),
    scale('cf', 'CF', 'CF', 4),
    scale('ppm500', 'ppm 500', 'ppm, 500 scale (NaCl)', 5),
    scale('ppm640', 'ppm 640', 'ppm, 640 scale', 5),
    scale('ppm700', 'ppm 700', 'ppm, 700 scale (mixed salt)', 5),
    {
      id: 'resistivity',
      label: 'Resistivity',
      unit: 'Ω·cm',
      figures: 5,
      toState: (value) => reciprocal(value),
      fromState: (state) => reciprocal(state),
    },
  ],
  start: { held: 'ms', value: 2.1 },
  outputs: [],
  working: (_, state) => [
    'CF = 10 · mS/cm;  ppm = 500, 640 or 700 · mS/cm;  ρ = 1 / κ',
    `${show(state / 100)} = 10 · ${show(state / 1000)};  ${show(state / 2)} = 500 · ${show(state / 1000)};  ${show(0.7 * state)} = 700 · ${show(state / 1000)}`,
  ],
  remarks: () => ['ppm here is no measurement of dissolved solids: it is the conductivity times a number. Say which.'],
  source: 'Definitions; the ppm factors are common practice without a source',
  range: 'Conductivity at 25 °C, up to 2 S/cm.',
}

const PURE: Sheet = {
  id: 'pure-water',
  group: 'Conductivity',
  title: 'High-purity water',
  question: 'What is this resistivity at 25 °C, and how far is it from water with nothing in it?',
  given: [temperatureField(25, 'Water is at')],
  linked: [
    {
      id: 'resistivity',
      label: 'Resistivity as it is',
      unit: 'MΩ·cm',
      figures: 4,
      toState: (value, given) => highPurityTo25(reciprocal(1e6 * value), at(given)),
      fromState: (state, given) => reciprocal(highPurityFrom25(state, at(given))) / 1e6,
    },
    {
      id: 'conductivity',
      label: 'Conductivity as it is',
      unit: 'µS/cm',
      figures: 4,
      toState: (value, given) => highPurityTo25(value, at(given)),
      fromState: (state, given) => highPurityFrom25(state, at(given)),
    },
    {
      id: 'resistivity25',
      label: 'Resistivity at 25 °C',
      unit: 'MΩ·cm',
      figures: 4,
      toState: (value) => highPurityTo25(reciprocal(1e6 * value), 25),
      fromState: (state) => reciprocal(state) / 1e6,
    },
    {
      id: 'conductivity25',
      label: 'Conductivity at 25 °C',
      unit: 'µS/cm',
      figures: 4,
      toState: (value) => highPurityTo25(value, 25),
      fromState: (state) => state,
    },
  ],
  start: { held: 'resistivity25', value: 17.5 },
  outputs: [
    {
      id: 'own',
      label: 'Water with nothing in it, here',
      unit: 'MΩ·cm',
      figures: 4,
      of: (given) => reciprocal(pureWaterConductivity(at(given))) / 1e6,
    },
  ],
  working: (given, state) => [
    'κ25 = κw(25) + (κ(T) − κw(T)) / s(T),  κw from Kw, density and the ions’ mobilities',
    `${show(state, { figures: 4 })} = ${show(pureWaterConductivity(25), { figures: 4 })} + (${show(highPurityFrom25(state, at(given)), { figures: 4 })} − ${show(pureWaterConductivity(at(given)), { figures: 4 })}) / s`,
  ],
  source:
    'Marshall and Franck 1981 for Kw; Robinson and Stokes for the mobilities; 18.18 MΩ·cm at 25 °C (Light et al. 2005)',
  range: '0 to 100 °C, to 20 µS/cm. Water’s own is good to about 2 %.',
  curve: (given) => ({
    xLabel: '°C',
    yLabel: 'MΩ·cm, pure',
    points: trace(10, 60, (t) => reciprocal(pureWaterConductivity(t)) / 1e6, 50),
    at: [at(given), reciprocal(pureWaterConductivity(at(given))) / 1e6],
  }),
}

export const CONDUCTIVITY_SHEETS: readonly Sheet[] = [SEAWATER, COMPENSATION, EXPECTED, SCALES, PURE]
