import type { FindingCode } from '../calibration/finding.ts'
import type { CapturedReading } from '../measurement/capturedReading.ts'
import type { CalibrationParameters } from '../measurement/measurementModel.ts'
import { MOST_READINGS } from '../measurement/repeatedReadings.ts'
import { judgeStep, shownAfterError } from '../procedures/assess.ts'
import { givenParameters } from '../procedures/pastProcedure.ts'
import type {
  ArithmeticLine,
  Assessment,
  GivenCalibration,
  Observation,
  Procedure,
  StepDecision,
  VisitState,
} from '../procedures/procedure.ts'
import type { Step } from '../procedures/step.ts'
import { displayed, errorQuantity, shownQuantity, signalQuantity } from '../procedures/words.ts'
import { nullIfOutOfRange } from '../quantities/outOfRange.ts'
import type { Quantity, Sentence } from '../quantities/sentence.ts'
import type { Hazard } from '../standards/hazards.ts'
import { arithmeticOf } from './arithmetic.ts'
import type { Progress, StepState } from './visitReducer.ts'

/** A step as it stands on the ladder. */
export interface StepView {
  key: string
  kind: Step['kind']
  short: string
  status: StepState['status']
  reading: CapturedReading | null
  /** What was read, as the ladder shows it. */
  read: Quantity | null
  /** How many readings it is the mean of. */
  count: number
  /** Whether it may be read once more and count together with what was read. */
  repeatable: boolean
  usualSkips: readonly string[]
  reason: string | null
}

/** A number as it is keyed in on the device: rounded to its decimals. */
export interface KeyedParameter {
  key: string
  label: string
  keyed: Quantity
  /** In the unit of the calibration parameters. */
  value: number
}

export interface ResultView extends Omit<Assessment, 'found'> {
  /** What would be given to the device; empty when nothing can be. */
  apply: readonly KeyedParameter[]
}

/** What the Bench shows of a visit, by its record alone. */
export interface BenchView {
  steps: readonly StepView[]
  now: Step | null
  /** Steps that follow the one at hand, as far as they are known. */
  ahead: readonly Step[]
  waiting: Progress['waiting']
  /** Of the open verdict or result. */
  result: ResultView | null
  decided: (StepDecision & { step: string }) | null
  applied: { parameters: Sentence; way: GivenCalibration['way'] } | null
  arithmetic: readonly ArithmeticLine[]
  /** The process before and after, and whether the difference is more than the visit explains. */
  beforeAndAfter: { before: Quantity; after: Quantity; jump: Quantity; odd: boolean } | null
  /** Hazards of the steps before the one at hand, and of that one. */
  hazards: { before: readonly Hazard[]; now: readonly Hazard[] }
  /** Error as found; null where nothing was read before the first change. */
  asFound: Quantity | null
  /** Error as left; null where nothing was read after the last change. */
  asLeft: Quantity | null
}

/** What the Bench shows of a record that was played. */
export function viewOfProgress(procedure: Procedure, progress: Progress): BenchView {
  const { evidence, current, steps } = progress
  const at = current ? steps.findIndex((s) => s.step.key === current.key) : steps.length
  const observed = observationOf(procedure, evidence)
  return {
    steps: steps.map((s) => stepView(evidence, s, mayBeRepeated(progress, s))),
    now: current,
    ahead: steps.slice(at + 1).flatMap(({ step, status }) => (status === 'ahead' ? step : [])),
    waiting: progress.waiting,
    result: current ? resultAt(procedure, progress, current.key) : null,
    decided: lastDecision(evidence),
    applied: evidence.applied && {
      parameters: givenParameters(evidence, evidence.applied.characteristic),
      way: evidence.applied.way,
    },
    arithmetic: arithmeticOf(procedure, evidence, null, null),
    beforeAndAfter: beforeAndAfter(evidence, observed, progress.abandoned !== null),
    hazards: { before: steps.slice(0, at).flatMap((s) => s.step.hazards ?? []), now: current?.hazards ?? [] },
    asFound: observed?.asFound == null ? null : errorQuantity(evidence, observed.asFound),
    asLeft: asLeftOf(evidence, observed),
  }
}

/** Codes of what the result of a visit finds; null when its record does not come to a result. */
export const resultFindings = (procedure: Procedure, state: VisitState): FindingCode[] | null =>
  nullIfOutOfRange(() => procedure.judge(state, 'result'))?.findings.map((f) => f.code) ?? null

/** What the sensor's record gets of a visit; null where its numbers leave their range. */
export const observationOf = (procedure: Procedure, state: VisitState): Observation | null =>
  nullIfOutOfRange(() => procedure.observe(state))

/** The error as left: of the verification, or else of what the display showed with its new numbers; null where neither was read. */
export function asLeftOf(state: VisitState, observed: Observation | null): Quantity | null {
  const error = observed?.verified ? observed.asLeft : shownAfterError(state)
  return error === null || !observed ? null : errorQuantity(state, error)
}

/** Once more is possible until something was decided on it. */
export function mayBeRepeated({ evidence, steps }: Progress, { step, status }: StepState): boolean {
  if (status !== 'done' || !evidence.readings[step.key]?.standard) return false
  // What was found is no longer to be found once the sensor was cleaned.
  const cleaned = steps.some((s) => s.status === 'done' && s.step.key.startsWith('clean'))
  if (cleaned && step.key.startsWith('found')) return false
  const restOnIt = steps.filter((s) => s.step.after.includes(step.key))
  return restOnIt.every((s) => s.status !== 'done') && (evidence.counting[step.key]?.length ?? 0) < MOST_READINGS
}

function stepView(state: VisitState, { step, status, reason }: StepState, repeatable: boolean): StepView {
  const reading = status === 'done' ? (state.readings[step.key] ?? null) : null
  return {
    key: step.key,
    kind: step.kind,
    short: step.short,
    status,
    reading,
    read: reading && readQuantity(state, step.medium === 'process', reading),
    count: reading ? (state.counting[step.key]?.length ?? 1) : 0,
    repeatable,
    usualSkips: step.usualSkips,
    reason,
  }
}

/** In the process what is shown counts; in a standard the signal, where there is one. */
function readQuantity(state: VisitState, inProcess: boolean, reading: CapturedReading): Quantity {
  const { signal, shown } = reading
  // Of a mean no display was read, but its scale is the one that is known here.
  const mean = shown === null && state.setup.shows === 'value' && nullIfOutOfRange(() => displayed(state, reading))
  if (typeof mean === 'number') return shownQuantity(state, mean)
  const showsSignal = state.setup.shows === 'signal' && state.kind.signalLeads
  return shown !== null && (inProcess || !showsSignal) ? shownQuantity(state, shown) : signalQuantity(state, signal)
}

/** What an open verdict or result says, and what would be given to the device. */
export function resultAt(procedure: Procedure, { evidence, steps }: Progress, key: string): ResultView | null {
  const kind = steps.find((s) => s.step.key === key)?.step.kind
  if (kind !== 'verdict' && kind !== 'result' && kind !== 'apply') return null
  // Applying shows the numbers of the result before it.
  const judged = nullIfOutOfRange(() => judgeStep(procedure, evidence, kind === 'apply' ? 'result' : key))
  if (!judged) return null
  const { found, ...rest } = judged
  // What a sensor that does not answer was found to be is given to no device.
  const given = found !== null && rest.choices.includes('adjust')
  return { ...rest, apply: given ? keyedParameters(evidence, found.characteristic) : [] }
}

/** The parameters of a calibration, rounded as they are keyed in. */
function keyedParameters({ model }: VisitState, found: CalibrationParameters): KeyedParameter[] {
  return model.parameters.flatMap(({ key, label, unit, decimals, scale }) => {
    const value = found[key]
    if (value === undefined) return []
    const keyed = Math.round(value * scale * 10 ** decimals) / 10 ** decimals
    return [{ key, label, keyed: { value: keyed, unit, decimals }, value: keyed / scale }]
  })
}

/** The parameters that a device is given. */
export const keyedCalibration = ({ apply }: ResultView): CalibrationParameters =>
  Object.fromEntries(apply.map((p) => [p.key, p.value]))

function lastDecision(state: VisitState): BenchView['decided'] {
  const last = Object.entries(state.decisions).at(-1)
  return last ? { step: last[0], ...last[1] } : null
}

function beforeAndAfter(
  state: VisitState,
  observed: Observation | null,
  abandoned: boolean,
): BenchView['beforeAndAfter'] {
  const [before, after] = [state.readings['found-process'], state.readings.back]
  if (!before || !after) return null
  const { model, setup } = state
  const since = state.applied?.characteristic ?? setup.activeCalibration
  const at = (r: CapturedReading, calibration: CalibrationParameters) =>
    nullIfOutOfRange(() => ({
      value: model.valueOf(r.signal, r.temperature, calibration, setup.device),
      display: displayed(state, r, calibration),
    }))
  const [was, is] = [at(before, setup.activeCalibration), at(after, since)]
  if (was === null || is === null) return null
  const jump = model.errorOf(is.value, was.value)
  const explained = observed ? observed.asLeft - (observed.asFound ?? observed.asLeft) : 0
  return {
    before: shownQuantity(state, was.display),
    after: shownQuantity(state, is.display),
    jump: errorQuantity(state, jump),
    odd: Math.abs(jump - explained) > 2 * setup.tolerance && !abandoned,
  }
}
