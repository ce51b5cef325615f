import { DAY_MS, type DriftForecast, expectedError } from '@frustum/core'

export interface ConePoint {
  at: number
  mean: number
  /** Half-widths that hold half and 95 % of what may be. */
  inner: number
  outer: number
}

/** The cone of forecast error from the last visit to `until`, in even steps. */
export function cone(forecast: DriftForecast, until: number, steps = 24): ConePoint[] {
  const days = Math.max(1, (until - forecast.from) / DAY_MS)
  return Array.from({ length: steps + 1 }, (_, i) => {
    const ahead = (days * i) / steps
    const { mean, sd } = expectedError(forecast, ahead)
    return { at: forecast.from + ahead * DAY_MS, mean, inner: 0.674 * sd, outer: 1.96 * sd }
  })
}
