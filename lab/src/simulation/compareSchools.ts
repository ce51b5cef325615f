import { conductivityPreset } from '../../../core/src/kinds/conductivity/presets.ts'
import { ION_MILLIVOLTS } from '../../../core/src/kinds/ion/presets.ts'
import { PH_MILLIVOLTS } from '../../../core/src/kinds/ph/presets.ts'
import { isTaken } from '../../../core/src/stability/grade.ts'
import { stabilityJudge } from '../../../core/src/stability/judge.ts'
import type { StabilityState } from '../../../core/src/stability/opinion.ts'
import type { StabilityPreset } from '../../../core/src/stability/presets.ts'
import type { SettlingSignature } from '../../../core/src/stability/settlingSignature.ts'
import { flatWait, stillFor } from '../../../core/src/stability/stopwatch.ts'
import { quantile } from '../../../core/src/statistics/median.ts'
import { type RandomStream, randomStream } from '../../../core/src/statistics/random.ts'
import {
  drawHabit,
  habitAtNextVisit,
  PH_NATURE,
  type SettlingTrace,
  settlingTrace,
  TRACE_KINDS,
  type TraceKind,
  type TraceNature,
} from './settlingTraces.ts'

/** What is judged, and by which flat wait people do without a judge, s (common practice, no source). */
export interface SchoolSubject {
  unit: string
  preset: StabilityPreset
  flatWait: number
  nature: TraceNature
}

const MEDIUM_CONDUCTIVITY = 1413
const cell = conductivityPreset(MEDIUM_CONDUCTIVITY)
/** Traces are scaled by what a sensor of the kind repeats to; a cell answers sooner, an ion membrane later. */
const perMillivolt = (preset: StabilityPreset) => preset.repeatability / PH_MILLIVOLTS.repeatability

export const SCHOOL_SUBJECTS = {
  ph: { unit: 'mV', preset: PH_MILLIVOLTS, flatWait: 120, nature: PH_NATURE },
  conductivity: {
    unit: 'µS/cm',
    preset: cell,
    flatWait: 60,
    nature: { pace: 0.4, scale: perMillivolt(cell), base: MEDIUM_CONDUCTIVITY, seconds: 300 },
  },
  ion: {
    unit: 'mV',
    preset: ION_MILLIVOLTS,
    flatWait: 300,
    nature: { pace: 2.2, scale: perMillivolt(ION_MILLIVOLTS), base: 120, seconds: 800 },
  },
} as const satisfies Record<string, SchoolSubject>

/** Past visits of each electrode, and how long it was watched at each, s. */
const PAST_VISITS = 3
const WATCHED = 130

interface Accepted {
  seconds: number
  value: number
  /** Half-width of the stated 95 % interval, and what it was said to be, of the judge. */
  uncertainty?: number
  state?: StabilityState
}

export interface Contest {
  kind: TraceKind
  trueEnd: number | null
  /** When the end was known, and when rest was too. */
  known: Accepted | null
  judge: Accepted | null
  still: Accepted | null
  flat: Accepted | null
}

/** Lets the judge and the two stopwatch schools loose on the same simulated traces; each electrode has a past if wished. */
export function compareSchools(
  seed: number,
  perKind: number,
  withPast: boolean,
  subject: SchoolSubject = SCHOOL_SUBJECTS.ph,
): Contest[] {
  const random = randomStream(seed)
  return TRACE_KINDS.flatMap((kind) =>
    Array.from({ length: perKind }, () => contest(kind, random.fork(), withPast, subject)),
  )
}

function contest(kind: TraceKind, random: RandomStream, withPast: boolean, subject: SchoolSubject): Contest {
  const { preset, nature } = subject
  const habit = drawHabit(kind, random)
  const past: SettlingSignature[] = []
  for (let visit = 0; withPast && visit < PAST_VISITS; visit++) {
    const judge = stabilityJudge(preset, past)
    const quiet = kind === 'bubble' ? 'clean' : kind
    const earlier = settlingTrace(quiet, random, habitAtNextVisit(habit, random), nature)
    for (const sample of earlier.samples) if (sample.t <= WATCHED * nature.pace) judge.push(sample)
    const signature = judge.signature()
    if (signature) past.push(signature)
  }
  return run(settlingTrace(kind, random, withPast ? habitAtNextVisit(habit, random) : habit, nature), past, subject)
}

function run(trace: SettlingTrace, past: readonly SettlingSignature[], subject: SchoolSubject): Contest {
  const judge = stabilityJudge(subject.preset, past)
  const still = stillFor(15, 0.5 * subject.preset.repeatability)
  const flat = flatWait(subject.flatWait)
  const result: Contest = {
    kind: trace.kind,
    trueEnd: trace.trueEnd,
    known: null,
    judge: null,
    still: null,
    flat: null,
  }
  for (const sample of trace.samples) {
    const { t, value } = sample
    if (value === null) continue
    if (!result.judge) {
      const opinion = judge.push(sample)
      const offered = {
        seconds: t,
        value: opinion.predictedEnd,
        uncertainty: opinion.predictedEndUncertainty,
        state: opinion.state,
      }
      if (isTaken('known', opinion.state)) result.known ??= offered
      if (isTaken('rest', opinion.state)) result.judge = offered
    }
    if (!result.still && still.push(sample)) result.still = { seconds: t, value }
    if (!result.flat && flat.push(sample)) result.flat = { seconds: t, value }
    if (result.judge && result.still && result.flat) break
  }
  return result
}

export interface SchoolSummary {
  accepted: number
  medianSeconds: number
  p90Seconds: number
  medianError: number
  p95Error: number
  /** Share of accepted values whose stated interval holds the true end; NaN where none is stated. */
  coverage: number
}

/** How one school did on the traces that do come to rest. */
export function summarise(contests: readonly Contest[], school: 'known' | 'judge' | 'still' | 'flat'): SchoolSummary {
  const settling = contests.filter((c) => c.trueEnd !== null)
  const taken = settling.flatMap((c) => (c[school] ? [{ ...c[school], end: c.trueEnd as number }] : []))
  const seconds = taken.map((a) => a.seconds)
  const errors = taken.map((a) => Math.abs(a.value - a.end))
  const stated = taken.filter((a) => a.uncertainty !== undefined)
  const held = stated.filter((a) => Math.abs(a.value - a.end) <= (a.uncertainty as number))
  return {
    accepted: taken.length / settling.length,
    medianSeconds: quantile(seconds, 0.5),
    p90Seconds: quantile(seconds, 0.9),
    medianError: quantile(errors, 0.5),
    p95Error: quantile(errors, 0.95),
    coverage: stated.length > 0 ? held.length / stated.length : Number.NaN,
  }
}
