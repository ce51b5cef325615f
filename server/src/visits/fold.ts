import type { CapturedReading, StepView, VisitEntry } from '@frustum/contract'
import { currentStep, type PhStepKey, phProcedure, type VisitCourse, type VisitKind } from '@frustum/core'

/** Where a visit stands, from its record alone. */
export interface VisitProgress {
  course: VisitCourse
  steps: StepView[]
  current: PhStepKey | null
  /** The reading that counts for each step. */
  readings: Partial<Record<PhStepKey, CapturedReading>>
  /** Readings typed for the step at hand. */
  typed: { at: number; value: number; temperature: number }[]
  decision: { decision: string; note: string | null } | null
  applied: Extract<VisitEntry, { type: 'applied' }> | null
  abandoned: boolean
  cleaned: boolean
}

/** Steps whose outcome rests on the points, and falls with them. */
const RESTS_ON_POINTS: readonly PhStepKey[] = ['result', 'apply', 'verify', 'back', 'release']

/** Steps to be done again when one is: the points hang on the cleaning before them. */
function undoneWith(step: PhStepKey): PhStepKey[] {
  switch (step) {
    case 'found-buffer':
      return [step, 'verdict']
    case 'clean':
      return [step, 'first-buffer', 'rinse', 'second-buffer', ...RESTS_ON_POINTS]
    case 'first-buffer':
      return [step, ...RESTS_ON_POINTS]
    case 'rinse':
      return [step, 'second-buffer', ...RESTS_ON_POINTS]
    case 'second-buffer':
      return [step, ...RESTS_ON_POINTS]
    case 'result':
      return [...RESTS_ON_POINTS]
    case 'apply':
      return [step, 'verify']
    default:
      return [step]
  }
}

/** Plays a visit's record from the start. */
export function foldVisit(kind: VisitKind, lines: readonly { at: number; entry: VisitEntry }[]): VisitProgress {
  const course: VisitCourse = { kind, wentOn: false, adjusts: null }
  const outcome = new Map<PhStepKey, { status: 'done' | 'skipped'; reason: string | null }>()
  const progress: VisitProgress = {
    course,
    steps: [],
    current: null,
    readings: {},
    typed: [],
    decision: null,
    applied: null,
    abandoned: false,
    cleaned: false,
  }
  const typed = new Map<PhStepKey, VisitProgress['typed']>()
  const done = (step: PhStepKey) => outcome.set(step, { status: 'done', reason: null })

  for (const { at, entry } of lines) {
    switch (entry.type) {
      case 'done':
        done(entry.step)
        if (entry.step === 'clean') progress.cleaned = true
        break
      case 'skipped':
        outcome.set(entry.step, { status: 'skipped', reason: entry.reason })
        break
      case 'captured':
        progress.readings[entry.step] = entry.reading
        done(entry.step)
        break
      case 'typed':
        typed.set(entry.step, [
          ...(typed.get(entry.step) ?? []),
          { at, value: entry.value, temperature: entry.temperature },
        ])
        break
      case 'redo':
        for (const step of undoneWith(entry.step)) {
          outcome.delete(step)
          typed.delete(step)
          if (step === 'result') {
            course.adjusts = null
            progress.decision = null
          }
          if (step === 'apply') progress.applied = null
        }
        break
      case 'went-on':
        course.wentOn = true
        done('verdict')
        break
      case 'decided':
        progress.decision = { decision: entry.decision, note: entry.note }
        if (entry.step === 'result') course.adjusts = entry.decision === 'adjust'
        done(entry.step)
        break
      case 'applied':
        progress.applied = entry
        done('apply')
        break
      case 'abandoned':
        progress.abandoned = true
        break
      case 'taken-over':
        break
    }
  }
  const keys = phProcedure(course)
  progress.current = progress.abandoned ? null : currentStep(keys, new Set(outcome.keys()))
  progress.typed = (progress.current && typed.get(progress.current)) ?? []
  progress.steps = keys.map((key) => {
    const found = outcome.get(key)
    return {
      key,
      status: key === progress.current ? 'now' : (found?.status ?? 'ahead'),
      reading: found?.status === 'done' ? (progress.readings[key] ?? null) : null,
      reason: found?.reason ?? null,
    }
  })
  return progress
}
