import type { Finding } from '../calibration/finding.ts'
import type { Decision } from '../judgement/decision.ts'
import { kindOf } from '../kinds/index.ts'
import type { CapturedReading } from '../measurement/capturedReading.ts'
import type { Instrument } from '../measurement/instrument.ts'
import { meanOfReadings } from '../measurement/repeatedReadings.ts'
import type { TemperatureSource } from '../measurement/temperatureSource.ts'
import { withHeldAsShown } from '../procedures/heldCalibration.ts'
import type { FilledForm, GivenCalibration, Procedure, StepDecision, VisitState } from '../procedures/procedure.ts'
import type { Setup } from '../procedures/setup.ts'
import type { FormValues, Step } from '../procedures/step.ts'
import { nullIfOutOfRange } from '../quantities/outOfRange.ts'
import { quantity, say } from '../quantities/sentence.ts'

/** One line of a visit's record. Never changed once written; a later line may supersede it. */
export type VisitEntry =
  | { type: 'done'; step: string }
  | { type: 'skipped'; step: string; reason: string }
  | { type: 'captured'; step: string; reading: CapturedReading }
  | ({ type: 'typed'; step: string } & TypedLine)
  | { type: 'filled'; step: string; values: FormValues; instruments?: Readonly<Record<string, Instrument>> }
  | { type: 'waiting'; step: string; minutes: number; shared: boolean }
  /** `keeps`: the reading before counts together with the new one. */
  | { type: 'redo'; step: string; reason: string; keeps?: true }
  | {
      type: 'decided'
      step: string
      decision: Decision
      proposed: Decision
      note: string | null
      /** Steps that it opens again; records of before this was noted open the first of them and what rests on it. */
      reopens?: readonly string[]
    }
  | ({ type: 'applied' } & GivenCalibration)
  | { type: 'overridden'; rule: string; reason: string }
  | { type: 'taken-over'; from: string }
  | { type: 'abandoned'; reason: string }

/** What a visit is judged with, as it was when the visit began. */
export interface VisitBasis {
  procedure: Procedure
  setup: Setup
  /** Epoch ms. */
  startedAt: number
}

/** A number as the operator read it off the device. */
export interface TypedLine {
  /** As displayed: the signal where the device shows it, its value otherwise. */
  value: number
  /** The finished value, where the device shows it beside its signal. */
  shown?: number
  /** degC */
  temperature: number
  temperatureFrom?: TemperatureSource
  /** Said to have stood still, by the operator's own watch. */
  still?: boolean
}

export interface RecordLine {
  /** Epoch ms. */
  at: number
  entry: VisitEntry
}

export interface StepState {
  step: Step
  status: 'done' | 'skipped' | 'now' | 'ahead'
  reason: string | null
}

/** Where a visit stands, from its record alone. */
export interface Progress {
  evidence: VisitState
  steps: StepState[]
  current: Step | null
  /** Readings typed for the step at hand. */
  typed: (TypedLine & { at: number })[]
  /** When the waiting of the step at hand began. */
  waiting: { since: number; minutes: number } | null
  /** All waits that were begun, by step. */
  waits: Readonly<Record<string, { since: number; minutes: number }>>
  overridden: { rule: string; reason: string }[]
  abandoned: string | null
}

class VisitReducer {
  readings: Record<string, CapturedReading> = {}
  /** All that count for a step, and those that will once it is read again. */
  counting: Record<string, readonly CapturedReading[]> = {}
  forms: Record<string, FilledForm> = {}
  doneAt: Record<string, number> = {}
  skipped: Record<string, string> = {}
  decisions: Record<string, StepDecision> = {}
  attempts: Record<string, number> = {}
  asked: Partial<Record<Decision, number>> = {}
  doubted: Finding['code'][] = []
  applied: VisitState['applied'] = null
  typed: Record<string, Progress['typed']> = {}
  waiting: Record<string, { since: number; minutes: number }> = {}
  overridden: Progress['overridden'] = []
  abandoned: string | null = null

  constructor(
    private readonly procedure: Procedure,
    private readonly setup: Setup,
    private readonly startedAt: number,
  ) {}

  get evidence(): VisitState {
    const { startedAt, readings, counting, forms, doneAt, skipped, decisions, attempts, asked, doubted, applied } = this
    const kind = kindOf(this.setup.kind)
    const setup = withHeldAsShown(kind.model, this.setup, counting)
    return {
      setup,
      kind,
      model: kind.model,
      readings,
      counting,
      forms,
      doneAt,
      skipped,
      decisions,
      attempts,
      asked,
      doubted,
      applied,
      startedAt,
    }
  }

  steps(): readonly Step[] {
    return stepsOf(this.procedure, this.evidence)
  }

  apply({ at, entry }: RecordLine): void {
    switch (entry.type) {
      case 'done':
        this.finish(entry.step, at)
        break
      case 'skipped':
        this.finish(entry.step, at)
        this.skipped[entry.step] = entry.reason
        break
      case 'captured':
        this.capture(entry.step, entry.reading)
        this.attempts[entry.step] = (this.attempts[entry.step] ?? 0) + 1
        this.finish(entry.step, at)
        break
      case 'filled':
        this.forms[entry.step] = {
          values: entry.values,
          at,
          ...(entry.instruments ? { instruments: entry.instruments } : {}),
        }
        this.attempts[entry.step] = (this.attempts[entry.step] ?? 0) + 1
        this.finish(entry.step, at)
        break
      case 'typed': {
        const before = this.typed[entry.step] ?? []
        const { type: _, step, ...line } = entry
        this.typed[step] = [...before, { ...line, at }]
        break
      }
      case 'waiting':
        this.waiting[entry.step] = { since: at, minutes: entry.minutes }
        break
      case 'redo':
        this.redo(entry)
        break
      case 'decided':
        this.decide(entry, at)
        break
      case 'applied':
        {
          const { type: _, ...given } = entry
          this.applied = given
        }
        this.finish('apply', at)
        break
      case 'overridden':
        this.overridden.push({ rule: entry.rule, reason: entry.reason })
        break
      case 'abandoned':
        this.abandoned = entry.reason
        break
      case 'taken-over':
        break
    }
  }

  private capture(step: string, reading: CapturedReading): void {
    const counting = [...(this.counting[step] ?? []), reading]
    this.counting[step] = counting
    this.readings[step] = counting.length > 1 ? meanOfReadings(counting).reading : reading
  }

  private redo({ step, keeps }: Extract<VisitEntry, { type: 'redo' }>): void {
    const before = this.counting[step]
    this.undo(step)
    if (keeps && before) this.counting[step] = before
  }

  private finish(step: string, at: number): void {
    this.doneAt[step] = at
    delete this.skipped[step]
  }

  private decide(entry: Extract<VisitEntry, { type: 'decided' }>, at: number): void {
    const { step: key, decision, proposed, note } = entry
    const step = this.steps().find((s) => s.key === key)
    if (decision === 'repeat') this.doubted = [...this.doubted, ...this.doubtsAt(key)]
    this.asked[decision] = (this.asked[decision] ?? 0) + 1
    this.decisions[key] = { decision, proposed, note }
    this.finish(key, at)
    // A decision that means more work at the sensor opens the steps where that work begins.
    const backTo =
      decision === 'repeat'
        ? step?.repeatFrom
        : decision === 'clean-and-recheck' && step?.kind === 'result'
          ? step.cleanFrom
          : decision === 'condition'
            ? step?.conditionFrom
            : undefined
    for (const again of entry.reopens ?? (backTo ? [backTo] : [])) this.undo(again)
  }

  private doubtsAt(key: string): Finding['code'][] {
    const judged = nullIfOutOfRange(() => this.procedure.judge(this.evidence, key))
    return judged?.findings.flatMap((f) => (f.severity === 'note' ? [] : [f.code])) ?? []
  }

  /** Opens a step again, and all that rest on it. */
  private undo(key: string): void {
    const steps = this.steps()
    const open = new Set([key])
    for (const step of steps) {
      if (step.after.some((a) => open.has(a))) open.add(step.key)
    }
    for (const step of open) {
      delete this.doneAt[step]
      delete this.skipped[step]
      delete this.typed[step]
      delete this.waiting[step]
      delete this.decisions[step]
      if (step === 'apply') this.applied = null
      // A reading that no longer counts must not be judged with the new ones.
      delete this.readings[step]
      delete this.counting[step]
      delete this.forms[step]
    }
  }
}

/** The steps of a procedure; one that is read once more says so. */
function stepsOf(procedure: Procedure, evidence: VisitState): readonly Step[] {
  return procedure.steps(evidence).map((step) => {
    const before = evidence.counting[step.key]?.length ?? 0
    if (before === 0 || evidence.readings[step.key]) return step
    return {
      ...step,
      title: say`${step.title}, once more`,
      hint: say`Reading ${quantity(before + 1, '', 0)} of this point: rinse, dip again, and let it settle. The mean counts.`,
    }
  })
}

/** What has to be taken again when a result is not believed: all that was read for it, from its first point on. */
export function stepsToRepeat({ steps }: Progress, key: string): readonly string[] {
  const at = steps.findIndex((s) => s.step.key === key)
  const from = steps.findIndex((s) => s.step.key === steps[at]?.step.repeatFrom)
  return from < 0 ? [] : steps.slice(from, at).map((s) => s.step.key)
}

/** All steps that were on the ladder at any time, those of earlier rounds included, by key. */
export function everyStep({ procedure, setup, startedAt }: VisitBasis, lines: readonly RecordLine[]) {
  const fold = new VisitReducer(procedure, setup, startedAt)
  const seen = new Map<string, Step>()
  const look = () => {
    for (const step of fold.steps()) seen.set(step.key, step)
  }
  look()
  for (const line of lines) {
    fold.apply(line)
    look()
  }
  return seen
}

/** Plays a visit's record from the start. */
export function reduceVisit(
  procedure: Procedure,
  setup: Setup,
  startedAt: number,
  lines: readonly RecordLine[],
): Progress {
  const fold = new VisitReducer(procedure, setup, startedAt)
  for (const line of lines) fold.apply(line)
  const { evidence } = fold
  const steps = stepsOf(procedure, evidence)
  const current = fold.abandoned === null ? (steps.find((s) => fold.doneAt[s.key] === undefined) ?? null) : null
  return {
    evidence,
    current,
    typed: (current && fold.typed[current.key]) ?? [],
    waiting: (current && fold.waiting[current.key]) ?? null,
    waits: fold.waiting,
    overridden: fold.overridden,
    abandoned: fold.abandoned,
    steps: steps.map((step) => ({
      step,
      status:
        step.key === current?.key
          ? 'now'
          : fold.skipped[step.key] !== undefined
            ? 'skipped'
            : fold.doneAt[step.key] !== undefined
              ? 'done'
              : 'ahead',
      reason: fold.skipped[step.key] ?? null,
    })),
  }
}
