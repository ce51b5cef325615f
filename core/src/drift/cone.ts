import { type DriftForecast, errorQuantile, expectedError, probabilityBetween } from './driftForecast.ts'
import type { NumbersChange } from './numbersChanged.ts'
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
  probabilityInTolerance: number
}

/**
 * The frustum: the cone of forecast error from the last visit to `until`, in even steps.
 * @param until epoch ms; at least a day after the last visit is drawn
 * @param changes of the device's numbers since that visit, which the forecast counts from it on: the cone has each
 *   as a step at its own moment
 */
export function forecastCone(
  forecast: DriftForecast,
  tolerance: number,
  until: number,
  steps: number,
  changes: readonly NumbersChange[] = [],
): ConePoint[] {
  const days = Math.max(1, (until - forecast.from) / DAY_MS)
  const even = Array.from({ length: steps + 1 }, (_, i) => forecast.from + ((days * i) / steps) * DAY_MS)
  const end = even.at(-1) as number
  const inside = changes.filter((c) => c.at > forecast.from && c.at < end)
  const instants = [...even, ...inside.flatMap((c) => [c.at - 1, c.at])].toSorted((a, b) => a - b)
  return instants.map((at) => {
    const ahead = (at - forecast.from) / DAY_MS
    const toCome = inside.reduce((sum, c) => (c.at > at ? sum + c.shift : sum), 0)
    const quantile = (p: number) => errorQuantile(forecast, ahead, p) - toCome
    return {
      at,
      mean: expectedError(forecast, ahead).mean - toCome,
      low: quantile(0.025),
      lower: quantile(0.25),
      upper: quantile(0.75),
      high: quantile(0.975),
      probabilityInTolerance: probabilityBetween(forecast, ahead, toCome - tolerance, toCome + tolerance),
    }
  })
}
