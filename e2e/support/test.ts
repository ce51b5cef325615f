import { fileURLToPath } from 'node:url'
import { test as base } from '@playwright/test'
import { StationHost } from './stationHost.ts'

const WEB = fileURLToPath(new URL('../../web/dist', import.meta.url))

interface Journey {
  /** Positions of the sensors that the station of this journey has; the whole demo station for 'all'. */
  sensors: readonly string[] | 'all' | 'none'
  /** How many times faster than the wall clock its time runs. */
  rate: number
}

const kept = (sensors: Journey['sensors']) =>
  sensors === 'all' ? {} : sensors === 'none' ? { empty: true } : { sensors }

/** A test with a station of its own, at which `page.goto('/')` arrives. */
const test = base.extend<
  Journey & {
    station: { url: string; pass(ms: number): Promise<void> }
    /** The station's clock goes on by so much, ms. */
    pass: (ms: number) => Promise<void>
  },
  { host: StationHost }
>({
  sensors: ['all', { option: true }],
  rate: [10, { option: true }],
  host: [
    // biome-ignore lint/correctness/noEmptyPattern: Playwright reads what a fixture needs from this pattern
    async ({}, use) => {
      const host = new StationHost()
      await use(host)
      host.stop()
    },
    { scope: 'worker' },
  ],
  station: async ({ host, sensors, rate }, use) => {
    const station = await host.open({ rate, webFolder: WEB, ...kept(sensors) })
    await use(station)
    await station.close()
  },
  pass: async ({ station }, use) => use(station.pass),
  baseURL: async ({ station }, use) => use(station.url),
})

type Body = Parameters<typeof test>[2]

/** A journey on a station of its own that has these sensors, all of the demo's, or not even a site. */
export function journey(sensors: Journey['sensors'], title: string, body: Body): void {
  test.describe(() => {
    test.use({ sensors })
    test(title, body)
  })
}

export { expect } from '@playwright/test'
