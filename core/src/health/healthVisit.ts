import type { StandardReading } from './whatMoved.ts'

/** What one visit told of the sensor's health; null where it was not looked at. */
export interface HealthVisit {
  /** Epoch ms. */
  at: number
  /** Zero point: mV; of a conductivity cell, its reading in dry air as a share of its usual reading. */
  zero: number | null
  /** Slope efficiency, share of ideal. */
  slope: number | null
  /** Seconds until the reading in a standard was stable, and its scatter there, mV or share of the reading. */
  settlingSeconds: number | null
  noise: number | null
  /** Of its readings in standards the most restless one against the middle one, times. */
  noiseApart: number | null
  /** The same of its readings in the process. */
  processNoise: number | null
  /** How far each reading in a standard lay from what the calibration before foresaw. */
  againstBefore: readonly StandardReading[] | null
  /** Difference on the way back to the first standard, mV. */
  hysteresis: number | null
  /** By how much cleaning moved the reading: mV, or a share of the reading of a cell. */
  cleaning: number | null
  /** By how much of that it moved away from what it read in the process, mV. */
  cleaningAway: number | null
  /** How many times as fast it settled in the same standard after cleaning. */
  fasterAfterCleaning: number | null
  /** Conductivity: right over shown. */
  cellFactor: number | null
  /** Error in the process that the standards do not explain, in tolerances, by a hand meter. */
  tankAlone: number | null
  /** How far the process lay from its usual value, in tolerances: by this visit's standards, and by those before. */
  tankNow: number | null
  tankByBefore: number | null
  /** Own thermometer against another, degC. */
  temperatureError: number | null
  /** What its own thermometer showed: in the process beyond what is usual there, and in the standards, degC. */
  processWarmer: number | null
  standardTemperature: number | null
  /** The points did not fit together, or one was nearer another standard. */
  standardsDisagree: boolean | null
  /** Of what moved since the visit before: shared by the body, and its own, mV. */
  sharedShift: number | null
  ownShift: number | null
  /** Times what it was when new. */
  junctionResistance: number | null
  glassResistance: number | null
  /** The device no longer held the calibration it was given. */
  deviceNumbersChanged: boolean | null
}
