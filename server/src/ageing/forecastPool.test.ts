import { DAY_MS, type DriftHistory, forecastSite } from '@frustum/core'
import { expect, it } from 'vitest'
import { forecastOffThread } from './forecastPool.ts'

const USUAL = { rateSd: 0.05 / 30, walk: 0.02 ** 2 / 30 }

const site = (sensors: number, visits: number): DriftHistory[] =>
  Array.from({ length: sensors }, (_, s) => ({
    observations: Array.from({ length: visits }, (_, i) => ({
      at: 30 * i * DAY_MS,
      asFound: i === 0 ? null : 0.01 * ((s % 5) - 2) + 0.003 * ((7 * i + s) % 3),
      asLeft: 0,
      uncertainty: 0.01,
      adjusted: true,
    })),
  }))

it('a large site is computed in a thread of its own, with the same outcome, while the server goes on', async () => {
  const histories = site(400, 30)
  let ticks = 0
  const timer = setInterval(() => ticks++, 5)
  const elsewhere = await forecastOffThread(histories, USUAL)
  clearInterval(timer)
  // The first turn of the clock would come after the whole computation if it were done here.
  expect(ticks).toBeGreaterThan(3)
  expect(elsewhere).toEqual(forecastSite(histories, USUAL))
})

it('a small one is computed at once, and an error comes back as one', async () => {
  const histories = site(3, 4)
  expect(await forecastOffThread(histories, USUAL)).toEqual(forecastSite(histories, USUAL))
  await expect(forecastOffThread([{ observations: [] }], USUAL)).rejects.toThrow('at least one visit')
})
