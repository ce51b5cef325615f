import type { StabilityPreset } from '../../stability/presets.ts'

/** mV. Common practice, no source: 0.03 pH is what a calibration needs, 0.01 pH what a good electrode repeats. */
export const PH_MILLIVOLTS = {
  resolution: 1.77,
  repeatability: 0.6,
  span: 250,
  minimumSeconds: 12,
  limitSeconds: 300,
  temperatureTolerance: 0.5,
} as const satisfies StabilityPreset

/** The same of a display, pH. */
export const PH_VALUE = {
  resolution: 0.03,
  repeatability: 0.01,
  span: 4,
  minimumSeconds: 12,
  limitSeconds: 300,
  temperatureTolerance: 0.5,
} as const satisfies StabilityPreset
