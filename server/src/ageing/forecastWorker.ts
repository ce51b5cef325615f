import {
  type AgeingSeries,
  type DriftForecast,
  type DriftHistory,
  type EndOfLife,
  endOfLife,
  forecastSite,
  type UsualDrift,
} from '@frustum/core'

/** What the thread is asked for: forecasts of like sensors, or when ageing numbers get to their limits. */
export type ForecastJob = { histories: DriftHistory[]; usual: UsualDrift } | { series: readonly AgeingSeries[] }

/** Runs in a thread of its own. */
export default (job: ForecastJob): DriftForecast[] | EndOfLife[] =>
  'series' in job ? job.series.map(endOfLife) : forecastSite(job.histories, job.usual)
