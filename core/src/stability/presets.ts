/** What counts as settled for one kind of reading. All potentials in mV, pH in pH, times in s. */
export interface StabilityPreset {
  /** The wanted half-width of the 95 % interval of the end value. */
  resolution: number
  /** What a sound sensor of this kind repeats to: the yardstick for noise, wander and small second stages. */
  repeatability: number
  /** The largest change that a reading of this kind makes when the sensor goes from one solution to the next. */
  span: number
  /** A reading is never accepted sooner than this after a change of solution. */
  minimumSeconds: number
  /** What is not known by then is called not settled. */
  limitSeconds: number
  /** The temperature must end within this of where it is now, degC. */
  temperatureTolerance: number
}

/** Presets by what is read. Common practice, no source: 0.03 pH is what a calibration needs, 0.01 pH what a good electrode repeats. */
export const STABILITY_PRESETS = {
  phMillivolts: {
    resolution: 2.2,
    repeatability: 0.6,
    span: 250,
    minimumSeconds: 12,
    limitSeconds: 300,
    temperatureTolerance: 0.5,
  },
  phValue: {
    resolution: 0.03,
    repeatability: 0.01,
    span: 4,
    minimumSeconds: 12,
    limitSeconds: 300,
    temperatureTolerance: 0.5,
  },
} as const satisfies Record<string, StabilityPreset>
