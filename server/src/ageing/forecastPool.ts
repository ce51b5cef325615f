import {
  type AgeingSeries,
  type DriftForecast,
  type DriftHistory,
  type EndOfLife,
  endOfLife,
  forecastSite,
  type UsualDrift,
} from '@frustum/core'
import type { Piscina } from 'piscina'
import type { ForecastJob } from './forecastWorker.ts'

/**
 * So many visits are computed within the time of a few requests; more of them in a thread of their own, so that live
 * readings and captured points are not kept waiting.
 */
const HERE_UP_TO_VISITS = 2000
/** Ends of life take longer: what their courses are is looked at one by one. */
const HERE_UP_TO_SERIES = 60
const IDLE_MS = 60_000

let pool: Promise<Piscina> | null = null

/** Loaded when a site is that large. */
async function makePool(): Promise<Piscina> {
  const { Piscina } = await import('piscina')
  return new Piscina({
    filename: new URL('./forecastWorker.ts', import.meta.url).href,
    execArgv: ['--import', 'tsx'],
    minThreads: 0,
    maxThreads: 1,
    idleTimeout: IDLE_MS,
  })
}

async function elsewhere<T>(job: ForecastJob): Promise<T> {
  pool ??= makePool()
  return (await pool).run(job)
}

/** As `forecastSite`, without holding up the server. */
export async function forecastOffThread(histories: DriftHistory[], usual: UsualDrift): Promise<DriftForecast[]> {
  const visits = histories.reduce((sum, h) => sum + h.observations.length, 0)
  if (visits <= HERE_UP_TO_VISITS) return forecastSite(histories, usual)
  return elsewhere({ histories, usual })
}

/** As `endOfLife` of each, without holding up the server. */
export async function endsOffThread(series: readonly AgeingSeries[]): Promise<EndOfLife[]> {
  if (series.length <= HERE_UP_TO_SERIES) return series.map(endOfLife)
  return elsewhere({ series })
}
