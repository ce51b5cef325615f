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
  /** By how much the parts of its settling may stray from those of glass, as a share of themselves. 0.25 unless said. */
  stray?: number
  /** What it is about to come to, where that is known: whoever comes from farther off than half of the span brings more along. */
  about?: number
  /** A reading is never accepted sooner than this after a change of solution. */
  minimumSeconds: number
  /** What is not known by then is called not settled. */
  limitSeconds: number
  /** The temperature must end within this of where it is now, degC. */
  temperatureTolerance: number
}

/** A thousand times the span: farther off it is no solution, but a device that is broken. */
const MOST_DOUBLINGS = 10

const wider = new WeakMap<StabilityPreset, Map<number, StabilityPreset>>()

/** The preset for a reading that begins at `value`: its span is doubled until it is twice the way. */
export function spanningFrom(preset: StabilityPreset, value: number): StabilityPreset {
  const { about, span } = preset
  if (about === undefined) return preset
  const doublings = Math.min(MOST_DOUBLINGS, Math.ceil(Math.log2((2 * Math.abs(value - about)) / span)))
  if (!(doublings > 0)) return preset
  const known = wider.get(preset) ?? new Map<number, StabilityPreset>()
  wider.set(preset, known)
  const found = known.get(doublings) ?? { ...preset, span: span * 2 ** doublings }
  known.set(doublings, found)
  return found
}

/** Slower creep than this does no harm, repeatabilities per minute: 0.01 pH a minute of a pH electrode. */
const HARMLESS_CREEP = 1

/** Creep that does no harm, units of the preset per second. */
export const harmlessCreep = ({ repeatability, pace = 1 }: StabilityPreset): number =>
  (HARMLESS_CREEP * repeatability) / 60 / pace

/** What counts in shares of its own value has one preset for each two or three figures. */
export const rounded = (level: number) => Number(Math.max(level, 1e-4).toPrecision(2))

const scaled = new Map<string, StabilityPreset>()

export function presetOnce(key: string, make: () => StabilityPreset): StabilityPreset {
  const found = scaled.get(key) ?? make()
  // Equal levels give the same object, so that what is derived from a preset is derived once.
  if (scaled.size < 500) scaled.set(key, found)
  return found
}

/** Preset for a sensor that reads mg/L straight, at about `level`: known to 2 %, at least to 0.02 mg/L. */
export function plainPreset(level: number): StabilityPreset {
  const size = Math.max(1, rounded(Math.abs(level)))
  return presetOnce(`plain ${size}`, () => ({
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
