import { presetOnce, rounded, type StabilityPreset } from '../../stability/presets.ts'

/**
 * Preset for a conductivity (or what is displayed of it) of about `level`, in its unit: known to 0.5 %, repeats to
 * 0.12 % (common practice, no source).
 */
export function conductivityPreset(level: number): StabilityPreset {
  const size = rounded(Math.abs(level))
  return presetOnce(`conductivity ${size}`, () => ({
    resolution: 0.005 * size,
    repeatability: 0.0012 * size,
    span: 2 * size,
    about: size,
    // Pockets and deposits empty at a pace of their own.
    stray: 0.5,
    pace: 0.7,
    minimumSeconds: 10,
    limitSeconds: 240,
    temperatureTolerance: 0.5,
  }))
}
