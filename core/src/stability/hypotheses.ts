import type { StabilityPreset } from './presets.ts'
import type { RelaxationHypothesis, TailShape } from './relaxation.ts'
import { historyTail, type SettlingSignature } from './settlingSignature.ts'

const exponential =
  (tau: number): TailShape =>
  (t) =>
    Math.exp(-t / tau)

/** Kohlrausch's law: a spread of time constants around one. */
const stretched =
  (tau: number, beta: number): TailShape =>
  (t) =>
    Math.exp(-((t / tau) ** beta))

/** A power law, as of surface exchange of the second order (power 1) and what lies between it and an exponential. */
const hyperbolic =
  (time: number, power: number): TailShape =>
  (t) =>
    (1 + t / time) ** -power

/** Out-diffusion from a layer or a clogged junction: falls as 1 / sqrt(t) until the layer is empty. */
const diffusion =
  (time: number): TailShape =>
  (t) =>
    Math.exp(-t / (5 * time)) / (1 + Math.sqrt(t / time))

interface WeightedShape {
  tail: TailShape
  /** Characteristic time, s. */
  time: number
  weight: number
}

const family = (weight: number, times: number[], shape: (time: number) => TailShape): WeightedShape[] =>
  // Slow electrodes are rarer than quick ones, but not by much.
  times.map((time) => ({ tail: shape(time), time, weight: (weight / times.length) * (20 / time) ** 0.3 }))

/** What the tail of an unknown electrode may look like. The weights are judgement, common practice, no source. */
const TAILS: readonly WeightedShape[] = [
  ...family(0.4, [8, 11, 15, 21, 29, 40, 56, 78, 110, 160, 240], exponential),
  ...family(0.17, [6, 10, 16, 26, 42, 68, 110], (time) => stretched(time, 0.8)),
  ...family(0.13, [5, 9, 16, 28, 50, 90], (time) => stretched(time, 0.6)),
  ...family(0.1, [4, 8, 16, 32, 64, 128], (time) => hyperbolic(time, 2)),
  ...family(0.1, [2, 5, 12, 28, 60], (time) => hyperbolic(time, 1.2)),
  ...family(0.1, [6, 14, 30, 60], diffusion),
]

/**
 * How far the tail may stray from its shape in each of STRAY_TIMES, in units of the repeatability, and how often:
 * a sound electrode, one with a slow second stage, one that does several things at once.
 */
const STRAYS = [
  { profile: [0.5, 0.4, 0.15, 0.05], weight: 0.6 },
  { profile: [1, 1.5, 1, 0.3], weight: 0.15 },
  { profile: [12, 6, 1, 0.2], weight: 0.25 },
]

/** Wander in units of the repeatability. */
const WANDERS = [
  { level: 0.12, weight: 0.7 },
  { level: 0.7, weight: 0.3 },
]

/** How often a reading creeps for as long as one cares to watch, and how fast, repeatabilities per minute. */
const CREEP_CHANCE = 0.08
const CREEP_RATE = 5

const known = new WeakMap<StabilityPreset, RelaxationHypothesis[]>()

/** Hypotheses about a sensor of which nothing is known but its kind. Weights sum to 1. The same list for the same preset. */
export function openHypotheses(preset: StabilityPreset): RelaxationHypothesis[] {
  const list = known.get(preset) ?? makeOpenHypotheses(preset)
  known.set(preset, list)
  return list
}

function makeOpenHypotheses(preset: StabilityPreset): RelaxationHypothesis[] {
  const { repeatability, span } = preset
  const common = { fastSd: span / 2 }
  // The slower a tail, the smaller the share of the jump that it can carry.
  const tailSd = (time: number) => span * 0.2 * Math.min(1, (25 / time) ** 0.7)
  const resting = TAILS.flatMap(({ tail, time, weight }) =>
    STRAYS.flatMap((stray) =>
      WANDERS.map((wander) => ({
        ...common,
        tail,
        tailSd: tailSd(time),
        straySd: stray.profile.map((p) => p * repeatability),
        wanderSd: wander.level * repeatability,
        creepChance: CREEP_CHANCE,
        creepSd: (CREEP_RATE * repeatability) / 60,
        weight: weight * stray.weight * wander.weight,
      })),
    ),
  )
  return normalise([...resting, ...still(preset)])
}

/** Chance that the sensor was not moved at all, or has settled long since, and that it then creeps. */
const STILL_WEIGHT = 0.1
const STILL_CREEP_CHANCE = 0.3

/** Nothing much is going on: small tails, no fall to wait out. */
function still({ repeatability }: StabilityPreset): RelaxationHypothesis[] {
  return [15, 40, 110].flatMap((time) =>
    [1.5, 10].flatMap((size) =>
      WANDERS.map((wander) => ({
        tail: exponential(time),
        tailSd: size * repeatability,
        fastSd: size * repeatability,
        straySd: [0.5, 0.4, 0.15, 0.05].map((p) => p * repeatability),
        wanderSd: wander.level * repeatability,
        creepChance: STILL_CREEP_CHANCE,
        creepSd: (CREEP_RATE * repeatability) / 60,
        weight: (STILL_WEIGHT / 6) * wander.weight,
      })),
    ),
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

/** How far an electrode strays from its own past, as STRAYS. */
const OWN_STRAYS = [
  { profile: [2, 2.5, 1, 0.2], weight: 0.6 },
  { profile: [6, 5, 2, 0.5], weight: 0.4 },
]

/**
 * Hypotheses from how this very electrode settled at its last visits: the same tail, at nearly the same pace, its
 * size open, with a little of something slower. Empty for fewer than two usable traces.
 */
export function historyHypotheses(preset: StabilityPreset, past: readonly SettlingSignature[]): RelaxationHypothesis[] {
  const tail = historyTail(past, preset)
  if (!tail) return []
  const { repeatability, span } = preset
  return normalise(
    PACES.flatMap((pace) =>
      OWN_STRAYS.flatMap((stray) =>
        WANDERS.map((wander) => ({
          tail: (t: number) => tail(t / pace.factor),
          tailSd: span * 0.8,
          fastSd: span / 4,
          straySd: stray.profile.map((p) => p * repeatability),
          wanderSd: wander.level * repeatability,
          creepChance: CREEP_CHANCE,
          creepSd: (CREEP_RATE * repeatability) / 60,
          weight: pace.weight * wander.weight * stray.weight,
        })),
      ),
    ),
  )
}

function normalise(hypotheses: RelaxationHypothesis[]): RelaxationHypothesis[] {
  const total = hypotheses.reduce((sum, h) => sum + h.weight, 0)
  return hypotheses.map((h) => ({ ...h, weight: h.weight / total }))
}
