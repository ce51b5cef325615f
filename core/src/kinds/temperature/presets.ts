import type { StabilityPreset } from '../../stability/presets.ts'

/** degC (common practice, no source). */
export const TEMPERATURE = {
  resolution: 0.1,
  repeatability: 0.03,
  span: 20,
  minimumSeconds: 10,
  limitSeconds: 420,
  temperatureTolerance: 5,
} as const satisfies StabilityPreset
