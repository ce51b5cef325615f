import type { StabilityPreset } from './presets.ts'
import { PART_TIMES, type RelaxationHypothesis } from './relaxation.ts'
import { historyTail, type SettlingSignature } from './settlingSignature.ts'

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

/** What electrodes may be like. Weights and sizes are judgement, common practice, no source. */
const SPECTRA: readonly Spectrum[] = [
  ...POWERS.map(({ power, weight }) => ({
    shares: PART_TIMES.map((time, i) => (i < SLOWEST ? QUICK_SHARE * Math.min(1, (time / QUICK_TIME) ** -power) : 0)),
    weight,
  })),
  ...KNEES.flatMap((knee) =>
    KNEE_SHARES.map((share) => ({
      shares: PART_TIMES.map((time, i) => (i < SLOWEST ? share * Math.min(1, (time / knee) ** -KNEE_POWER) : 0)),
      weight: KNEE_WEIGHT,
    })),
  ),
]

/** By how much a part may stray from its spectrum, as a share of itself. */
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

function makeOpenHypotheses(preset: StabilityPreset): RelaxationHypothesis[] {
  const { repeatability, span } = preset
  return normalise(
    SPECTRA.flatMap((spectrum) => {
      const whole = spectrum.shares.reduce((sum, share) => sum + share, 0)
      const tail = (t: number) =>
        PART_TIMES.reduce((sum, time, i) => sum + ((spectrum.shares[i] as number) / whole) * Math.exp(-t / time), 0)
      return JUNCTIONS.flatMap((junction, j) =>
        WANDERS.flatMap((wander) => {
          const partSd = spectrum.shares.map((share, i) =>
            i < FREE_PARTS ? span / 2 : Math.hypot(STRAY * share * span, (junction.parts[i] as number) * repeatability),
          )
          const rests = {
            tail,
            tailSd: whole * span,
            partSd,
            wanderSd: wander.level * repeatability,
            creepSd: 0,
            weight: spectrum.weight * junction.weight * wander.weight * (1 - CREEP_CHANCE),
          }
          return j === ORDINARY_JUNCTION ? [rests, creeping(rests, preset, junction.weight)] : [rests]
        }),
      )
    }),
  )
}

/** The same, but for a creep that never ends. The kinds of junction are not told apart there. */
function creeping(
  rests: RelaxationHypothesis,
  { repeatability }: StabilityPreset,
  share: number,
): RelaxationHypothesis {
  const weight = (rests.weight * CREEP_CHANCE) / (1 - CREEP_CHANCE) / share
  return { ...rests, creepSd: (CREEP_RATE * repeatability) / 60, weight }
}

/** How much slower or quicker than its own past an electrode may be today. */
const PACES = [
  { factor: 0.7, weight: 0.12 },
  { factor: 0.85, weight: 0.2 },
  { factor: 1, weight: 0.3 },
  { factor: 1.2, weight: 0.23 },
  { factor: 1.5, weight: 0.15 },
]

/**
 * Hypotheses from how this very electrode settled at its last visits: the same tail at nearly the same pace, its size
 * open, and the same junctions as of any other beside it, for what the junction does was not proportional to the jump
 * then either. Empty for fewer than two usable traces.
 */
export function historyHypotheses(preset: StabilityPreset, past: readonly SettlingSignature[]): RelaxationHypothesis[] {
  const tail = historyTail(past, preset)
  if (!tail) return []
  const { repeatability, span } = preset
  return normalise(
    PACES.flatMap((pace) =>
      JUNCTIONS.flatMap((junction, j) =>
        WANDERS.flatMap((wander) => {
          const rests = {
            tail: (t: number) => tail(t / pace.factor),
            tailSd: span / 2,
            partSd: junction.parts.map((part, i) =>
              i < FREE_PARTS ? span / 4 : Math.max(part, OWN_STRAY[i] as number) * repeatability,
            ),
            wanderSd: wander.level * repeatability,
            creepSd: 0,
            weight: pace.weight * wander.weight * (OWN_JUNCTIONS[j] as number) * (1 - CREEP_CHANCE),
          }
          return j === ORDINARY_JUNCTION ? [rests, creeping(rests, preset, OWN_JUNCTIONS[j] as number)] : [rests]
        }),
      ),
    ),
  )
}

/** Weights of JUNCTIONS of an electrode whose tails are known: what its junction usually does is in them. */
const OWN_JUNCTIONS = [0.5, 0.15, 0.17, 0.06, 0.12]

/** How far each part strays at least from its own past, units of the repeatability. */
const OWN_STRAY = [0, 0, 6, 2, 0.6, 0.3, 0.05]

function normalise(hypotheses: RelaxationHypothesis[]): RelaxationHypothesis[] {
  const total = hypotheses.reduce((sum, h) => sum + h.weight, 0)
  return hypotheses.map((h) => ({ ...h, weight: h.weight / total }))
}
