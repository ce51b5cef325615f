import type { StabilityPreset } from './presets.ts'
import { PART_TIMES, type RelaxationHypothesis } from './relaxation.ts'
import { ownTail, type SettlingSignature } from './settlingSignature.ts'

/** How large the parts of a settling are, one for each of PART_TIMES, as shares of the largest jump. */
interface Spectrum {
  shares: readonly number[]
  weight: number
}

/** The slowest part is left to the junction: what takes 400 s cannot be told from a creep. */
const SLOWEST = PART_TIMES.length - 1

/** Slower parts are smaller, by this power of their time: sound glass (steep) to aged glass (shallow). */
const POWERS = [
  { power: 0.7, weight: 1 },
  { power: 1.1, weight: 1.5 },
  { power: 1.5, weight: 1.5 },
  { power: 2, weight: 1 },
  { power: 2.7, weight: 0.6 },
]
/** Share of the largest jump at QUICK_TIME, s, from which they fall off. */
const QUICK_SHARE = 0.15
const QUICK_TIME = 3.2

/** A film or a layer of still water: as large up to its own time of diffusion, s, and little beyond. */
const KNEES = [8, 20, 50]
const KNEE_SHARES = [0.25, 0.04, 0.01]
const KNEE_POWER = 2
const KNEE_WEIGHT = 0.3

const fallOff = (size: (time: number) => number): readonly number[] =>
  PART_TIMES.map((time, i) => (i < SLOWEST ? size(time) : 0))

/** What electrodes may be like. Weights and sizes are judgement, common practice, no source. */
const SPECTRA: readonly Spectrum[] = [
  ...POWERS.map(({ power, weight }) => ({
    shares: fallOff((time) => QUICK_SHARE * Math.min(1, (time / QUICK_TIME) ** -power)),
    weight,
  })),
  ...KNEES.flatMap((knee) =>
    KNEE_SHARES.map((share) => ({
      shares: fallOff((time) => share * Math.min(1, (time / knee) ** -KNEE_POWER)),
      weight: KNEE_WEIGHT,
    })),
  ),
]

/** One stage alone, an exponential: its time, s. The slower, the smaller the share of the jump that it carries. */
const STAGES = [6, 12, 20, 32, 50, 80]
const STAGE_WEIGHT = 0.5
const STAGE_SHARE = 0.3
const STAGE_TIME = 25
const STAGE_POWER = 0.7

/** By how much a part of a glass may stray from its spectrum, as a share of itself. */
const STRAY = 0.25
/** The first seconds are the exchange of the solution, which has no spectrum: so many parts are free. */
const FREE_PARTS = 2

/**
 * What does not grow with the jump, in units of the repeatability: the potential that the junction takes on in another
 * solution, at its own pace and in either direction. A sound one is small, a clogged one slow and large.
 */
const JUNCTIONS = [
  { parts: [0, 0, 0, 0.25, 0.4, 0.4, 0.1], weight: 0.45 },
  { parts: [0, 0, 0, 0.3, 1.5, 0.3, 0.08], weight: 0.15 },
  { parts: [0, 0, 0, 0.15, 0.3, 1.5, 0.3], weight: 0.15 },
  { parts: [0, 0, 0, 0.6, 6, 0.6, 0.12], weight: 0.08 },
  { parts: [0, 0, 0, 0.6, 0.6, 6, 0.6], weight: 0.17 },
]
const ORDINARY_JUNCTION = 1

/** Wander in units of the repeatability. */
const WANDERS = [
  { level: 0.12, weight: 0.7 },
  { level: 0.7, weight: 0.3 },
]

/** How often a reading creeps for as long as one cares to watch, and how fast, repeatabilities per minute. */
const CREEP_CHANCE = 0.15
const CREEP_RATE = 3

const known = new WeakMap<StabilityPreset, RelaxationHypothesis[]>()

/** Hypotheses about a sensor of which nothing is known but its kind. Weights sum to 1. The same list for the same preset. */
export function openHypotheses(preset: StabilityPreset): RelaxationHypothesis[] {
  const list = known.get(preset) ?? makeOpenHypotheses(preset)
  known.set(preset, list)
  return list
}

/** What the glass does under one hypothesis, without junction, wander and creep. */
interface Course extends Pick<RelaxationHypothesis, 'tail' | 'tailSd' | 'weight'> {
  partSd: readonly number[]
}

const spectrumOf = ({ shares, weight }: Spectrum, { span, stray = STRAY }: StabilityPreset): Course => {
  const whole = shares.reduce((sum, share) => sum + share, 0)
  return {
    tail: (t) => PART_TIMES.reduce((sum, time, i) => sum + ((shares[i] as number) / whole) * Math.exp(-t / time), 0),
    tailSd: whole * span,
    partSd: shares.map((share, i) => (i < FREE_PARTS ? span / 2 : stray * share * span)),
    weight,
  }
}

const stageOf = (time: number, { span, repeatability }: StabilityPreset): Course => ({
  tail: (t) => Math.exp(-t / time),
  tailSd: span * STAGE_SHARE * Math.min(1, (STAGE_TIME / time) ** STAGE_POWER),
  partSd: OWN_STRAY.map((stray, i) => (i < FREE_PARTS ? span / 2 : stray * repeatability)),
  weight: STAGE_WEIGHT,
})

/** A course with each junction and wander, at rest, and creeping with the ordinary junction. */
function hypothesesOf(course: Course, { repeatability }: StabilityPreset): RelaxationHypothesis[] {
  return JUNCTIONS.flatMap(({ parts, weight: share }, j) =>
    WANDERS.flatMap((wander) => {
      const rests = {
        ...course,
        partSd: course.partSd.map((sd, i) =>
          i < FREE_PARTS ? sd : Math.hypot(sd, (parts[i] as number) * repeatability),
        ),
        wanderSd: wander.level * repeatability,
        creepSd: 0,
        weight: course.weight * share * wander.weight * (1 - CREEP_CHANCE),
      }
      if (j !== ORDINARY_JUNCTION) return [rests]
      // The kinds of junction are not told apart where it creeps.
      const weight = course.weight * wander.weight * CREEP_CHANCE
      return [rests, { ...rests, creepSd: (CREEP_RATE * repeatability) / 60, weight }]
    }),
  )
}

function makeOpenHypotheses(preset: StabilityPreset): RelaxationHypothesis[] {
  return normalise(
    [
      ...SPECTRA.map((spectrum) => spectrumOf(spectrum, preset)),
      ...STAGES.map((time) => stageOf(time, preset)),
    ].flatMap((course) => hypothesesOf(course, preset)),
  )
}

/** How much slower or quicker than its own past an electrode may be today. */
const PACES = [
  { factor: 0.7, weight: 0.12 },
  { factor: 0.85, weight: 0.2 },
  { factor: 1, weight: 0.3 },
  { factor: 1.2, weight: 0.23 },
  { factor: 1.5, weight: 0.15 },
]

/** How far the slow parts stray, in units of how far the past visits lay from their mean. Set by simulation: docs/decisions/001. */
const AS_BEFORE = 2

/**
 * Hypotheses from how this very electrode settled at its last visits: the same tail at nearly the same pace, its size
 * open, and the same junctions as of any other beside it, for what the junction does was not proportional to the jump
 * then either. What differed from visit to visit may differ again. Empty for fewer than two usable traces.
 */
export function historyHypotheses(preset: StabilityPreset, past: readonly SettlingSignature[]): RelaxationHypothesis[] {
  const before = ownTail(past, preset)
  if (!before) return []
  const { tail, strayAt, rested } = before
  const { repeatability, span } = preset
  const partSd = PART_TIMES.map((time, i) =>
    i < FREE_PARTS ? span / 4 : Math.hypot((OWN_STRAY[i] as number) * repeatability, AS_BEFORE * strayAt(time)),
  )
  return normalise(
    PACES.flatMap(({ factor, weight }) =>
      hypothesesOf({ tail: (t) => tail(t / factor), tailSd: span / 2, partSd, weight }, preset),
    ),
  ).map((h) => ({ ...h, own: { rested } }))
}

/** How far each part strays at least from one stage, or from its own past, units of the repeatability. */
const OWN_STRAY = [0, 0, 6, 2, 0.6, 0.3, 0.05]

function normalise(hypotheses: RelaxationHypothesis[]): RelaxationHypothesis[] {
  const total = hypotheses.reduce((sum, h) => sum + h.weight, 0)
  return hypotheses.map((h) => ({ ...h, weight: h.weight / total }))
}
