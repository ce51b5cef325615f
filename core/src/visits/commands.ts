import type { Decision } from '../judgement/decision.ts'
import type { Instrument } from '../measurement/instrument.ts'
import type { CalibrationParameters } from '../measurement/measurementModel.ts'
import type { GivenCalibration, Procedure } from '../procedures/procedure.ts'
import { compareShownAfter } from '../procedures/shownAfter.ts'
import type { FormValues } from '../procedures/step.ts'
import { shownQuantity } from '../procedures/words.ts'
import { nullIfOutOfRange } from '../quantities/outOfRange.ts'
import { render } from '../quantities/render.ts'
import { say } from '../quantities/sentence.ts'
import { readTypedNumber } from '../quantities/typedNumber.ts'
import { VisitRefusal } from './refusal.ts'
import {
  type Progress,
  type RecordLine,
  reduceVisit,
  stepsToRepeat,
  type VisitBasis,
  type VisitEntry,
} from './visitReducer.ts'
import { keyedCalibration, mayBeRepeated, type ResultView, resultAt } from './visitView.ts'

/** What a person does in a visit, except for readings. */
export type VisitCommand =
  | { type: 'done'; step: string }
  | { type: 'skip'; step: string; reason: string }
  | { type: 'wait'; step: string; minutes: number }
  /** `keeps`: the reading before counts together with the new one. */
  | { type: 'redo'; step: string; reason: string; keeps?: true | undefined }
  | { type: 'fill'; step: string; values: FormValues; instruments?: Readonly<Record<string, Instrument>> | undefined }
  | { type: 'decide'; step: string; decision: Decision; note?: string | undefined }
  | { type: 'abandon'; reason: string }

interface VisitAt {
  procedure: Procedure
  progress: Progress
}

export const staleStep = () =>
  new VisitRefusal('The visit has moved on meanwhile.', {
    because: 'state',
    code: 'stale-step',
    hint: 'Look at the step that is open now.',
  })

/** @throws VisitRefusal when another step is open */
export function requireStep({ progress }: Pick<VisitAt, 'progress'>, step: string): void {
  if (progress.current?.key !== step) throw staleStep()
}

/**
 * Returns the entry that a command adds to the record of a visit.
 * @throws VisitRefusal when the visit doesn't accept it
 */
export function entryOf(visit: VisitAt, command: VisitCommand): VisitEntry {
  const { progress } = visit
  const { current } = progress
  switch (command.type) {
    case 'redo':
      return redo(progress, command)
    case 'abandon':
      return { type: 'abandoned', reason: command.reason }
    default:
      requireStep(visit, command.step)
  }
  const { step } = command
  switch (command.type) {
    case 'done':
      if (current?.kind !== 'confirm' && current?.kind !== 'wait') throw staleStep()
      return { type: 'done', step }
    case 'skip':
      if (current?.usualSkips.length === 0) {
        throw new VisitRefusal('This step cannot be skipped.', {
          because: 'state',
          code: 'not-skippable',
          hint: 'Do it, or end the visit.',
        })
      }
      return { type: 'skipped', step, reason: command.reason }
    case 'wait':
      if (current?.kind !== 'wait') throw staleStep()
      return { type: 'waiting', step, minutes: command.minutes, shared: current.shared ?? false }
    case 'fill': {
      if (!current?.fields) throw staleStep()
      const { values, instruments } = command
      return { type: 'filled', step, values, ...(instruments ? { instruments } : {}) }
    }
    case 'decide':
      return decide(visit, command)
  }
}

function redo(progress: Progress, { step, reason, keeps }: Extract<VisitCommand, { type: 'redo' }>): VisitEntry {
  const state = progress.steps.find((s) => s.step.key === step)
  if (!state) throw staleStep()
  if (keeps && !mayBeRepeated(progress, state)) {
    throw new VisitRefusal('This reading cannot be repeated any more.', {
      because: 'state',
      code: 'not-repeatable',
      detail: 'Something rests on it already, or it was read three times.',
      hint: 'Take the step again instead; then the new reading counts.',
    })
  }
  return { type: 'redo', step, reason, ...(keeps ? { keeps } : {}) }
}

function decide(
  { procedure, progress }: VisitAt,
  { step, decision, note }: Extract<VisitCommand, { type: 'decide' }>,
): VisitEntry {
  const result = resultAt(procedure, progress, step)
  if (!result) throw staleStep()
  if (!result.choices.includes(decision)) {
    throw new VisitRefusal('That cannot be decided on these points.', {
      because: 'state',
      code: 'no-result',
      hint: 'Take the points again, or choose one of the decisions that are offered.',
    })
  }
  const proposed = result.proposal.decision
  if (decision !== proposed && (note ?? '').length < 3) {
    throw new VisitRefusal('You decide otherwise than proposed.', {
      because: 'input',
      code: 'note-needed',
      hint: 'Add a note that says why.',
      fields: { note: 'Say why in a few words.' },
    })
  }
  const reopens = decision === 'repeat' ? { reopens: stepsToRepeat(progress, step) } : {}
  return { type: 'decided', step, decision, proposed, note: note || null, ...reopens }
}

/** The result that is given to the device. @throws VisitRefusal where there is none */
export function resultToApply({ procedure, progress }: VisitAt): ResultView {
  const result = resultAt(procedure, progress, 'apply')
  if (!result || result.apply.length === 0) throw staleStep()
  return result
}

interface KeyedIn {
  /** What the device says that it holds, where it can be asked. */
  held: CalibrationParameters | null
  /** What the display shows since, as typed. */
  shownAfter?: string | undefined
  /** Why that stands, although it should show something else. */
  why?: string | undefined
}

/**
 * Returns the entry for numbers that a person keyed in on the device.
 * @throws VisitRefusal when the display shows something else than it should
 */
export function keyedInEntry(visit: VisitAt, { held, shownAfter, why }: KeyedIn): VisitEntry {
  const { evidence } = visit.progress
  const characteristic = keyedCalibration(resultToApply(visit))
  const given: GivenCalibration = held
    ? { way: 'keyed', characteristic: heldOf(held, characteristic), readBack: held, shownAfter: null }
    : { way: 'keyed', characteristic, readBack: null, shownAfter: seenAfter(evidence, characteristic, shownAfter, why) }
  return { type: 'applied', ...given }
}

function seenAfter(
  state: Progress['evidence'],
  characteristic: CalibrationParameters,
  shownAfter: string | undefined,
  why: string | undefined,
): GivenCalibration['shownAfter'] {
  const { model, setup } = state
  const typed = readTypedNumber(shownAfter ?? '')
  if (!typed.ok) {
    throw new VisitRefusal('Say what the device shows now.', {
      because: 'input',
      code: 'invalid',
      fields: { shownAfter: 'Type what the display shows now.' },
    })
  }
  const { value } = typed
  const { should, differs } = compareShownAfter(state, characteristic, value)
  if (should !== null && differs && !why) {
    const [is, right] = [shownQuantity(state, value), shownQuantity(state, should)]
    throw new VisitRefusal(render(say`It shows ${is}; with these numbers it should show ${right}.`), {
      because: 'state',
      code: 'shows-otherwise',
      detail: 'Nothing was recorded as given.',
      hint: 'Look whether the numbers were saved on the device, and whether the sensor is still where it was. If it does show this, say why that stands.',
      fields: {
        shownAfter: render(say`It should show ${right} where the sensor was read last.`),
        why: 'Say why it stands.',
      },
    })
  }
  return { value, unit: model.shownScale(setup.device).unit, should, ...(why ? { reason: why } : {}) }
}

/**
 * What a device computes with after its own key was pressed in every cup.
 * @param held what the device says that it holds, where it can be asked
 * @param now epoch ms
 * @returns null where it refused, or nothing is known
 */
export function keyPressedEntry(
  { procedure, setup, startedAt }: VisitBasis,
  lines: readonly RecordLine[],
  filled: Extract<VisitEntry, { type: 'filled' }>,
  { held, now }: { held: CalibrationParameters | null; now: number },
): VisitEntry | null {
  const { evidence } = reduceVisit(procedure, setup, startedAt, [...lines, { at: now, entry: filled }])
  if (Object.values(evidence.forms).some(({ values }) => values.said === 'bad')) return null
  const found = nullIfOutOfRange(() => procedure.judge(evidence, 'result'))?.found
  if (!found) return null
  const { shown } = filled.values
  return {
    type: 'applied',
    way: 'key',
    characteristic: held ? heldOf(held, found.characteristic) : found.characteristic,
    readBack: held,
    shownAfter:
      typeof shown === 'number'
        ? { value: shown, unit: evidence.model.shownScale(setup.device).unit, should: null }
        : null,
  }
}

/** Returns the parameters that a device was given, as it holds them. */
export const heldOf = (held: CalibrationParameters, given: CalibrationParameters): CalibrationParameters =>
  Object.fromEntries(Object.keys(given).map((key) => [key, held[key] ?? (given[key] as number)]))
