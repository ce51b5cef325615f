import { requireWithin } from '../quantities/outOfRange.ts'
import {
  dilutedConcentration,
  massToWeigh,
  molarityOfMass,
  SALTS,
  salt,
  stockVolume,
} from '../standards/preparation.ts'
import { type Given, type Sheet, show } from './sheet.ts'

const four = { figures: 4 }
const what = (given: Given) => salt(given.choice('salt'))
const perMole = (given: Given) => {
  const { ion } = what(given)
  return ion.molarMass * ion.perMole * 1000
}
const mass = (given: Given, molarity: number) =>
  massToWeigh(what(given).molarMass, molarity, given.number('volume'), given.number('purity'))

const WEIGH: Sheet = {
  id: 'weigh',
  group: 'Solutions',
  title: 'Weigh in a standard',
  question: 'How much salt for this volume and strength, and how strong is what you weighed?',
  given: [
    {
      kind: 'choice',
      id: 'salt',
      label: 'Salt',
      options: SALTS.map((s) => ({ value: s.code, label: s.label })),
      initial: 'KCl',
    },
    { kind: 'number', id: 'volume', label: 'Made up to', unit: 'L', figures: 4, initial: 1 },
    { kind: 'number', id: 'purity', label: 'Purity of the salt', unit: '%', decimals: 2, initial: 100 },
  ],
  linked: [
    {
      id: 'mass',
      label: 'Salt to weigh',
      unit: 'g',
      figures: 5,
      toState: (value, given) =>
        molarityOfMass(what(given).molarMass, value, given.number('volume'), given.number('purity')),
      fromState: (state, given) => mass(given, state),
    },
    {
      id: 'molar',
      label: 'Strength',
      unit: 'mol/L',
      figures: 4,
      toState: (value) => requireWithin('Molarity', value, 0, 6, 'mol/L'),
      fromState: (state) => state,
    },
    {
      id: 'ion',
      label: 'Of its ion',
      unit: 'mg/L',
      figures: 4,
      toState: (value, given) => requireWithin('Molarity', value / perMole(given), 0, 6, 'mol/L'),
      fromState: (state, given) => state * perMole(given),
    },
  ],
  start: { held: 'molar', value: 0.01 },
  outputs: [{ id: 'mm', label: 'Molar mass, g/mol', unit: '', decimals: 3, of: (given) => what(given).molarMass }],
  working: (given, state) => [
    'm = M · c · V · 100 / purity',
    `${show(mass(given, state))} g = ${show(what(given).molarMass, { decimals: 3 })} · ${show(state, four)} · ${show(given.number('volume'), four)} · 100 / ${show(given.number('purity'), { decimals: 2 })}`,
  ],
  remarks: (given) => [
    `The ion counted here is ${what(given).ion.label}. Dry the salt first unless it carries water of crystal.`,
    'Goggles for dust and splashes; read the maker’s sheet of the salt.',
  ],
  source: 'Standard atomic weights, IUPAC 2021',
  range: 'Up to 6 mol/L and 1000 L. As good as balance, flask and purity.',
}

const DILUTE: Sheet = {
  id: 'dilute',
  group: 'Solutions',
  title: 'Dilute a stock',
  question: 'How much stock for this volume and strength?',
  given: [
    { kind: 'number', id: 'stock', label: 'Stock', unit: 'mg/L', figures: 4, initial: 1000 },
    { kind: 'number', id: 'volume', label: 'Made up to', unit: 'mL', figures: 4, initial: 250 },
  ],
  linked: [
    {
      id: 'take',
      label: 'Stock to take',
      unit: 'mL',
      figures: 4,
      toState: (value, given) => dilutedConcentration(given.number('stock'), value, given.number('volume')),
      fromState: (state, given) => stockVolume(given.number('stock'), state, given.number('volume')),
    },
    {
      id: 'wanted',
      label: 'Strength after',
      unit: 'mg/L',
      figures: 4,
      toState: (value, given) => requireWithin('Strength after', value, 0, given.number('stock'), 'mg/L'),
      fromState: (state) => state,
    },
  ],
  start: { held: 'wanted', value: 100 },
  outputs: [
    {
      id: 'water',
      label: 'Water to fill up with',
      unit: 'mL',
      figures: 4,
      of: (given, state) => given.number('volume') - stockVolume(given.number('stock'), state, given.number('volume')),
    },
  ],
  working: (given, state) => [
    'V1 = c2 · V2 / c1',
    `${show(stockVolume(given.number('stock'), state, given.number('volume')), four)} mL = ${show(state, four)} · ${show(given.number('volume'), four)} / ${show(given.number('stock'), four)}`,
  ],
  remarks: () => [
    'This holds for amounts, not for conductivity: half the KCl has a little more than half the conductivity.',
    'Acids: into the water, never the other way round.',
  ],
  source: 'Conservation of the amount dissolved',
  range: 'Any volume and strength in the same unit.',
}

export const SOLUTION_SHEETS: readonly Sheet[] = [WEIGH, DILUTE]
