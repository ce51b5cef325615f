import { activityCoefficient, ionicStrengthOfConductivity } from '../chemistry/activity.ts'
import { IONS, type IonCode, toMilligrams, toMolar } from '../chemistry/ions.ts'
import { convertNitrogen, type NitrogenForm, unionisedAmmonia } from '../chemistry/nitrogen.ts'
import { doubleAddition, singleAddition } from '../chemistry/standardAddition.ts'
import { ionSlope, ionToMillivolts, millivoltsToIon } from '../electrode/ionSelective.ts'
import { requireWithin } from '../quantities/outOfRange.ts'
import { type Given, type GivenField, type LinkedField, type Sheet, show, temperatureField, trace } from './sheet.ts'

const at = (given: Given) => given.number('temperature')
const ion = (given: Given) => IONS[given.choice<IonCode>('ion')]
const four = { figures: 4 }

const ION_FIELD: GivenField = {
  kind: 'choice',
  id: 'ion',
  label: 'Ion',
  options: Object.values(IONS).map((i) => ({ value: i.code, label: i.label })),
  initial: 'chloride',
}
const WATER_FIELD: GivenField = {
  kind: 'number',
  id: 'conductivity',
  label: 'Conductivity of the water at 25 °C',
  unit: 'µS/cm',
  figures: 4,
  initial: 1412,
  hint: 'For its ionic strength, and so the activity coefficient.',
}

const strength = (given: Given) => ionicStrengthOfConductivity(given.number('conductivity'))
const gamma = (given: Given) => {
  const { charge, size } = ion(given)
  return activityCoefficient(charge, size, strength(given), at(given))
}
const electrode = (given: Given) => ({
  zero: given.number('zero'),
  slopeEfficiency: requireWithin('Slope', given.number('slope'), 5, 200, '%') / 100,
  charge: ion(given).charge,
})

/** Fields for the state "activity, mol/L". */
const CONCENTRATION: LinkedField = {
  id: 'concentration',
  label: 'Concentration',
  unit: 'mg/L',
  figures: 4,
  toState: (value, given) => toMolar(value, ion(given)) * gamma(given),
  fromState: (state, given) => toMilligrams(state / gamma(given), ion(given)),
  // The ionic strength from conductivity is good to a fifth, which is about 2 % in the coefficient.
  uncertainty: (state, given) => 0.02 * toMilligrams(state / gamma(given), ion(given)),
}
const ACTIVITY: LinkedField = {
  id: 'activity',
  label: 'Activity, as mg/L',
  unit: 'mg/L',
  figures: 4,
  toState: (value, given) => toMolar(value, ion(given)),
  fromState: (state, given) => toMilligrams(state, ion(given)),
}
const MOLAR: LinkedField = {
  id: 'molar',
  label: 'Concentration, molar',
  unit: 'mmol/L',
  figures: 4,
  toState: (value, given) => (value / 1000) * gamma(given),
  fromState: (state, given) => (1000 * state) / gamma(given),
}

const ACTIVITY_LINES = (given: Given, state: number) => [
  'a = γ · c,  log γ by extended Debye-Hückel to 0.1 mol/L, by Davies to 0.5',
  `${show(toMilligrams(state, ion(given)), four)} = ${show(gamma(given), { decimals: 3 })} · ${show(toMilligrams(state / gamma(given), ion(given)), four)} mg/L,  I = ${show(strength(given), four)} mol/L`,
]

const MILLIVOLTS: Sheet = {
  id: 'ion-mv',
  group: 'Ions',
  title: 'Ion millivolts and mg/L',
  question: 'What concentration belongs to this signal, and what signal to a concentration?',
  given: [
    ION_FIELD,
    temperatureField(22),
    { kind: 'number', id: 'zero', label: 'E0, signal at 1 mol/L', unit: 'mV', decimals: 1, initial: 20 },
    { kind: 'number', id: 'slope', label: 'Slope, of ideal', unit: '%', decimals: 1, initial: 96 },
    WATER_FIELD,
  ],
  linked: [
    {
      id: 'mv',
      label: 'Signal',
      unit: 'mV',
      decimals: 1,
      toState: (value, given) => millivoltsToIon(value, at(given), electrode(given)),
      fromState: (state, given) => ionToMillivolts(state, at(given), electrode(given)),
    },
    CONCENTRATION,
    ACTIVITY,
  ],
  start: { held: 'concentration', value: 120 },
  outputs: [
    {
      id: 'decade',
      label: 'One decade is',
      unit: 'mV',
      decimals: 2,
      of: (given) => ionSlope(electrode(given), at(given)),
    },
  ],
  working: (given, state) => [
    'E = E0 + η · k(T) / z · log a (Nikolsky-Eisenman, nothing else disturbing)',
    `${show(ionToMillivolts(state, at(given), electrode(given)), { decimals: 1 })} = ${show(given.number('zero'), { decimals: 1 })} + ${show(ionSlope(electrode(given), at(given)), { decimals: 2 })} · log ${show(state, four)}`,
    ...ACTIVITY_LINES(given, state),
  ],
  source:
    'IUPAC Recommendations 1994 (Nikolsky-Eisenman); Kielland 1937; Griffin and Jurinak 1973 for the ionic strength',
  range: '0 to 100 °C, water up to 32 mS/cm. The coefficient is good to about 2 %.',
  curve: (given, state) => {
    const mg = toMilligrams(state / gamma(given), ion(given))
    const decade = Math.log10(mg)
    return {
      xLabel: 'log mg/L',
      yLabel: 'mV',
      points: trace(
        decade - 2,
        decade + 2,
        (x) => ionToMillivolts(toMolar(10 ** x, ion(given)) * gamma(given), at(given), electrode(given)),
        16,
      ),
      at: [decade, ionToMillivolts(state, at(given), electrode(given))],
    }
  },
}

const ACTIVITY_SHEET: Sheet = {
  id: 'activity',
  group: 'Ions',
  title: 'Activity and concentration',
  question: 'The electrode feels activity, the laboratory reports concentration: what is one in the other?',
  given: [ION_FIELD, temperatureField(25), WATER_FIELD],
  linked: [CONCENTRATION, ACTIVITY, MOLAR],
  start: { held: 'concentration', value: 354.5 },
  outputs: [
    { id: 'gamma', label: 'Activity coefficient', unit: '', decimals: 3, of: (given) => gamma(given) },
    { id: 'strength', label: 'Ionic strength', unit: 'mol/L', figures: 3, of: (given) => strength(given) },
  ],
  working: ACTIVITY_LINES,
  remarks: () => [
    'A standard sold by its activity says so in small print: 319 mg/L chloride is 354.5 mg/L by the balance.',
  ],
  source: 'Extended Debye-Hückel with Kielland’s ion sizes; Davies 1962; Griffin and Jurinak 1973',
  range: '0 to 100 °C, water up to 32 mS/cm. Good to about 2 %.',
  curve: (given) => ({
    xLabel: 'mS/cm',
    yLabel: 'coefficient',
    points: trace(0.05, 30, (c) => {
      const { charge, size } = ion(given)
      return activityCoefficient(charge, size, ionicStrengthOfConductivity(1000 * c), at(given))
    }),
    at: [given.number('conductivity') / 1000, gamma(given)],
  }),
}

const isDouble = (given: Given) => given.choice('method') === 'double'
const addition = (given: Given) => ({
  sampleVolume: given.number('sample'),
  addedVolume: given.number('added'),
  standard: given.number('standard'),
})
const solved = (given: Given) =>
  isDouble(given)
    ? doubleAddition(addition(given), given.number('change'), given.number('second'))
    : {
        concentration: singleAddition(addition(given), given.number('change'), given.number('slope')),
        slope: given.number('slope'),
      }

const ADDITION: Sheet = {
  id: 'addition',
  group: 'Ions',
  title: 'Standard addition',
  question: 'How much was in the sample, from how the signal moved when standard was added?',
  given: [
    {
      kind: 'choice',
      id: 'method',
      label: 'Method',
      options: [
        { value: 'single', label: 'one addition, slope known' },
        { value: 'double', label: 'two like additions, slope found' },
      ],
      initial: 'single',
    },
    { kind: 'number', id: 'sample', label: 'Sample', unit: 'mL', figures: 4, initial: 100 },
    { kind: 'number', id: 'added', label: 'Standard added each time', unit: 'mL', figures: 4, initial: 2 },
    { kind: 'number', id: 'standard', label: 'Standard', unit: 'mg/L', figures: 4, initial: 1000 },
    { kind: 'number', id: 'change', label: 'Signal moved by', unit: 'mV', decimals: 1, initial: -20 },
    {
      kind: 'number',
      id: 'second',
      label: 'Then by',
      unit: 'mV',
      decimals: 1,
      initial: -10.6,
      matters: isDouble,
    },
    {
      kind: 'number',
      id: 'slope',
      label: 'Slope, mV per decade',
      unit: 'mV',
      decimals: 1,
      initial: -57,
      hint: 'Negative for chloride, nitrate, fluoride.',
      matters: (given) => !isDouble(given),
    },
  ],
  linked: [],
  outputs: [
    {
      id: 'concentration',
      label: 'In the sample',
      unit: 'mg/L',
      figures: 4,
      of: (given) => solved(given).concentration,
    },
    { id: 'found', label: 'Slope used, per decade', unit: 'mV', decimals: 1, of: (given) => solved(given).slope },
  ],
  working: (given) => {
    const { concentration, slope } = solved(given)
    const { sampleVolume: v, addedVolume: a, standard } = addition(given)
    return [
      'c = cs · Vs / ((V + Vs) · 10^(ΔE / S) − V)',
      `${show(concentration, four)} = ${show(standard, four)} · ${show(a, four)} / ((${show(v, four)} + ${show(a, four)}) · 10^(${show(given.number('change'), { decimals: 1 })} / ${show(slope, { decimals: 1 })}) − ${show(v, four)})`,
    ]
  },
  source: 'Known-addition methods, IUPAC Recommendations 1994',
  range: 'Additions up to the sample’s volume. A change of less than 10 mV makes the result poor.',
}

/** A nitrogen form, the state being mg/L as nitrogen. */
const nitrogen = (id: string, label: string, form: NitrogenForm): LinkedField => {
  const asNitrogen = form.startsWith('NO3') ? 'NO3-N' : 'NH4-N'
  return {
    id,
    label,
    unit: 'mg/L',
    figures: 4,
    toState: (value) => convertNitrogen(value, form, asNitrogen),
    fromState: (state) => convertNitrogen(state, asNitrogen, form),
  }
}

const NITRATE: Sheet = {
  id: 'nitrate',
  group: 'Ions',
  title: 'Nitrate and nitrate-nitrogen',
  question: 'Is that number nitrate, or nitrogen in nitrate? They differ 4.43-fold.',
  given: [],
  linked: [nitrogen('no3n', 'As nitrogen, NO3-N', 'NO3-N'), nitrogen('no3', 'As nitrate, NO3', 'NO3')],
  start: { held: 'no3n', value: 10 },
  outputs: [],
  working: (_, state) => [
    'NO3 = NO3-N · 62.004 / 14.007',
    `${show(convertNitrogen(state, 'NO3-N', 'NO3'), four)} = ${show(state, four)} · 4.427`,
  ],
  source: 'Standard atomic weights, IUPAC 2021',
  range: 'Any amount. Exact.',
}

const free = (given: Given) => unionisedAmmonia(given.number('ph'), at(given))

const AMMONIA: Sheet = {
  id: 'ammonia',
  group: 'Ions',
  title: 'Ammonium and ammonia',
  question: 'How much of the ammonium is un-ionised ammonia at this pH and temperature?',
  given: [{ kind: 'number', id: 'ph', label: 'pH', unit: 'pH', decimals: 2, initial: 8.1 }, temperatureField(25)],
  linked: [
    nitrogen('total', 'Total, as nitrogen', 'NH4-N'),
    nitrogen('ammonium', 'Total, as ammonium NH4', 'NH4'),
    {
      id: 'free',
      label: 'Un-ionised, as nitrogen',
      unit: 'mg/L',
      figures: 3,
      toState: (value, given) => convertNitrogen(value, 'NH4-N', 'NH4-N') / free(given),
      fromState: (state, given) => state * free(given),
    },
    {
      id: 'nh3',
      label: 'Un-ionised, as ammonia NH3',
      unit: 'mg/L',
      figures: 3,
      toState: (value, given) => convertNitrogen(value, 'NH3', 'NH4-N') / free(given),
      fromState: (state, given) => convertNitrogen(state * free(given), 'NH4-N', 'NH3'),
    },
  ],
  start: { held: 'total', value: 0.5 },
  outputs: [{ id: 'share', label: 'Un-ionised share', unit: '%', figures: 3, of: (given) => 100 * free(given) }],
  working: (given, state) => [
    'share = 1 / (10^(pKa − pH) + 1),  pKa = 0.09018 + 2729.92 / T',
    `${show(state * free(given), { figures: 3 })} = ${show(free(given), { figures: 3 })} · ${show(state, four)} mg/L as N`,
  ],
  remarks: () => [
    'For fresh water. In seawater the share is about a fifth less.',
    'Livestock: when fish gasp, change water first and calculate later.',
  ],
  source: 'Emerson et al., J. Fish. Res. Board Can. 32 (1975) 2379',
  range: 'pH 0 to 14, 0 to 50 °C (the measurements cover 0 to 30 °C).',
  curve: (given) => ({
    xLabel: 'pH',
    yLabel: '% un-ionised',
    points: trace(6, 10, (ph) => 100 * unionisedAmmonia(ph, at(given)), 40),
    at: [given.number('ph'), 100 * free(given)],
  }),
}

export const ION_SHEETS: readonly Sheet[] = [MILLIVOLTS, ACTIVITY_SHEET, ADDITION, NITRATE, AMMONIA]
