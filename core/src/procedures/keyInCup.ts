import type { Finding } from '../calibration/finding.ts'
import type { ProposedDecision } from '../judgement/decision.ts'
import type { CapturedReading } from '../measurement/capturedReading.ts'
import { nullIfOutOfRange } from '../quantities/outOfRange.ts'
import { say } from '../quantities/sentence.ts'
import { errorInStandard } from './assess.ts'
import type { Figure, Procedure, VisitState } from './procedure.ts'
import type { Step } from './step.ts'
import { foundStandard, verdict } from './steps.ts'
import { errorQuantity, standardLabel } from './words.ts'

/** What all devices have in common that calibrate themselves by a key in each cup. */

const ORDINALS = ['first', 'second', 'third', 'fourth'] as const
export const foundKey = (i: number) => (i === 0 ? 'found-standard' : `found-${ORDINALS[i]}`)
export const keyStep = (i: number) => `key-${i + 1}`
export const leftKey = (i: number) => `left-${i + 1}`

/** The key pressed for the zero. */
export const ZERO_KEY = 'key-zero'

/** What the device said of its own calibration. */
export const SAID = [
  { value: 'good', label: 'good' },
  { value: 'bad', label: 'bad, or an error' },
  { value: 'nothing', label: 'nothing' },
] as const

export const foundIn = (e: VisitState, role: string, i: number): Step => ({
  ...foundStandard(e, role),
  key: foundKey(i),
  ...(i > 0 ? { hint: `Still not cleaned, and no key pressed yet. ${e.kind.words.immerse}` } : {}),
})

export const foundVerdict = (roles: readonly string[]): Step =>
  verdict(
    roles.map((_, i) => foundKey(i)),
    'What it is as found',
  )

export const leftIn = (e: VisitState, role: string, i: number, keys: readonly string[]): Step => ({
  ...foundStandard(e, role),
  key: leftKey(i),
  short: `As left, ${standardLabel(e, role)}`,
  title: `Rinse, and back into ${standardLabel(e, role)}`,
  hint: 'A fresh pouring. What it shows now is as left.',
  usualSkips: ['No standard left', 'No time'],
  after: keys,
})

/** How far the display is off in a cup, in the unit of errors. */
export interface CupError {
  label: string
  error: number
  /** The value of the standard, core unit. */
  right: number
  uncertainty: number
}

/** The errors in the cups that were read, in the order of their standards. */
export function errorsInCups(e: VisitState, readings: readonly (CapturedReading | null)[]): CupError[] {
  const now = e.applied?.characteristic ?? e.setup.activeCalibration
  return readings.flatMap((reading) => {
    if (!reading?.standard) return []
    const { code } = reading.standard
    const role = Object.entries(e.setup.standards).find(([, s]) => s.code === code)?.[0]
    const error = nullIfOutOfRange(() => errorInStandard(e, reading, now))
    return error && role ? [{ label: standardLabel(e, role), ...error }] : []
  })
}

/** The error in the standard that is nearest to the water: what is left there. */
export function nearestToProcess(e: VisitState, errors: readonly CupError[]): CupError | undefined {
  const far = ({ right }: CupError) => e.model.distance(right, e.setup.processValue)
  return [...errors].sort((a, b) => far(a) - far(b))[0]
}

export const leftFigures = (e: VisitState, left: readonly CupError[]): Figure[] =>
  left.map(({ label, error, uncertainty }) => ({
    label: `As left in ${label}`,
    value: errorQuantity(e, error),
    note: say`± ${errorQuantity(e, uncertainty, false)}`,
  }))

/** Off by more than this share of the tolerance right after its own calibration is not left so (common practice, no source). */
const LEFT_SHARE = 0.5

/** Whether what the device made by itself can stay. */
export function keptWithin(e: VisitState, left: readonly CupError[]): ProposedDecision {
  const worst = [...left].sort((a, b) => Math.abs(b.error) - Math.abs(a.error))[0]
  if (!worst) return { decision: 'leave-alone', reason: 'It calibrated itself; what it shows since was not read.' }
  if (Math.abs(worst.error) > LEFT_SHARE * e.setup.tolerance) {
    return {
      decision: 'repeat',
      reason: say`Right after its own calibration it is off by ${errorQuantity(e, worst.error)} in ${worst.label}. Rinse, take fresh standards, and press the keys again.`,
    }
  }
  return {
    decision: 'leave-alone',
    reason: say`It calibrated itself and is off by ${errorQuantity(e, worst.error)} at most; your limit is ${errorQuantity(e, e.setup.tolerance, false)}.`,
  }
}

/** The device called its own calibration bad. */
export function findingOfRefusal(e: VisitState, base: Procedure): Finding[] {
  const pressed = [
    { key: ZERO_KEY, where: 'dry air' },
    ...base.roles.map(({ role }, i) => ({ key: keyStep(i), where: standardLabel(e, role) })),
  ]
  return pressed
    .filter(({ key }) => e.forms[key]?.values.said === 'bad')
    .map(({ where }) => ({
      code: 'device-refused',
      severity: 'stop',
      sentence: `The device called its own calibration in ${where} bad.`,
      advice:
        'It may still compute with what it had before. Clean the sensor, take a fresh pouring, and press the key again.',
      numbers: {},
    }))
}
