import {
  fromEh,
  REFERENCE_ELECTRODES,
  REFERENCE_UNCERTAINTY,
  type ReferenceCode,
  referencePotential,
  toEh,
} from '../electrode/referenceElectrodes.ts'
import {
  ORP_STANDARDS,
  type OrpStandardCode,
  orpStandard,
  orpStandardEh,
  orpStandardReading,
} from '../standards/orpStandards.ts'
import { type Given, type GivenChoice, type Sheet, show, temperatureField, trace } from './sheet.ts'

const at = (given: Given) => given.number('temperature')
const one = { decimals: 1 }

const referenceChoice = (id: string, label: string, initial: ReferenceCode): GivenChoice => ({
  kind: 'choice',
  id,
  label,
  options: REFERENCE_ELECTRODES.map((r) => ({ value: r.code, label: r.label })),
  initial,
})
const ref = (given: Given, id: string) => given.choice<ReferenceCode>(id)

const EH: Sheet = {
  id: 'orp-eh',
  group: 'ORP',
  title: 'Eh and other references',
  question: 'What is this reading against hydrogen, or on a sensor with another reference?',
  given: [
    temperatureField(25),
    referenceChoice('reference', 'Your sensor’s reference', 'agcl-3M'),
    referenceChoice('other', 'The other reference', 'calomel-saturated'),
  ],
  linked: [
    {
      id: 'reading',
      label: 'Your sensor reads',
      unit: 'mV',
      decimals: 1,
      toState: (value, given) => toEh(value, ref(given, 'reference'), at(given)),
      fromState: (eh, given) => fromEh(eh, ref(given, 'reference'), at(given)),
      uncertainty: () => REFERENCE_UNCERTAINTY,
    },
    {
      id: 'eh',
      label: 'Eh, against hydrogen',
      unit: 'mV',
      decimals: 1,
      toState: (value, given) =>
        toEh(fromEh(value, ref(given, 'reference'), at(given)), ref(given, 'reference'), at(given)),
      fromState: (eh) => eh,
      uncertainty: () => REFERENCE_UNCERTAINTY,
    },
    {
      id: 'elsewhere',
      label: 'The other would read',
      unit: 'mV',
      decimals: 1,
      toState: (value, given) => toEh(value, ref(given, 'other'), at(given)),
      fromState: (eh, given) => fromEh(eh, ref(given, 'other'), at(given)),
      uncertainty: () => REFERENCE_UNCERTAINTY * Math.SQRT2,
    },
  ],
  start: { held: 'reading', value: 350 },
  outputs: [],
  working: (given, eh) => {
    const own = referencePotential(ref(given, 'reference'), at(given))
    const other = referencePotential(ref(given, 'other'), at(given))
    return [
      'Eh = reading + potential of the reference electrode',
      `${show(eh, one)} = ${show(eh - own, one)} + ${show(own, one)} mV at ${show(at(given), one)} °C`,
      `${show(eh - other, one)} = ${show(eh, one)} − ${show(other, one)} mV`,
    ]
  },
  source: 'U.S. Geological Survey, National Field Manual A6.5 (2002), half-cell potentials',
  range: '10 to 40 °C.',
  curve: (given) => ({
    xLabel: '°C',
    yLabel: 'mV, your reference',
    points: trace(10, 40, (t) => referencePotential(ref(given, 'reference'), t), 30),
    at: [at(given), referencePotential(ref(given, 'reference'), at(given))],
  }),
}

const code = (given: Given) => given.choice<OrpStandardCode>('standard')

const STANDARD: Sheet = {
  id: 'orp-standard',
  group: 'ORP',
  title: 'ORP standards',
  question: 'What should your ORP sensor read in this standard?',
  given: [
    {
      kind: 'choice',
      id: 'standard',
      label: 'Standard',
      options: ORP_STANDARDS.map((s) => ({ value: s.code, label: s.label })),
      initial: 'zobell',
    },
    referenceChoice('reference', 'Your sensor’s reference', 'agcl-3M'),
    temperatureField(22),
  ],
  linked: [],
  outputs: [
    {
      id: 'reading',
      label: 'It should read',
      unit: 'mV',
      decimals: 0,
      of: (given) => orpStandardReading(code(given), ref(given, 'reference'), at(given)),
      uncertainty: (_, given) => Math.hypot(orpStandard(code(given)).uncertainty, REFERENCE_UNCERTAINTY),
    },
    {
      id: 'eh',
      label: 'Eh, against hydrogen',
      unit: 'mV',
      decimals: 0,
      of: (given) => orpStandardEh(code(given), at(given)),
    },
  ],
  working: (given) => [
    'reading = Eh of the standard − potential of the reference electrode',
    `${show(orpStandardReading(code(given), ref(given, 'reference'), at(given)), one)} = ${show(orpStandardEh(code(given), at(given)), one)} − ${show(referencePotential(ref(given, 'reference'), at(given)), one)} mV`,
  ],
  remarks: (given) => [orpStandard(code(given)).caution, `Value from: ${orpStandard(code(given)).source}.`],
  source: 'The standard’s own source, named above; references after the USGS National Field Manual A6.5',
  range: '10 to 40 °C, or the standard’s own shorter range.',
  curve: (given) => ({
    xLabel: '°C',
    yLabel: 'mV to read',
    points: trace(10, 40, (t) => orpStandardReading(code(given), ref(given, 'reference'), t), 30),
    at: [at(given), orpStandardReading(code(given), ref(given, 'reference'), at(given))],
  }),
}

export const ORP_SHEETS: readonly Sheet[] = [EH, STANDARD]
