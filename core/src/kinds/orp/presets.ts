import type { StabilityPreset } from '../../stability/presets.ts'

/** mV: 3 mV is what a standard is worth (common practice, no source). */
export const ORP_MILLIVOLTS = {
  resolution: 3,
  repeatability: 0.8,
  span: 500,
  minimumSeconds: 12,
  limitSeconds: 420,
  temperatureTolerance: 1,
} as const satisfies StabilityPreset
