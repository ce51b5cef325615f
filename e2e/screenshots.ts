import { type BrowserContext, chromium, type Page } from '@playwright/test'
import { CHROMIUM_FLAGS, ensureChromium } from '../scripts/chromium.ts'
import { startApp } from './support/app.ts'
import { dip, main, skip, step } from './support/bench.ts'

const app = await startApp()
process.env.FRUSTUM_URL = app.url
const browser = await chromium.launch({ executablePath: ensureChromium(), args: [...CHROMIUM_FLAGS] })

const wide = { width: 1280, height: 800 }
const context = (colorScheme: 'light' | 'dark') => browser.newContext({ viewport: wide, colorScheme })
const shoot = (page: Page, name: string) => page.screenshot({ path: `docs/screenshots/${name}.png` })

/** A moment for charts that are drawn after the page is there. */
const settled = (page: Page) => page.waitForTimeout(2000)

async function still(on: BrowserContext, path: string, name: string): Promise<void> {
  const page = await on.newPage()
  await page.goto(app.url + path)
  await settled(page)
  await shoot(page, name)
  await page.close()
}

try {
  const [chalk, lamp] = [await context('light'), await context('dark')]
  await still(chalk, '/', 'rounds')
  await still(lamp, '/', 'rounds-lamp')
  await still(lamp, '/probes/CH-pH-2', 'probe')
  await still(chalk, '/probes', 'probes')
  await still(chalk, '/bench/start/CH-pH-2', 'start')
  await still(chalk, '/reckoner/seawater?temperature=26.4&hold=here&at=53.1', 'reckoner')
  await still(lamp, '/reckoner/conductivity-expected', 'reckoner-lamp')

  const page = await chalk.newPage()
  await page.goto(`${app.url}/bench/start/CH-pH-2`)
  await page.getByRole('button', { name: /^Start/ }).click()
  await main(page).click()
  await step(page, /read it as found/)
  await skip(page, 'Probe was out of the water already')
  await step(page, /fresh pH 7.00/)
  await dip(page, 'pH 7.00')
  await page.getByTestId('verdict').filter({ hasText: 'stable' }).waitFor({ timeout: 240_000 })
  await main(page).click()
  await step(page, /Clean the glass/)
  await dip(page, 'rinse')
  await main(page).click()
  await step(page, /Into pH 7.00/)
  await dip(page, 'pH 7.00')
  await page.getByTestId('verdict').filter({ hasText: 'stable' }).waitFor({ timeout: 240_000 })
  await main(page).click()
  await step(page, /Rinse well/)
  await dip(page, 'rinse')
  await main(page).click()
  await step(page, /Into pH 10.01/)
  await dip(page, 'pH 10.01')
  await page.waitForTimeout(24_000)
  await shoot(page, 'bench')
  await page.setViewportSize({ width: 390, height: 844 })
  await settled(page)
  await shoot(page, 'bench-phone')
  await page.setViewportSize(wide)
  await page.getByTestId('verdict').filter({ hasText: 'stable' }).waitFor({ timeout: 240_000 })
  await main(page).click()
  await step(page, /two points say/)
  await settled(page)
  await shoot(page, 'result')
} finally {
  await browser.close()
  await app.stop()
}
