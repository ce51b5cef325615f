import type { SettlingSignature } from './settlingSignature.ts'

export interface Sample {
  /** Seconds on any clock that does not jump. */
  t: number
  /** The reading; null when the device had none to give. */
  value: number | null
  /** degC */
  temperature?: number | undefined
}

/**
 * `known`: the end is known to what is wanted, but the reading may yet creep. `stable`: it is known, and known to come to
 * rest. `creeping`: it goes on so slowly that two more minutes change it by less than what is wanted.
 */
export type StabilityState = 'settling' | 'disturbed' | 'known' | 'creeping' | 'stable' | 'unsettled'

export type StabilityReason =
  | 'starting'
  | 'value-moving'
  | 'temperature-moving'
  | 'end-uncertain'
  | 'jump'
  | 'noise'
  | 'signal-lost'
  | 'known'
  | 'rest-open'
  | 'slow-creep'
  | 'time-limit'
  /** Of numbers typed off a display. */
  | 'typed-once'
  | 'typed-apart'
  | 'typed-agree'
  | 'own-watch'
  /** Of a line that comes too seldom to show settling. */
  | 'sparse'
  | 'sparse-agree'

export interface StabilityOpinion {
  /** `unsettled`: not known well enough by the time limit, so not to be accepted as settled. */
  state: StabilityState
  reason: StabilityReason
  /** Seconds since the change of solution, or since the last disturbance. */
  elapsed: number
  /** Seconds after which its end was known and stayed so; missing while it is not, and of typed or sparse readings. */
  knownAfter?: number
  /** Units of the reading per minute. */
  driftPerMinute: number
  /** Standard deviation of the quick scatter. */
  noise: number
  /** Where the reading will end; while it creeps, where it will be a minute from now. */
  predictedEnd: number
  /** Half-width of its 95 % interval; while it creeps, it holds for the next two minutes. */
  predictedEndUncertainty: number
  /** degC, where the temperature will end, to which `predictedEnd` belongs; null where none was read. */
  predictedTemperature: number | null
  /** null when it cannot be said yet. */
  secondsToGo: number | null
  /** Probability, 0 to 100 %, that the end lies within the wanted resolution of `predictedEnd`. */
  confidence: number
  /** For typed readings: when the next one is worth having, s from now. */
  nextReadingIn: number
}

export interface StabilityJudge {
  /**
   * Takes the next sample. Constant time and memory.
   * Samples that do not move the clock on are ignored.
   * @throws OutOfRange when the time is not a finite number
   */
  push(sample: Sample): StabilityOpinion
  /** How this trace settled, for the next visit's prior; null while too short or after a disturbance. */
  signature(): SettlingSignature | null
}
