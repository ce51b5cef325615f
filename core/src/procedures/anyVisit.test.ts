import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { plain } from '../../../lab/src/fixtures/plain.ts'
import { testSetup } from '../../../lab/src/fixtures/testSetup.ts'
import { kindOf, modelOf, sensorKinds } from '../kinds/index.ts'
import type { CapturedReading } from '../measurement/capturedReading.ts'
import type { MeasurementModel } from '../measurement/measurementModel.ts'
import { OutOfRange } from '../quantities/outOfRange.ts'
import { type RandomStream, randomStream } from '../statistics/random.ts'
import { type Progress, type RecordLine, reduceVisit, type VisitEntry } from '../visits/visitReducer.ts'
import type { Procedure, VisitState } from './procedure.ts'
import type { Setup } from './setup.ts'
import type { FieldSpec, FormValue, Step } from './step.ts'

/**
 * Visits as wet hands make them: sound readings, wild ones, steps skipped that may be skipped, points taken again,
 * soaks and cleanings asked for. Whatever happens, the record folds, says where it stands, and comes to an end.
 */

/** A reading that an electrode near its ideal gives, or now and then one that none could give. */
function readingOf(step: Step, { setup, model }: VisitState, random: RandomStream): CapturedReading {
  // A room in which every standard has a table.
  const temperature = random.between(20.5, 28)
  const code = step.role ? setup.standards[step.role]?.code : undefined
  const value = code ? model.standardValue(code, temperature, { ...setup.device, expects: 'activity' }) : null
  const ideal = idealSignal(model, value ?? setup.processValue, temperature, setup)
  const wild = random.between(0, 1) < 0.15
  const signal = wild ? 1e4 * random.normal() : ideal * (1 + 0.03 * random.normal()) + 3 * random.normal()
  return {
    signal,
    source: 'line',
    signalUncertainty: Math.abs(random.normal()) + 0.05,
    temperature,
    shown: signal,
    stability: { state: 'stable', reason: 'known', seconds: 60, confidence: 97 },
    trace: [],
    signature: null,
    ...(code && value !== null
      ? { standard: { code, value, lot: null, expired: false, openTooLong: false, daysOver: 0 } }
      : {}),
  }
}

function idealSignal(model: MeasurementModel, value: number, temperature: number, { device }: Setup): number {
  try {
    return model.signalOf(value, temperature, model.ideal, device)
  } catch {
    return 0
  }
}

function typed(field: FieldSpec, random: RandomStream): FormValue {
  switch (field.kind) {
    case 'number': {
      const [low, high] = [field.low ?? 0, field.high ?? 1000]
      // The ends are where slips sit.
      return [low, high, random.between(low, high), Math.min(high, Math.max(low, 1))][
        Math.floor(random.between(0, 4))
      ] as number
    }
    case 'tick':
      return field.must === true || random.between(0, 1) < 0.5
    case 'choice':
      return field.choices?.[Math.floor(random.between(0, field.choices.length))]?.value ?? ''
    default:
      return 'As usual here'
  }
}

const within = <T>(work: () => T): T | null => {
  try {
    return work()
  } catch (error) {
    // What lies outside is refused with a sentence; anything else is a fault of ours.
    expect(error).toBeInstanceOf(OutOfRange)
    return null
  }
}

/** What hands might do at the step at hand. */
function act(procedure: Procedure, progress: Progress, step: Step, patience: number, random: RandomStream): VisitEntry {
  const { evidence } = progress
  const [skip] = step.usualSkips
  if (skip && random.between(0, 1) < 0.25) return { type: 'skipped', step: step.key, reason: skip }
  switch (step.kind) {
    case 'capture':
      return { type: 'captured', step: step.key, reading: readingOf(step, evidence, random) }
    case 'form': {
      const fields = (step.fields ?? []).filter((f) => !f.optional || random.between(0, 1) < 0.5)
      return {
        type: 'filled',
        step: step.key,
        values: Object.fromEntries(fields.map((f) => [f.key, typed(f, random)])),
      }
    }
    case 'verdict':
    case 'result': {
      const judged = within(() => procedure.judge(evidence, step.key))
      const choices = judged?.choices ?? ['leave-alone']
      // Nobody goes round for ever: there must be a way out.
      const last = choices.find((c) => ['leave-alone', 'replace', 'adjust'].includes(c)) ?? choices[0]
      const wanted = patience > 0 ? choices[Math.floor(random.between(0, choices.length))] : last
      const decision = wanted ?? 'leave-alone'
      const proposed = judged?.proposal.decision ?? 'leave-alone'
      return { type: 'decided', step: step.key, decision, proposed, note: null }
    }
    case 'apply': {
      const found = within(() => procedure.judge(evidence, 'result'))?.found
      return {
        type: 'applied',
        way: 'link',
        characteristic: found?.characteristic ?? evidence.setup.activeCalibration,
        readBack: null,
        shownAfter: null,
      }
    }
    default:
      return { type: 'done', step: step.key }
  }
}

function expectSound(procedure: Procedure, { evidence, steps, current }: Progress): void {
  for (const { step, status } of steps) {
    if (step.kind !== 'verdict' && step.kind !== 'result') continue
    if (status === 'ahead') continue
    const judged = within(() => procedure.judge(evidence, step.key))
    if (!judged) continue
    expect(judged.choices.length).toBeGreaterThan(0)
    for (const figure of judged.figures)
      expect(`${plain(figure.value)} ${plain(figure.note)}`).not.toMatch(/NaN|undefined|Infinity/)
    for (const f of judged.findings)
      expect(`${plain(f.sentence)} ${plain(f.advice)}`).not.toMatch(/NaN|undefined|Infinity/)
    for (const figure of Object.values(judged.found?.characteristic ?? {})) expect(Number.isFinite(figure)).toBe(true)
    for (const error of [judged.asFoundError, judged.errorNow, judged.uncertainty, judged.fouling]) {
      if (error !== null) expect(Number.isFinite(error)).toBe(true)
    }
  }
  const observed = within(() => procedure.observe(evidence))
  if (observed) {
    expect(Number.isFinite(observed.asLeft)).toBe(true)
    expect(Number.isFinite(observed.uncertainty)).toBe(true)
    if (observed.asFound !== null) expect(Number.isFinite(observed.asFound)).toBe(true)
  }
  // One step at a time is at hand, and none that was finished before it lies after it undone.
  expect(steps.filter((s) => s.status === 'now')).toHaveLength(current ? 1 : 0)
}

const MOST_ACTIONS = 150

describe.each(sensorKinds().flatMap((kind) => kindOf(kind).procedures.map((p) => [p.id, kind, p] as const)))(
  '%s on %s',
  (_, kind, procedure) => {
    const unknownParameters = modelOf(kind).parameters.map(({ key }) => key)
    it.each([
      ['known', {}],
      ['unknown', { unknownParameters }],
    ])('comes to an end whatever is done, with finite numbers; calibration of the device %s', (_known, change) => {
      fc.assert(
        fc.property(fc.integer({ min: 1, max: 1e6 }), (seed) => {
          const random = randomStream(seed)
          const lines: RecordLine[] = []
          const setup = testSetup(procedure, kind, change)
          let patience = 3
          let progress = reduceVisit(procedure, setup, 0, lines)
          while (progress.current && lines.length < MOST_ACTIONS) {
            const entry =
              patience > 0 && lines.length > 3 && random.between(0, 1) < 0.05
                ? redo(progress, random)
                : act(procedure, progress, progress.current, patience, random)
            if (entry.type === 'redo' || entry.type === 'decided') patience--
            lines.push({ at: 60_000 * (lines.length + 1), entry })
            progress = reduceVisit(procedure, setup, 0, lines)
            expectSound(procedure, progress)
          }
          expect(progress.current, `still open after ${lines.length} actions`).toBeNull()
          // A visit is its record: the same lines give the same visit.
          expect(reduceVisit(procedure, setup, 0, lines).steps).toEqual(progress.steps)
        }),
        { numRuns: 8 },
      )
    })
  },
)

/** Takes a step again that was done before. */
function redo({ steps, current }: Progress, random: RandomStream): VisitEntry {
  const finished = steps.filter((s) => s.status === 'done' || s.status === 'skipped')
  const chosen = finished[Math.floor(random.between(0, finished.length))]
  return { type: 'redo', step: chosen?.step.key ?? current?.key ?? '', reason: 'Bubble' }
}
