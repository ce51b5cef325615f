import type { Procedure } from './procedure.ts'
import type { FieldSpec, Step } from './step.ts'
import { hold } from './steps.ts'

/** Why a sensor ends; the diagnosis is later measured against what is entered here. */
export const RETIREMENT_CAUSES = [
  { value: 'electrolyte-used-up', label: 'Electrolyte used up' },
  { value: 'electrolyte-contaminated', label: 'Electrolyte contaminated' },
  { value: 'junction-blocked', label: 'Junction blocked' },
  { value: 'glass-aged', label: 'Glass aged' },
  { value: 'glass-coated', label: 'Coated, not to be cleaned' },
  { value: 'glass-cracked', label: 'Cracked or broken' },
  { value: 'dried-out', label: 'Dried out' },
  { value: 'tip-spent', label: 'Ion tip spent' },
  { value: 'cell-fouled', label: 'Cell fouled' },
  { value: 'cable-or-connector', label: 'Cable or connector' },
  { value: 'by-date', label: 'Changed by date' },
  { value: 'unknown', label: 'Not known' },
] as const

const CAUSE: FieldSpec = {
  key: 'cause',
  label: 'Why does it end?',
  kind: 'choice',
  choices: RETIREMENT_CAUSES,
}

export const RETIRE: Procedure = {
  id: 'retire',
  name: 'Retire it',
  summary: 'It comes out for good, with a cause. Its record stays; the position waits for the next one.',
  needs: 'Waste bag',
  pours: {},
  roles: [],
  version: 1,
  handsOnMinutes: 4,
  steps: (e) => [
    hold(e),
    {
      key: 'cause',
      kind: 'form',
      short: 'Why',
      title: 'Why is it retired?',
      hint: 'Honest causes make the next forecast better. "Not known" is an answer too.',
      main: 'Save cause',
      usualSkips: [],
      after: [],
      fields: [CAUSE, { key: 'note', label: 'What was seen', kind: 'text', optional: true }],
    },
    {
      key: 'remove',
      kind: 'confirm',
      short: 'Taken out',
      title: 'Take it out, and close the opening',
      hint: 'The position has no sensor from now on; whatever follows it stays on hold.',
      main: 'Retire sensor',
      usualSkips: [],
      after: ['cause'],
      hazards: ['glass', 'mercury'],
    },
  ],
  judge: () => null,
  observe: () => null,
}

const SERIAL_FIELDS: readonly FieldSpec[] = [
  { key: 'serial', label: 'Serial number', kind: 'text', optional: true },
  { key: 'model', label: 'Model', kind: 'text', optional: true },
]

/** What is asked before a commissioning; the cause only where one is in place now. */
export const commissioningFields = (occupied: boolean): readonly FieldSpec[] =>
  occupied ? [...SERIAL_FIELDS, { ...CAUSE, label: 'Why does the old one end?' }] : SERIAL_FIELDS

/** There is nothing on a new sensor to be cleaned off. */
const rinseNew = (clean: Step): Step => ({
  ...clean,
  short: 'Rinse',
  title: 'Rinse it with pure water',
  hint: 'Only what it was stored in comes off; no cleaner and no brush on a new one. Blot, never wipe.',
  main: 'Confirm rinse',
  usualSkips: ['Rinsed already'],
  hazards: [],
})

/**
 * The first calibration of a new sensor: as the calibration it wraps, without anything as found, after its kind's rest
 * (common practice, no source).
 * @param test the step as found in which a sensor that is never adjusted is tested
 */
export function commissioning(base: Procedure, test: string | null = null): Procedure {
  return {
    ...base,
    id: `commission-${base.id}`,
    ...(base.replaces ? { replaces: `commission-${base.replaces}` } : {}),
    name: 'Commission a new one',
    summary: test
      ? 'A new or replaced sensor that is never adjusted: rinse it, then test it.'
      : 'A new or replaced sensor: rest it, then its first calibration becomes the baseline.',
    baseline: true,
    steps: (e) => {
      const { rest } = e.kind
      const first: Step[] = [
        {
          key: 'mount',
          kind: 'confirm',
          short: 'Unpack and look',
          title: 'Unpack it, take the cap off, and look at it',
          hint: 'No crack, no dried salt in the junction, no bubble behind the glass: shake it down like a fever thermometer.',
          main: 'Confirm condition',
          usualSkips: [],
          after: [],
          hazards: ['glass'],
        },
        ...(rest
          ? [
              {
                key: 'rest',
                kind: 'wait' as const,
                short: 'Rest',
                title: rest.title,
                hint: `${rest.hint} Go on with something else; the time runs in every room.`,
                main: 'Start rest',
                usualSkips: ['It rested already'],
                after: [],
                minutes: rest.minutes,
              },
            ]
          : []),
      ]
      const steps = base
        .steps(e)
        .filter((s) => s.key === test || !s.key.startsWith('found-'))
        .map((s) => (s.key === test ? { ...s, short: 'Test', usualSkips: [] } : s))
        .map((s) => (s.key === 'clean' ? rinseNew(s) : s))
      // The outputs are held before anything is taken out of its box.
      const isHold = (s: Step) => s.key === 'hold'
      return [...steps.filter(isHold), ...first, ...steps.filter((s) => !isHold(s))]
    },
    observe: (e) => {
      const seen = base.observe(e)
      // Nothing is known of the time before: its own errors begin with this calibration.
      if (!seen) return null
      const left = e.applied || test ? { asLeft: seen.asLeft, verified: seen.verified } : { asLeft: 0, verified: false }
      return { ...seen, ...left, asFound: null, fouling: null, adjusted: true }
    },
  }
}
