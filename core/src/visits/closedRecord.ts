import type { Decision } from '../judgement/decision.ts'
import { isDisplayAlone } from '../measurement/capturedReading.ts'
import { tellsSignal } from '../procedures/heldCalibration.ts'
import { givenParameters } from '../procedures/pastProcedure.ts'
import type { GivenCalibration, Observation, Procedure, VisitState } from '../procedures/procedure.ts'
import { errorQuantity, shownQuantity, signalQuantity, standardOfVisit, standardQuantity } from '../procedures/words.ts'
import { type Quantity, type Sentence, say, timeSpan } from '../quantities/sentence.ts'
import { entrySentence } from './recordSentences.ts'
import { everyStep, type Progress, type RecordLine, type VisitBasis } from './visitReducer.ts'
import { asLeftOf, observationOf, type ResultView, resultAt } from './visitView.ts'

/** What was done to the sensor: to clean it is not to adjust it. */
export type WorkDone = 'checked' | 'cleaned' | 'adjusted' | 'installed' | 'replaced' | 'retired'

export const WORK_WORDS: Readonly<Record<WorkDone, string>> = {
  checked: 'Checked',
  cleaned: 'Cleaned, not adjusted',
  adjusted: 'Adjusted',
  installed: 'Put in',
  replaced: 'Replaced',
  retired: 'Retired',
}

/** A captured point as the record lists it; its trace is in the line of this number. */
export interface PointRecord {
  step: string
  label: string
  seq: number
  at: number
  /** Null where nobody knows by which calibration the device showed its value. */
  signal: Quantity | null
  /** Null where nobody read the display. */
  shown: Quantity | null
  /** Set where the signal was worked out from the display; null where it was read, or where that was not noted. */
  workedOut: 'signal' | null
  standard: { label: string; value: Quantity; lot: string | null } | null
}

/** What a record says: written once, when the visit is closed, and never computed again. */
export interface ClosedRecord {
  version: 1
  procedureName: string
  /** Null when the visit was ended without a result. */
  work: WorkDone | null
  lines: readonly { seq: number; at: number; operator: string; sentence: Sentence }[]
  points: readonly PointRecord[]
  result: ResultView | null
  decisions: readonly { step: string; decision: Decision; proposed: Decision; note: string | null }[]
  applied: { parameters: Sentence; way: GivenCalibration['way'] } | null
  /** Null where it was not read. */
  asFound: Quantity | null
  asLeft: Quantity | null
  /** What came between the visit before and this one. */
  drift: Sentence | null
}

export interface AuthoredLine extends RecordLine {
  operator: string
}

interface Known {
  /** Whether a sensor was there before the one that this visit put in. */
  replaces: boolean
  drift(observed: Observation, state: VisitState): Sentence | null
}

/** What the record of a visit says. */
export function closedRecord(
  visit: VisitBasis & { progress: Progress; lines: readonly AuthoredLine[] },
  known: Known,
): ClosedRecord {
  const { procedure, progress, lines } = visit
  const { evidence } = progress
  const steps = everyStep(visit, lines)
  const judged = progress.steps.findLast(
    (s) => (s.step.kind === 'result' || s.step.kind === 'verdict') && s.status === 'done',
  )
  const observed = observationOf(procedure, evidence)
  const ended = progress.abandoned !== null
  return {
    version: 1,
    procedureName: procedure.name,
    work: ended ? null : workDone(procedure, { progress, observed, replaces: known.replaces }),
    lines: lines.map(({ at, operator, entry }, i) => ({
      seq: i + 1,
      at,
      operator,
      sentence: afterClock(entrySentence(entry, steps, evidence), at, lines[i - 1]?.at),
    })),
    points: progress.steps.flatMap(({ step }) => pointRecord(evidence, lines, step)),
    result: judged ? resultAt(procedure, progress, judged.step.key) : null,
    decisions: Object.entries(evidence.decisions).map(([step, d]) => ({ step: steps.get(step)?.short ?? step, ...d })),
    applied: evidence.applied && {
      parameters: givenParameters(evidence, evidence.applied.characteristic),
      way: evidence.applied.way,
    },
    asFound: observed?.asFound == null ? null : errorQuantity(evidence, observed.asFound),
    asLeft: asLeftOf(evidence, observed),
    drift: observed && !ended ? known.drift(observed, evidence) : null,
  }
}

/** Lines stand in the order in which they were made; what is earlier than the line before by more than this is told, ms. */
const CLOCK_SET_BACK = 60_000

export function afterClock(sentence: Sentence, at: number, before: number | undefined): Sentence {
  const back = (before ?? at) - at
  return back > CLOCK_SET_BACK ? say`${sentence} (before it the clock was set back by ${timeSpan(back)})` : sentence
}

interface Worked {
  progress: Progress
  observed: Observation | null
  replaces: boolean
}

/** What was done to the sensor at a visit, the most that was. */
export function workDone(
  procedure: Procedure,
  { progress: { evidence, steps }, observed, replaces }: Worked,
): WorkDone {
  if (procedure.baseline) return replaces ? 'replaced' : 'installed'
  if (procedure.id === 'retire') return 'retired'
  if (evidence.applied || observed?.adjusted) return 'adjusted'
  return steps.some((s) => s.status === 'done' && s.step.key.startsWith('clean')) ? 'cleaned' : 'checked'
}

function pointRecord(
  state: VisitState,
  lines: readonly RecordLine[],
  { key, short }: { key: string; short: string },
): PointRecord[] {
  const reading = state.readings[key]
  if (!reading || state.skipped[key] !== undefined) return []
  const line = lines.findLastIndex(({ entry }) => entry.type === 'captured' && entry.step === key)
  const { source, signal, shown, standard } = reading
  const count = state.counting[key]?.length ?? 1
  return [
    {
      step: key,
      label: count > 1 ? `${short}, mean of ${count}` : short,
      seq: line + 1,
      at: lines[line]?.at ?? state.startedAt,
      signal: tellsSignal(state.setup, reading) ? signalQuantity(state, signal) : null,
      shown: shown === null ? null : shownQuantity(state, shown),
      workedOut: isDisplayAlone(source) ? 'signal' : null,
      standard: standard
        ? {
            label: standardOfVisit(state, standard.code).label,
            value: standardQuantity(state, standard.code, standard.value),
            lot: standard.lot,
          }
        : null,
    },
  ]
}
