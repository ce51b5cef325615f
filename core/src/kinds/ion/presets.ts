import type { StabilityPreset } from '../../stability/presets.ts'

/** mV: 1 mV is 4 % of the concentration of a single-charged ion (common practice, no source). */
export const ION_MILLIVOLTS = {
  resolution: 1,
  repeatability: 0.3,
  span: 160,
  pace: 2,
  minimumSeconds: 20,
  limitSeconds: 600,
  temperatureTolerance: 0.3,
} as const satisfies StabilityPreset
