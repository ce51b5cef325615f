import { type DriftForecast, type DriftHistory, forecastSite, type UsualDrift } from '@frustum/core'
import type { Piscina } from 'piscina'

/**
 * So many visits are computed within the time of a few requests; more of them in a thread of their own, so that live
 * readings and captured points are not kept waiting.
 */
const HERE_UP_TO_VISITS = 2000
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

/** As `forecastSite`, without holding up the server. */
export async function forecastOffThread(histories: DriftHistory[], usual: UsualDrift): Promise<DriftForecast[]> {
  const visits = histories.reduce((sum, h) => sum + h.observations.length, 0)
  if (visits <= HERE_UP_TO_VISITS) return forecastSite(histories, usual)
  pool ??= makePool()
  return (await pool).run({ histories, usual })
}
