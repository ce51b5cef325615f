import { judgeTolerance } from '../judgement/decision.ts'
import { say } from '../quantities/sentence.ts'
import { TYPED_APART } from '../stability/typedOpinion.ts'
import { findingsOfReadings, pointReading, repeatsApart } from './assess.ts'
import {
  type CupError,
  errorsInCups,
  findingOfRefusal,
  foundKey,
  keptWithin,
  keyStep,
  leftFigures,
  leftIn,
  leftKey,
  nearestToProcess,
  SAID,
} from './keyInCup.ts'
import type { Assessment, Observation, Procedure, VisitState } from './procedure.ts'
import type { Step } from './step.ts'
import { back, clean, release, result } from './steps.ts'
import { errorQuantity, standardLabel } from './words.ts'

/**
 * Devices that show a word or a bare count while they calibrate: what they showed is noted, the value is read before and
 * afterwards, and nothing is concluded of the sensor from what lies between.
 */

/** Whether the device says nothing that could be computed with while its key works. */
export const saysOnlyAWord = ({ setup }: VisitState) => setup.whileCalibrating === 'word'

/** From the cleaning on: in each cup until the display stands still, the key, and what it showed; then the values. */
export function wordSteps(
  e: VisitState,
  roles: readonly string[],
  { fresh, zeroed }: { fresh: boolean; zeroed: readonly Step[] },
): Step[] {
  const last = roles.length - 1
  const keys = roles.map((_, i) => keyStep(i))
  const inCup = roles.flatMap((role, i): Step[] => {
    const first = zeroed.at(-1)?.key ?? (fresh ? null : 'clean')
    const before = i > 0 ? [keyStep(i - 1)] : first ? [first] : []
    return [stillIn(e, role, i, before), wordIn(e, role, i, before)]
  })
  // The sensor stands in the last cup, so that one is read first.
  const order = [last, ...roles.map((_, i) => i).filter((i) => i !== last)]
  return [
    ...(fresh ? [] : [clean(e)]),
    ...zeroed,
    ...inCup,
    ...order.map((i): Step => {
      const step = leftIn(e, roles[i] as string, i, keys)
      return i === last
        ? { ...step, title: `Leave it in ${standardLabel(e, roles[i] as string)}: what does it show?` }
        : step
    }),
    result([...keys, ...order.map(leftKey)], 'What its own calibration came to', 'still-1'),
    back(),
    release(),
  ]
}

const stillIn = (e: VisitState, role: string, i: number, after: readonly string[]): Step => ({
  key: `still-${i + 1}`,
  kind: 'wait',
  short: `Still in ${standardLabel(e, role)}`,
  title: `Rinse, into ${standardLabel(e, role)}, and start ${e.setup.calibrationKey}`,
  hint: 'Press here as soon as what it shows has stopped changing: a word, or a count. The seconds are counted for you.',
  main: 'It stands still',
  usualSkips: ['The device waits by itself'],
  after,
  minutes: TYPED_APART / 60,
  goesOn: true,
})

const wordIn = (e: VisitState, role: string, i: number, before: readonly string[]): Step => ({
  key: keyStep(i),
  kind: 'form',
  short: `${e.setup.calibrationKey} in ${standardLabel(e, role)}`,
  title: `Confirm with ${e.setup.calibrationKey}, and leave it in until the device is done`,
  hint: 'Note what it showed as it stood still. It is kept as it is, and nothing is computed from it.',
  main: 'Confirm key',
  usualSkips: [],
  after: [...before, `still-${i + 1}`],
  role,
  medium: 'standard',
  fields: [
    { key: 'word', label: 'It showed', kind: 'text', hint: 'The word or the count' },
    { key: 'said', label: 'And says', kind: 'choice', choices: SAID, usual: 'nothing' },
  ],
})

const errorsFound = (e: VisitState, base: Procedure): CupError[] =>
  errorsInCups(
    e,
    base.roles.map((_, i) => pointReading(e, foundKey(i))),
  )

const errorsLeft = (e: VisitState, base: Procedure): CupError[] =>
  errorsInCups(
    e,
    base.roles.map((_, i) => pointReading(e, leftKey(i))),
  )

/** Its errors as found, and whether the key is worth pressing. */
export function judgeFoundByWord(e: VisitState, base: Procedure): Assessment | null {
  const found = errorsFound(e, base)
  const near = nearestToProcess(e, found)
  if (!near) return null
  const { tolerance } = e.setup
  const out = found.find((f) => judgeTolerance(f.error, f.uncertainty, tolerance) !== 'in')
  const findings = findingsOfReadings(
    e,
    base.roles.map((_, i) => foundKey(i)),
  )
  return {
    ...nothingOfTheSensor(near),
    figures: found.map(({ label, error, uncertainty }) => ({
      label: `As found in ${label}`,
      value: errorQuantity(e, error),
      note: say`± ${errorQuantity(e, uncertainty, false)}, limit ± ${errorQuantity(e, tolerance, false)}`,
    })),
    findings,
    proposal:
      repeatsApart(findings) ??
      (out
        ? {
            decision: 'adjust',
            reason: say`It is off by ${errorQuantity(e, out.error)} in ${out.label}; your limit is ${errorQuantity(e, tolerance, false)}.`,
          }
        : {
            decision: 'leave-alone',
            reason: say`It is within your limit of ${errorQuantity(e, tolerance, false)} in each cup.`,
          }),
    choices: ['leave-alone', 'adjust', 'repeat', 'replace'],
    asFoundError: near.error,
  }
}

/** Its errors after the keys. */
export function judgeLeftByWord(e: VisitState, base: Procedure): Assessment | null {
  if (!keysPressed(e, base)) return null
  const left = errorsLeft(e, base)
  const refused = findingOfRefusal(e, base)
  const found = nearestToProcess(e, errorsFound(e, base))
  return {
    ...nothingOfTheSensor(nearestToProcess(e, left)),
    figures: leftFigures(e, left),
    findings: [
      ...refused,
      ...findingsOfReadings(
        e,
        base.roles.map((_, i) => leftKey(i)),
      ),
    ],
    proposal: refused[0]
      ? { decision: 'repeat', reason: say`${refused[0].sentence} ${refused[0].advice}` }
      : keptWithin(e, left),
    choices: ['leave-alone', 'repeat', 'clean-and-recheck', 'replace'],
    names: { 'leave-alone': 'Keep it so' },
    asFoundError: found?.error ?? null,
  }
}

const nothingOfTheSensor = (near: CupError | undefined) => ({
  found: null,
  errorNow: near?.error ?? null,
  uncertainty: near?.uncertainty ?? null,
  fouling: null,
})

const keysPressed = (e: VisitState, base: Procedure) => base.roles.every((_, i) => e.forms[keyStep(i)])

/** What the sensor's record gets: errors that were read, and no number of the sensor itself. */
export function observeByWord(e: VisitState, base: Procedure): Observation | null {
  const found = nearestToProcess(e, errorsFound(e, base))
  const adjusted = keysPressed(e, base) && findingOfRefusal(e, base).length === 0
  const left = adjusted ? nearestToProcess(e, errorsLeft(e, base)) : found
  const known = left ?? found
  if (!known && !adjusted) return null
  return {
    asFound: found?.error ?? null,
    asLeft: left?.error ?? 0,
    verified: left !== undefined,
    uncertainty: known?.uncertainty ?? e.setup.tolerance / 2,
    fouling: null,
    adjusted,
  }
}
