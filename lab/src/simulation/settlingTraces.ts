import type { Sample } from '../../../core/src/stability/opinion.ts'
import { type RandomStream, randomStream } from '../../../core/src/statistics/random.ts'

export const TRACE_KINDS = [
  'clean',
  'stretched',
  'hyperbolic',
  'diffusion',
  'two-stage',
  'noisy',
  'wandering',
  'quantised',
  'slow refresh',
  'irregular',
  'bubble',
  'lagging temperature',
  'creeping',
] as const

export type TraceKind = (typeof TRACE_KINDS)[number]

export interface SettlingTrace {
  kind: TraceKind
  samples: Sample[]
  /** Where the reading would end if one waited for ever, mV; null when it never does. */
  trueEnd: number | null
}

/** How one electrode settles; the same for all its traces but for small changes from visit to visit. */
export interface SettlingHabit {
  fast: number
  slow: number
  slowShare: number
  stretch: number
  shape: 'exponential' | 'stretched' | 'hyperbolic' | 'diffusion'
}

const SECONDS = 420

/** How traces of one kind of sensor differ from those of a glass electrode, in which the figures below are. */
export interface TraceNature {
  /** Settling times, against those of a pH electrode. */
  pace: number
  /** Units of the reading per mV of the pH traces. */
  scale: number
  /** Added to every reading. */
  base: number
  /** Longest that it is watched, s. */
  seconds: number
}

/** A pH electrode, in mV. */
export const PH_NATURE: TraceNature = { pace: 1, scale: 1, base: 0, seconds: SECONDS }

/** An electrode's habit, drawn from new (quick) to old (slow, large tail). */
export function drawHabit(kind: TraceKind, random: RandomStream): SettlingHabit {
  // Most electrodes in service are sound; a few are old.
  const age = random.uniform() ** 2
  const shape =
    kind === 'stretched' || kind === 'hyperbolic' || kind === 'diffusion'
      ? kind
      : random.uniform() < 0.5
        ? 'exponential'
        : random.uniform() < 0.5
          ? 'stretched'
          : 'hyperbolic'
  return {
    fast: random.between(1.2, 3) * (1 + 2 * age),
    slow: random.between(14, 30) * (1 + 2.2 * age) * (shape === 'hyperbolic' ? 0.35 : 1),
    slowShare: random.between(0.02, 0.05) + 0.09 * age,
    stretch: random.between(0.55, 0.85),
    shape,
  }
}

/** Share of the jump still to go after t seconds. */
function remaining(habit: SettlingHabit, t: number): number {
  const fast = Math.exp(-t / habit.fast)
  const u = t / habit.slow
  let tail = Math.exp(-u)
  if (habit.shape === 'stretched') tail = Math.exp(-(u ** habit.stretch))
  if (habit.shape === 'hyperbolic') tail = 1 / (1 + u) ** 1.6
  if (habit.shape === 'diffusion') tail = (1 / (1 + u ** 0.5)) * Math.exp(-u / 4)
  return (1 - habit.slowShare) * fast + habit.slowShare * tail
}

/** The same electrode at another visit: each figure moves by about a tenth. */
export function habitAtNextVisit(habit: SettlingHabit, random: RandomStream): SettlingHabit {
  const stray = () => Math.exp(0.1 * random.normal())
  return { ...habit, fast: habit.fast * stray(), slow: habit.slow * stray(), slowShare: habit.slowShare * stray() }
}

/**
 * A made-up settling trace with known end, for measuring whoever judges it. Samples in mV at 2 Hz unless the kind
 * says otherwise. The generator uses closed-form tails that the judge does not know of.
 */
export function settlingTrace(
  kind: TraceKind,
  random: RandomStream,
  habit = drawHabit(kind, random),
  nature: TraceNature = PH_NATURE,
): SettlingTrace {
  const end = random.between(-190, 190)
  const jump = (random.uniform() < 0.5 ? -1 : 1) * random.between(30, 190)
  const noise = kind === 'noisy' ? random.between(0.5, 1.2) : random.between(0.03, 0.15)
  const wanderSd = kind === 'wandering' ? random.between(0.2, 0.5) : 0.03
  const step = kind === 'quantised' ? (random.uniform() < 0.5 ? 0.5 : 1) : 0.1
  const refresh = kind === 'slow refresh' ? random.between(2, 6) : 0
  const bubble = { from: random.between(10, 60), for: random.between(3, 20), size: random.between(4, 20) }
  const lag = { size: random.between(2, 6) * (random.uniform() < 0.5 ? -1 : 1), time: random.between(25, 60) }
  const creep = (random.uniform() < 0.5 ? -1 : 1) * random.between(1.2, 5)
  const second = { share: random.between(0.05, 0.12), time: random.between(40, 90) }

  const samples: Sample[] = []
  let wander = 0
  let shown: number | null = null
  let shownAt = Number.NEGATIVE_INFINITY
  let t = 0
  while (t <= nature.seconds) {
    const u = t / nature.pace
    let value = end + jump * remaining(habit, u)
    if (kind === 'two-stage') value += jump * second.share * Math.exp(-u / second.time)
    if (kind === 'creeping') value += (creep * t) / 60
    const temperature = 25 + (kind === 'lagging temperature' ? lag.size * Math.exp(-t / lag.time) : 0)
    if (kind === 'lagging temperature') value += (end / 298) * lag.size * Math.exp(-t / lag.time)
    if (kind === 'bubble' && t > bubble.from && t < bubble.from + bubble.for) value += bubble.size
    const gap = kind === 'irregular' ? random.between(0.3, 6) : 0.5
    const keep = Math.exp(-gap / 6)
    wander = wander * keep + wanderSd * Math.sqrt(1 - keep * keep) * random.normal()
    value += noise * random.normal() + wander
    if (shown === null || t - shownAt >= refresh) {
      shown = Math.round(value / step) * step
      shownAt = t
    }
    samples.push({
      t,
      value: nature.base + nature.scale * shown,
      temperature: Math.round((temperature + 0.02 * random.normal()) * 100) / 100,
    })
    t += gap
  }
  return { kind, samples, trueEnd: kind === 'creeping' ? null : nature.base + nature.scale * end }
}

/** A reproducible set of traces, `perKind` of each kind. */
export function settlingTraces(seed: number, perKind: number): SettlingTrace[] {
  const random = randomStream(seed)
  return TRACE_KINDS.flatMap((kind) => Array.from({ length: perKind }, () => settlingTrace(kind, random.fork())))
}
