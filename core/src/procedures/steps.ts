import type { Hazard } from '../standards/hazards.ts'
import { VERIFY_KEYS } from './assess.ts'
import type { VisitState } from './procedure.ts'
import type { Step } from './step.ts'
import { standardLabel, standardOfVisit } from './words.ts'
import { rinseWords, stirWords } from './workingPractices.ts'

/**
 * The steps that procedures share. Each takes the evidence, so that its words follow the site's schools and the
 * standards chosen; a procedure puts them in its order and adds its own.
 */

const CAPTURE = 'Capture reading'

/** What a step in the standard of a role can do to the person who does it. */
function hazardsOf(evidence: VisitState, role: string): Hazard[] {
  const glass: Hazard[] = evidence.kind.fragile ? ['glass'] : []
  const code = evidence.setup.standards[role]?.code
  const hazard = code ? standardOfVisit(evidence, code).hazard : undefined
  return hazard ? [...glass, hazard] : glass
}

const sensor = (e: VisitState) => e.kind.words.sensor

export const hold = (e: VisitState): Step => ({
  key: 'hold',
  kind: 'confirm',
  short: 'Hold outputs',
  title: 'Put outputs on hold and dosing off',
  hint: e.setup.holds
    ? `A ${sensor(e)} in a standard would make the doser act. The outputs of the device are held over its line when you go on; whatever doses otherwise is still yours to stop.`
    : `A ${sensor(e)} in a standard would make the doser act. Do it at the controller before it leaves the water.`,
  main: 'Confirm hold',
  usualSkips: ['Nothing follows this sensor', 'Held already'],
  after: [],
  hazards: ['mains'],
})

/** Only where the site works at the water's temperature. */
export const float = (e: VisitState): Step[] =>
  e.setup.practices.temperature === 'process'
    ? [
        {
          key: 'float',
          kind: 'wait',
          short: 'Float the bottles',
          title: 'Float the closed bottles in the water',
          hint: 'An hour brings them to its temperature. One float serves all sensors of a trip; do something else meanwhile.',
          main: 'Start float',
          usualSkips: ['They have its temperature', 'I measure the cup with a thermometer'],
          after: [],
          minutes: 60,
          shared: true,
        },
      ]
    : []

export const foundProcess = (e: VisitState): Step => ({
  key: 'found-process',
  kind: 'capture',
  medium: 'process',
  short: 'As found, process',
  title: `Leave the ${sensor(e)} in the process and read it as found`,
  hint: 'Do not clean it yet: this is the only proof of how wrong the data have been.',
  main: CAPTURE,
  usualSkips: ['It was out of the water already', 'No flow'],
  after: [],
})

export const foundStandard = (e: VisitState, role: string): Step => ({
  key: 'found-standard',
  kind: 'capture',
  medium: 'standard',
  role,
  short: `As found, ${standardLabel(e, role)}`,
  title: `Rinse, ${e.setup.practices.dry === 'blot' ? 'blot' : 'shake'}, and into fresh ${standardLabel(e, role)}`,
  hint: `Still not cleaned. ${e.kind.words.immerse} ${stirWords(e.setup.practices)}`,
  main: CAPTURE,
  usualSkips: ['Only one pouring left', 'Cleaned already'],
  after: [],
  hazards: hazardsOf(e, role),
})

export const verdict = (after: readonly string[], title = 'What the check says'): Step => ({
  key: 'verdict',
  kind: 'verdict',
  short: 'What it means',
  title,
  hint: '',
  main: '',
  usualSkips: [],
  after,
  ...(after[0] ? { repeatFrom: after[0] } : {}),
})

export const clean = (e: VisitState, key = 'clean', after: readonly string[] = []): Step => ({
  key,
  kind: 'confirm',
  short: 'Clean and rinse',
  ...e.kind.words.clean,
  main: 'Confirm cleaning',
  usualSkips: ['It is clean', 'Cleaned at the last visit'],
  after,
  hazards: ['cleaner'],
})

/** Only after somebody decided to condition it. */
export const soak = (e: VisitState, minutes: number): Step[] =>
  (e.asked.condition ?? 0) > 0
    ? [
        {
          key: 'soak',
          kind: 'wait',
          short: 'Soak',
          title: `Leave the ${sensor(e)} in its storage solution`,
          hint: 'KCl storage solution or the low standard, never pure water. Go on with something else; the time runs in every room.',
          main: 'Start soak',
          usualSkips: ['It soaked already'],
          after: [],
          minutes,
        },
      ]
    : []

const rinse = (e: VisitState, role: string, number: number, after: readonly string[] = ['clean']): Step => ({
  key: `rinse-${number}`,
  kind: 'confirm',
  short: 'Rinse',
  title: `Rinse well before ${standardLabel(e, role)}`,
  hint: `${rinseWords(e.setup.practices)} A few drops carried over move the next standard. Never pour used standard back.`,
  main: 'Confirm rinse',
  usualSkips: ['Rinsed already'],
  after,
})

export const point = (e: VisitState, role: string, number: number, after: readonly string[]): Step => ({
  key: `point-${number}`,
  kind: 'capture',
  medium: 'standard',
  role,
  // What the sensor is adjusted to must not go on moving.
  waitsFor: 'rest',
  short: standardLabel(e, role),
  title: `Into ${standardLabel(e, role)}`,
  hint: `${e.kind.words.immerse} ${stirWords(e.setup.practices)}`,
  main: CAPTURE,
  usualSkips: [],
  after,
  hazards: hazardsOf(e, role),
})

/** Rinse and point for each role, in order; the first needs no rinse of its own, the cleaning was one. */
export function points(e: VisitState, roles: readonly string[]): Step[] {
  return roles.flatMap((role, i) =>
    i === 0
      ? [point(e, role, 1, ['clean'])]
      : [rinse(e, role, i + 1), point(e, role, i + 1, ['clean', `rinse-${i + 1}`])],
  )
}

export const result = (after: readonly string[], title: string, repeatFrom: string): Step => ({
  key: 'result',
  kind: 'result',
  short: 'Result',
  title,
  hint: '',
  main: '',
  usualSkips: [],
  after,
  repeatFrom,
  cleanFrom: 'clean',
  conditionFrom: 'soak',
})

/** Whether the open result was decided to be given to the device; null before the decision. */
export function adjusts(e: VisitState, step = 'result'): boolean | null {
  const decision = e.decisions[step]
  return decision ? decision.decision === 'adjust' : null
}

export const apply = (e: VisitState): Step => ({
  key: 'apply',
  kind: 'apply',
  short: 'Apply',
  title: e.setup.writable ? 'Write the numbers to the device' : 'Key the numbers in on the device',
  hint: e.setup.writable ? 'The device uses it from then on.' : 'Then read what it shows and type it here.',
  main: e.setup.writable ? 'Write to the device' : 'Confirm entry',
  usualSkips: ['Device locked, will be keyed in later'],
  after: ['result'],
})

const verify = (e: VisitState, role: string, i: number): Step => ({
  key: VERIFY_KEYS[i] as string,
  kind: 'capture',
  medium: 'standard',
  role,
  short: `Verify in ${standardLabel(e, role)}`,
  title: `Rinse, and back into ${standardLabel(e, role)} to verify`,
  hint: 'What it shows now is the as-left reading.',
  main: CAPTURE,
  usualSkips: ['No standard left', 'No time'],
  after: ['apply'],
})

export const back = (): Step => ({
  key: 'back',
  kind: 'capture',
  medium: 'process',
  short: 'Back into the process',
  title: 'Rinse, and back into the process',
  hint: 'Hand-tight is tight enough. Compare with the reading before: a jump is a question to answer before you leave.',
  main: CAPTURE,
  usualSkips: ['It stays in storage', 'Flow is off'],
  after: ['result'],
})

export const release = (): Step => ({
  key: 'release',
  kind: 'confirm',
  short: 'Release hold',
  title: 'Release the hold and put dosing back on',
  hint: 'Look at the reading once more first; outputs that are held over the line are let go as you finish. Pour the used standard away as its sheet says.',
  main: 'Finish visit',
  usualSkips: [],
  after: ['result'],
})

/**
 * The end of a check after which nothing is changed. Without a line it is not read once more in the process: nothing
 * was done that could show there.
 */
export const leaving = (e: VisitState, after: readonly string[]): Step[] =>
  [...(e.setup.linked ? [back()] : []), release()].map((s) => ({ ...s, after }))

/** Where the site verifies, of the standards of the points in their order. */
function verifyRoles({ setup }: VisitState, roles: readonly string[]): readonly string[] {
  if (setup.practices.verify === 'both') return roles
  return setup.practices.verify === 'last' ? roles.slice(-1) : roles.slice(0, 1)
}

/** What follows a result: apply and verify unless it is left alone, then back and release. */
export function afterResult(e: VisitState, roles: readonly string[]): Step[] {
  const giving = adjusts(e) !== false
  const given = giving ? [apply(e), ...verifyRoles(e, roles).map((role, i) => verify(e, role, i))] : []
  return [...given, back(), release()]
}

/** Whether a check went on to a calibration. */
export const wentOn = (e: VisitState) => e.decisions.verdict?.decision === 'adjust'
