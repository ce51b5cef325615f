import { type AgeingSeries, DAY_MS, type DriftHistory, endOfLife, forecastSite } from '@frustum/core'
import { expect, it } from 'vitest'
import { endsOffThread, forecastOffThread } from './forecastPool.ts'

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

it('ends of life come from the same thread when there are many, and in their order', async () => {
  const ageing = (last: number): AgeingSeries => ({
    name: 'slope',
    unit: '%',
    decimals: 1,
    limit: 85,
    dies: 'below',
    fresh: 100,
    readSd: 0.4,
    points: [99, 97, 96, last].map((value, i) => ({ at: 30 * i * DAY_MS, value })),
  })
  const many = Array.from({ length: 90 }, (_, i) => ageing(95 - i / 30))
  expect(await endsOffThread(many)).toEqual(many.map(endOfLife))
  expect(await endsOffThread(many.slice(0, 2))).toEqual(many.slice(0, 2).map(endOfLife))
})
