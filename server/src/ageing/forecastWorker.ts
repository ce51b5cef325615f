import { type DriftForecast, type DriftHistory, forecastSite, type UsualDrift } from '@frustum/core'

/** Runs in a thread of its own. */
export default (job: { histories: DriftHistory[]; usual: UsualDrift }): DriftForecast[] =>
  forecastSite(job.histories, job.usual)
