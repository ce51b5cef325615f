import { type DriftForecast, errorQuantile, expectedError, probabilityInTolerance } from './driftForecast.ts'
import { DAY_MS } from './observation.ts'

/** The forecast at one instant: where the error may be. */
export interface ConePoint {
  at: number
  mean: number
  /** Between `low` and `high` lie 95 % of the chances, between `lower` and `upper` half of them. */
  low: number
  lower: number
  upper: number
  high: number
  /** Probability of being within tolerance. */
  within: number
}

/**
 * The frustum: the cone of forecast error from the last visit to `until`, in even steps.
 * @param until epoch ms; at least a day after the last visit is drawn
 */
export function forecastCone(forecast: DriftForecast, tolerance: number, until: number, steps: number): ConePoint[] {
  const days = Math.max(1, (until - forecast.from) / DAY_MS)
  return Array.from({ length: steps + 1 }, (_, i) => {
    const ahead = (days * i) / steps
    return {
      at: forecast.from + ahead * DAY_MS,
      mean: expectedError(forecast, ahead).mean,
      low: errorQuantile(forecast, ahead, 0.025),
      lower: errorQuantile(forecast, ahead, 0.25),
      upper: errorQuantile(forecast, ahead, 0.75),
      high: errorQuantile(forecast, ahead, 0.975),
      within: probabilityInTolerance(forecast, ahead, tolerance),
    }
  })
}
