export const DAY_MS = 86_400_000

/** One visit as the forecast sees it. Errors are displayed minus true at the process value, in the unit of its kind. */
export interface DriftObservation {
  /** Epoch ms. */
  at: number
  /** Error met on arrival; null when it was not measured (a first calibration). */
  asFound: number | null
  /** Error left behind: 0 ideally after an adjustment, the error as found when it was left alone. */
  asLeft: number
  /** Half-width of the 95 % interval of either. */
  uncertainty: number
  adjusted: boolean
  /** A value beside the display, without a visit: it says how the sensor errs, and no rule counts from it. */
  beside?: true
  /** What the device's numbers did to the displayed error until the next visit: known, and no drift. */
  shift?: number
}

/** What is assumed of a kind of sensor of which nothing is known yet: no drift on average, and how far it may stray. */
export interface UsualDrift {
  /** Standard deviation of the drift rate, per day. */
  rateSd: number
  /** Random walk: variance per day. */
  walk: number
}
