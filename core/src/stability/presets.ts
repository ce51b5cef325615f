/** What counts as settled for one kind of reading. All potentials in mV, pH in pH, times in s. */
export interface StabilityPreset {
  /** How its settling compares with a glass electrode's: 0.5 for twice as quick. 1 unless said. */
  pace?: number
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
  /** mV: 3 mV is what a standard is worth. */
  orp: {
    resolution: 3,
    repeatability: 0.8,
    span: 500,
    minimumSeconds: 12,
    limitSeconds: 420,
    temperatureTolerance: 1,
  },
  /** mV: 1 mV is 4 % of the concentration of a single-charged ion. */
  ion: {
    resolution: 1,
    repeatability: 0.3,
    span: 160,
    pace: 2,
    minimumSeconds: 20,
    limitSeconds: 600,
    temperatureTolerance: 0.3,
  },
  /** degC. */
  temperature: {
    resolution: 0.1,
    repeatability: 0.03,
    span: 20,
    minimumSeconds: 10,
    limitSeconds: 420,
    temperatureTolerance: 5,
  },
} as const satisfies Record<string, StabilityPreset>

/** A conductivity counts in shares of its own value: a step of two or three figures is one preset each. */
const rounded = (level: number) => Number(Math.max(level, 1e-4).toPrecision(2))

const scaled = new Map<string, StabilityPreset>()

function kept(key: string, make: () => StabilityPreset): StabilityPreset {
  const found = scaled.get(key) ?? make()
  // Equal levels give the same object, so that what is derived from a preset is derived once.
  if (scaled.size < 500) scaled.set(key, found)
  return found
}

/**
 * Preset for a conductivity (or what is displayed of it) of about `level`, in its unit: known to 0.5 %, repeats to
 * 0.12 % (common practice, no source).
 */
export function conductivityPreset(level: number): StabilityPreset {
  const size = rounded(Math.abs(level))
  return kept(`conductivity ${size}`, () => ({
    resolution: 0.005 * size,
    repeatability: 0.0012 * size,
    span: size,
    pace: 0.5,
    minimumSeconds: 10,
    limitSeconds: 240,
    temperatureTolerance: 0.5,
  }))
}

/** Preset for a sensor that reads mg/L straight, at about `level`: known to 2 %, at least to 0.02 mg/L. */
export function plainPreset(level: number): StabilityPreset {
  const size = Math.max(1, rounded(Math.abs(level)))
  return kept(`plain ${size}`, () => ({
    resolution: 0.02 * size,
    repeatability: 0.006 * size,
    span: 1.5 * size,
    minimumSeconds: 15,
    limitSeconds: 420,
    temperatureTolerance: 0.5,
  }))
}

/**
 * Preset for readings that come rounded to `step` (in the unit of the preset), as a display shows them: rounding
 * scatters by step/√12, and the end is not asked for any closer than that last digit.
 */
export function roundedPreset(preset: StabilityPreset, step: number): StabilityPreset {
  const repeatability = Math.max(preset.repeatability, step / Math.sqrt(12))
  const resolution = Math.max(preset.resolution, step)
  const same = repeatability === preset.repeatability && resolution === preset.resolution
  return same ? preset : { ...preset, repeatability, resolution }
}
