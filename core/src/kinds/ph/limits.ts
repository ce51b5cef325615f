/** Limits by which a pH electrode is judged. Common practice, no source. */
export const PH_LIMITS = {
  /** Slope efficiency, 1. */
  slopeSound: 0.95,
  slopeAgeing: 0.9,
  slopeReplace: 0.85,
  slopeHigh: 1.02,
  /** Zero at pH 7, mV. */
  zeroSound: 15,
  zeroWatch: 30,
  zeroReplace: 60,
  /** Buffers nearer than this give no trustworthy slope, pH. */
  minimumSpan: 2,
  /** The two buffers' temperatures, degC. */
  temperatureGap: 2,
  temperatureLow: 5,
  temperatureHigh: 45,
} as const
