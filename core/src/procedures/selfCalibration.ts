import type { Finding } from '../calibration/finding.ts'
import type { CapturedReading } from '../measurement/capturedReading.ts'
import { nullIfOutOfRange } from '../quantities/outOfRange.ts'
import { say } from '../quantities/sentence.ts'
import { expectedShown, isDone, pointReading } from './assess.ts'
import {
  errorsInCups,
  findingOfRefusal,
  foundIn,
  foundKey,
  foundVerdict,
  keptWithin,
  keyStep,
  leftFigures,
  leftIn,
  leftKey,
  nearestToProcess,
  SAID,
  ZERO_KEY,
} from './keyInCup.ts'
import type { Assessment, Figure, Observation, Procedure, VisitState } from './procedure.ts'
import { judgeFoundByWord, judgeLeftByWord, observeByWord, saysOnlyAWord, wordSteps } from './selfCalibrationByWord.ts'
import type { Step } from './step.ts'
import { back, clean, float, foundProcess, hold, leaving, point, release, result, wentOn } from './steps.ts'
import { errorQuantity, shownQuantity, standardLabel } from './words.ts'

/**
 * Devices that calibrate themselves: a key is pressed in each cup, and what they compute stays inside. What is known of the
 * sensor comes from the chain of displays: what it showed before the key, worked back through what the device computed
 * with then, is what the device computes with after it.
 */

const pointKey = (i: number) => `point-${i + 1}`

interface ByKey {
  /** A new sensor has nothing to be found. */
  fresh?: boolean
  /** What comes between cleaning and the cups where the key takes a zero too; it ends with the reading of the zero. */
  zero?: (e: VisitState) => readonly Step[]
  /** The procedure by which the cups are judged, where that is another one: a zero that the device keeps to itself is none. */
  judgedBy?: Procedure
}

/** The same calibration on a device that does it by its own key. */
export function selfCalibrating(base: Procedure, { fresh = false, zero, judgedBy = base }: ByKey = {}): Procedure {
  const roles = base.roles.map((r) => r.role)
  const cups = roles.length + (fresh ? 1 : 2)
  const keyed = (e: VisitState) => selfSteps(e, roles, { fresh, zero: zero?.(e) ?? [] })
  return {
    ...base,
    id: `self-${base.id}`,
    name: `${base.name}, by its own key`,
    summary: zero
      ? 'The device calibrates itself: as found, its key in dry air for the zero, and in the cup.'
      : 'The device calibrates itself: as found in each cup, its key in each, as left in each.',
    needs: zero ? base.needs : `${cups} cups`,
    pours: Object.fromEntries(roles.map((role) => [role, fresh ? 2 : 3])),
    version: 1,
    suits: (setup) => setup.adjustsBy === 'key' && (base.suits?.(setup) ?? true),
    replaces: base.id,
    steps: (e) => [
      hold(e),
      ...float(e),
      ...(fresh
        ? []
        : [
            ...(e.kind.inPlace?.(e) ?? []),
            foundProcess(e),
            ...roles.map((role, i) => foundIn(e, role, i)),
            foundVerdict(roles),
          ]),
      ...(fresh || wentOn(e) ? keyed(e) : leaving(e, ['verdict'])),
    ],
    judge: (e, step) => (step === 'verdict' ? judgeFound(e, judgedBy) : judgeSelf(e, judgedBy)),
    observe: (e) => observeSelf(e, judgedBy),
  }
}

/** The key in each cup, and what it shows then: from the cleaning on. */
export function selfSteps(
  e: VisitState,
  roles: readonly string[],
  { fresh = false, zero = [] }: { fresh?: boolean; zero?: readonly Step[] } = {},
): Step[] {
  const zeroed = zero.length > 0 ? [...zero, pressZero(e, zero.at(-1)?.key ?? '')] : []
  if (saysOnlyAWord(e)) return wordSteps(e, roles, { fresh, zeroed })
  const cleaned = fresh || isDone(e, 'clean')
  const first = zeroed.at(-1)?.key ?? 'clean'
  const keys = roles.map((_, i) => keyStep(i))
  const inCup = roles.flatMap((role, i): Step[] => {
    const before = i > 0 ? [keyStep(i - 1)] : fresh && zeroed.length === 0 ? [] : [first]
    // What was found stands as long as nothing was done to the sensor since.
    const again = cleaned || e.readings[foundKey(i)] === undefined
    const own = again ? [{ ...point(e, role, i + 1, before), title: `Rinse, and into ${standardLabel(e, role)}` }] : []
    return [
      ...own,
      pressKey(e, role, i, { again, last: i === roles.length - 1, after: [...before, ...own.map((s) => s.key)] }),
    ]
  })
  return [
    ...(fresh ? [] : [clean(e)]),
    ...zeroed,
    ...inCup,
    ...roles.slice(0, -1).map((role, i) => leftIn(e, role, i, keys)),
    result(
      [...keys, ...roles.slice(0, -1).map((_, i) => leftKey(i))],
      'What its own calibration came to',
      inCup[0]?.key ?? '',
    ),
    back(),
    release(),
  ]
}

/** The key for the zero, in dry air. */
function pressZero(e: VisitState, after: string): Step {
  const name = e.setup.calibrationKey
  const { unit, decimals } = e.model.shownScale(e.setup.device)
  const { low, high } = e.model.shownRange(e.setup.device)
  return {
    key: ZERO_KEY,
    kind: 'form',
    short: `${name} in air`,
    title: `Still dry in air: press ${name} for the zero`,
    hint: 'Hold it in air until the device is done, then note what it shows there.',
    main: 'Confirm key',
    usualSkips: ['The device takes no zero'],
    after: [after],
    medium: 'air',
    fields: [
      saysOnlyAWord(e)
        ? { key: 'word', label: 'It showed', kind: 'text' }
        : { key: 'shown', label: 'It shows then', kind: 'number', unit, decimals, low, high, live: true },
      { key: 'said', label: 'And says', kind: 'choice', choices: SAID, usual: 'nothing' },
    ],
  }
}

function pressKey(
  e: VisitState,
  role: string,
  i: number,
  { again, last, after }: { again: boolean; last: boolean; after: readonly string[] },
): Step {
  const name = e.setup.calibrationKey
  const label = standardLabel(e, role)
  const { unit, decimals } = e.model.shownScale(e.setup.device)
  const { low, high } = e.model.shownRange(e.setup.device)
  return {
    key: keyStep(i),
    kind: 'form',
    short: `${name} in ${label}`,
    title: again
      ? `It stands still: press ${name} now`
      : `Rinse, into ${label}; press ${name} once it has stood still for 15 s`,
    hint: `Leave it in the cup until the device is done, then type what it shows there.`,
    main: 'Confirm key',
    usualSkips: [],
    after,
    role,
    medium: 'standard',
    ...(last ? { calibrates: true } : {}),
    ...(again ? { joins: pointKey(i) } : {}),
    fields: [
      // In the last cup it is the reading as left; the others are read again at the end.
      { key: 'shown', label: 'It shows then', kind: 'number', unit, decimals, low, high, live: true, optional: !last },
      { key: 'said', label: 'And says', kind: 'choice', choices: SAID, usual: 'nothing' },
    ],
  }
}

/** The visit as the calibration by numbers sees it: its points are what was shown before the keys. */
function asPoints(e: VisitState, base: Procedure, found: boolean): VisitState {
  const readings: Record<string, CapturedReading> = {}
  const counting: Record<string, readonly CapturedReading[]> = {}
  base.roles.forEach((_, i) => {
    const own = found || !e.readings[pointKey(i)] ? foundKey(i) : pointKey(i)
    const [reading, several] = [e.readings[own], e.counting[own]]
    if (reading) readings[pointKey(i)] = reading
    if (several) counting[pointKey(i)] = several
  })
  const first = e.readings[foundKey(0)]
  // Only what was cleaned in between tells what the dirt was.
  if (!found && first && e.readings[pointKey(0)]) readings[foundKey(0)] = first
  return { ...e, readings, counting }
}

function judgeFound(e: VisitState, base: Procedure): Assessment | null {
  if (saysOnlyAWord(e)) return judgeFoundByWord(e, base)
  const judged = base.judge(asPoints(e, base, true), 'result')
  if (!judged) return null
  const { decision, reason } = judged.proposal
  const goesOn = decision !== 'leave-alone' && decision !== 'replace' && decision !== 'repeat'
  return {
    ...judged,
    figures: [...sensorFigures(judged), foundFigure(e, judged)],
    proposal: { decision: goesOn ? 'adjust' : decision, reason },
    choices: ['leave-alone', 'adjust', 'repeat', 'replace'],
  }
}

/** What the points say of the sensor, without the errors of a device that is given numbers. */
const sensorFigures = ({ figures }: Assessment): Figure[] =>
  figures.filter((f) => !f.label.startsWith('Now, ') && !f.label.startsWith('As found'))

const foundFigure = (e: VisitState, found: Assessment | null): Figure => ({
  label: 'As found, at the process',
  value: found?.errorNow == null ? '–' : errorQuantity(e, found.errorNow),
  note: say`limit ± ${errorQuantity(e, e.setup.tolerance, false)}`,
})

/** How far it is off in each cup after the keys, by what it was seen to show there. */
const leftErrors = (e: VisitState, base: Procedure) =>
  errorsInCups(
    e,
    base.roles.map((_, i) => leftReading(e, i, i === base.roles.length - 1)),
  )

/** In the last cup what it shows after the key is as left: the sensor stands in it. */
function leftReading(e: VisitState, i: number, last: boolean): CapturedReading | null {
  if (!last) return pointReading(e, leftKey(i))
  const before = pointReading(e, pointKey(i)) ?? pointReading(e, foundKey(i))
  const shown = e.forms[keyStep(i)]?.values.shown
  if (!before || typeof shown !== 'number') return null
  const now = e.applied?.characteristic ?? e.setup.activeCalibration
  const signal = nullIfOutOfRange(() => e.model.fromShown(shown, before.temperature, now, e.setup.device))
  return signal === null ? null : { ...before, source: 'display-typed', shown, signal }
}

export function judgeSelf(e: VisitState, base: Procedure): Assessment | null {
  if (saysOnlyAWord(e)) return judgeLeftByWord(e, base)
  const judged = base.judge(asPoints(e, base, false), 'result')
  if (!judged || !base.roles.every((_, i) => e.forms[keyStep(i)])) return null
  const found = base.judge(asPoints(e, base, true), 'result')
  const left = leftErrors(e, base)
  const own = findingsOfKeys(e, base)
  const stop = judged.findings.find((f) => f.severity === 'stop') ?? own.find((f) => f.severity === 'stop')
  return {
    ...judged,
    figures: [...sensorFigures(judged), foundFigure(e, found), ...leftFigures(e, left)],
    findings: [...own, ...judged.findings],
    proposal: stop
      ? { decision: 'repeat', reason: say`${stop.sentence} ${stop.advice}` }
      : judged.proposal.decision === 'replace'
        ? judged.proposal
        : keptWithin(e, left),
    choices: ['leave-alone', 'repeat', 'clean-and-recheck', 'replace'],
    names: { 'leave-alone': 'Keep it so' },
    asFoundError: found?.errorNow ?? null,
    errorNow: nearestToProcess(e, left)?.error ?? judged.errorNow,
    uncertainty: nearestToProcess(e, left)?.uncertainty ?? judged.uncertainty,
  }
}

/** What speaks against a calibration that the device made by itself. */
function findingsOfKeys(e: VisitState, base: Procedure): Finding[] {
  const withoutEffect = base.roles.flatMap(({ role }, i): Finding[] => {
    const { shown } = e.forms[keyStep(i)]?.values ?? {}
    const label = standardLabel(e, role)
    const before = pointReading(e, pointKey(i)) ?? pointReading(e, foundKey(i))
    const right = before && nullIfOutOfRange(() => expectedShown(e, before.standard.value, before.temperature))
    const digit = 10 ** -e.model.shownScale(e.setup.device).decimals
    if (!before || right === null || typeof shown !== 'number' || before.shown !== shown) return []
    if (Math.abs(shown - right) < 1.5 * digit) return []
    return [
      {
        code: 'key-without-effect',
        severity: 'warn',
        sentence: say`In ${label} it shows ${shownQuantity(e, shown)} after the key as before it; ${shownQuantity(e, right)} is right.`,
        advice: 'Was the key held long enough, and the calibration saved?',
        numbers: { shown, right },
      },
    ]
  })
  return [...findingOfRefusal(e, base), ...withoutEffect]
}

export function observeSelf(e: VisitState, base: Procedure): Observation | null {
  if (saysOnlyAWord(e)) return observeByWord(e, base)
  const found = base.judge(asPoints(e, base, true), 'result')
  if (!e.applied) {
    if (!found || found.errorNow === null) return null
    const { errorNow, uncertainty } = found
    return {
      asFound: errorNow,
      asLeft: errorNow,
      verified: true,
      uncertainty: uncertainty ?? e.setup.tolerance / 2,
      fouling: null,
      adjusted: false,
    }
  }
  const judged = judgeSelf(e, base)
  const left = nearestToProcess(e, leftErrors(e, base))
  return {
    asFound: found?.errorNow ?? null,
    asLeft: left?.error ?? 0,
    verified: left !== undefined,
    uncertainty: left?.uncertainty ?? judged?.uncertainty ?? e.setup.tolerance / 2,
    fouling: judged?.fouling ?? null,
    adjusted: true,
  }
}
