import { fileURLToPath } from 'node:url'
import { type BrowserContext, chromium, expect, type Page } from '@playwright/test'
import { CHROMIUM_FLAGS, ensureChromium } from '../scripts/chromium.ts'
import { startApp } from './support/app.ts'
import { dip, main, skip, startVisit, step } from './support/bench.ts'
import { openStation } from './support/station.ts'

const app = await startApp()
const browser = await chromium.launch({ executablePath: ensureChromium(), args: [...CHROMIUM_FLAGS] })

const wide = { width: 1280, height: 800 }
const context = (colorScheme: 'light' | 'dark') => browser.newContext({ baseURL: app.url, viewport: wide, colorScheme })
const shoot = (page: Page, name: string) => page.screenshot({ path: `docs/screenshots/${name}.png` })

/** A moment for the page and its charts; the first page of all waits for forecasts that nobody asked for yet. */
const settled = async (page: Page) => {
  await page.waitForTimeout(1500)
  await page.getByText(/^Fetching /).waitFor({ state: 'hidden', timeout: 120_000 })
  await page.waitForTimeout(1500)
}
const offered = (page: Page) => expect(main(page)).toBeEnabled({ timeout: 240_000 })

/** Names of the views that are wanted; none is all of them. */
const only = process.argv.slice(2)
const OF_JOURNEYS = ['bench', 'bench-phone', 'result', 'record', 'trip']

async function still(
  on: BrowserContext,
  path: string,
  name: string,
  before?: (page: Page) => Promise<void>,
): Promise<void> {
  if (only.length > 0 && !only.includes(name)) return
  const page = await on.newPage()
  await page.goto(app.url + path)
  await before?.(page)
  await settled(page)
  await shoot(page, name)
  await page.close()
}

async function twoPoints(page: Page): Promise<void> {
  await startVisit(page, 'CH-pH-2', /Two points/)
  await main(page).click()
  await step(page, /read it as found/)
  await skip(page, 'It was out of the water already')
  await step(page, /fresh pH 7.00/)
  await dip(page, 'pH 7.00')
  await offered(page)
  await main(page).click()
  await step(page, /Clean the glass/)
  await dip(page, 'rinse')
  await main(page).click()
  await step(page, 'Into pH 7.00')
  await dip(page, 'pH 7.00')
  await offered(page)
  await main(page).click()
  await step(page, /Rinse well/)
  await dip(page, 'rinse')
  await main(page).click()
  await step(page, 'Into pH 10.01')
  await dip(page, 'pH 10.01')
  await page.waitForTimeout(24_000)
  await shoot(page, 'bench')
  await page.setViewportSize({ width: 390, height: 844 })
  await settled(page)
  await shoot(page, 'bench-phone')
  await page.setViewportSize(wide)
  await offered(page)
  await main(page).click()
  await step(page, /two points say/)
  await settled(page)
  await shoot(page, 'result')
}

async function trip(page: Page): Promise<void> {
  await page.goto(`${app.url}/trips/new`)
  await page.getByRole('button', { name: 'Cuttlefish Hall' }).click()
  await page.getByRole('button', { name: /^Start with/ }).click()
  await page.waitForURL(/trips\/[0-9a-f]{8}/)
  await settled(page)
  await shoot(page, 'trip')
}

try {
  const [chalk, lamp] = [await context('light'), await context('dark')]
  await still(chalk, '/', 'rounds')
  await still(lamp, '/walk/1', 'walk', (page) => page.setViewportSize({ width: 390, height: 844 }))
  await still(lamp, '/probes/CH-pH-2', 'probe')
  await still(chalk, '/probes', 'probes')
  await still(chalk, '/plan', 'plan', (page) =>
    page
      .getByLabel('Calendar')
      .getByRole('button', { name: /Cuttlefish Hall/ })
      .first()
      .click(),
  )
  await still(chalk, '/probes/CH-pH-2/readings?last=604800000', 'readings')
  await still(chalk, '/shelf', 'shelf')
  await still(chalk, '/site', 'site')
  await still(chalk, '/ledger', 'ledger')
  await still(chalk, '/reckoner/seawater?temperature=26.4&hold=here&at=53.1', 'reckoner')
  await still(chalk, '/rig', 'rig')
  await still(chalk, '/rig/position/3/line', 'line', async (page) => {
    await page.getByText('Connected. All mapped values can be read.').waitFor()
  })
  await still(lamp, '/alarms', 'alarms', async (page) => {
    // A limit that the water is beyond: what lasts is not all a matter of the shelf.
    const limits = { high: 60, hysteresis: 2, delaySeconds: 0 }
    const answer = await page.request.post('/api/probes/BR-Cl-1/limits', { data: { operator: 'I. Marrow', limits } })
    expect(answer.status()).toBe(200)
    await page.getByText(/BR-Cl-1 high/).waitFor({ timeout: 120_000 })
  })
  await firstRun(chalk)
  if (only.length === 0 || only.some((name) => OF_JOURNEYS.includes(name))) await journeys(await chalk.newPage())
} finally {
  await browser.close()
  await app.stop()
}

/** An empty folder, before anybody set up anything. */
async function firstRun(on: BrowserContext): Promise<void> {
  if (only.length > 0 && !only.includes('first-run')) return
  const empty = await openStation({ empty: true, webFolder: fileURLToPath(new URL('../web/dist', import.meta.url)) })
  const page = await on.newPage()
  await page.goto(empty.url)
  await settled(page)
  await shoot(page, 'first-run')
  await page.close()
  await empty.stop()
}

async function journeys(page: Page): Promise<void> {
  await page.goto(`${app.url}/ledger`)
  await page.getByRole('row').nth(2).getByRole('link').click()
  await settled(page)
  await shoot(page, 'record')
  await twoPoints(page)
  await trip(page)
}
