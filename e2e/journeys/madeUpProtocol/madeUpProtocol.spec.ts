import { fileURLToPath } from 'node:url'
import { registerProtocol } from '@frustum/server/protocols'
import { test as base, expect } from '@playwright/test'
import { startVisit, step, takeWhenStable } from '../../support/bench.ts'
import { hands } from '../../support/hands.ts'
import { openStation } from '../../support/station.ts'
import { TALLY, tallyDevice } from './tally.ts'

const WEB = fileURLToPath(new URL('../../../web/dist', import.meta.url))

/** A server in this process, which knows the protocol. */
const test = base.extend({
  // biome-ignore lint/correctness/noEmptyPattern: Playwright reads what a fixture needs from this pattern
  baseURL: async ({}, use) => {
    const forget = registerProtocol(TALLY)
    const station = await openStation({ empty: true, webFolder: WEB, rate: 10 })
    await use(station.url)
    await station.stop()
    forget()
  },
})

test('a protocol that no other file knows is set up, found, tried, read, held, written and shown', async ({ page }) => {
  const device = await tallyDevice({ ph: 7.29, water: 25, slope: 100, zero: 0, hold: 0 })
  const at = hands(page)
  const ask = (path: string, data: object | Buffer) => page.request.post(`/api/${path}`, { data })
  try {
    await ask('site/set-up', { name: 'Mill', person: 'A. Fenn', timeZone: 'Europe/Berlin' })
    const options = JSON.stringify({ take: true, adjustsBy: 'numbers' })
    const list = new URLSearchParams({ name: 'list.csv', operator: 'A. Fenn', options })
    await page.request.post(`/api/bring/sensors?${list}`, {
      data: Buffer.from('code,kind,place,water\nT1-pH,pH,Hall,nutrient'),
      headers: { 'content-type': 'application/octet-stream' },
    })
    // Set up, without what it needs at first.
    await page.goto(`/rig/position/1/line`)
    await page.getByLabel('Protocol').selectOption('Tally text')
    await page.getByRole('textbox', { name: 'Value', exact: true }).fill('7.29')
    await at.press('Search')
    await expect(page.getByText('Enter the tally port.').first()).toBeVisible()
    await at.fill('Tally port', String(device.port))
    // Found, and tried.
    await at.press('Search')
    await expect(page.getByText('5 names.')).toBeVisible()
    await page.getByRole('listitem').filter({ hasText: 'Tally ph' }).getByRole('button', { name: 'Use this' }).click()
    await expect(page.getByLabel('Value, name')).toHaveValue('ph')
    await page.getByLabel('Temperature, name').fill('water')
    await page.getByText('Calibration and outputs').click()
    await page.getByLabel('Slope, name').fill('slope')
    await page.getByLabel('Zero, name').fill('zero')
    await page.getByLabel('Allow writing from the Bench').check()
    await page.getByLabel('Hold, name').fill('hold')
    await expect(page.getByText('Connected. All mapped values can be read.')).toBeVisible()
    await at.press('Save connection')
    // Read and shown.
    await expect(page).toHaveURL(/\/rig\/position\/1$/)
    await page.goto(`/rig/connection/1`)
    await expect(page.getByText('Tally text, tally port', { exact: false }).first()).toBeVisible()
    await expect(page.getByText('tally ph:')).toBeVisible()
    await expect(page.getByLabel('Tally port')).toHaveValue(String(device.port))
    // Held, and written.
    await startVisit(page, 'T1-pH', /Two points/)
    await step(page, /outputs on hold/)
    await at.go()
    await expect.poll(() => device.values.hold).toBe(1)
    await step(page, /read it as found/)
    await takeWhenStable(page)
    await step(page, /into fresh pH 7.00/)
    device.immerse(7.2)
    await takeWhenStable(page)
    await step(page, /Clean the glass/)
    await at.go()
    await step(page, 'Into pH 7.00')
    await takeWhenStable(page)
    await step(page, /Rinse well/)
    await at.go()
    await step(page, /Into pH 4.01|Into pH 10.01/)
    const isAcid = await page.getByRole('heading', { name: 'Into pH 4.01' }).isVisible()
    device.immerse(isAcid ? 4.2 : 10.1)
    await takeWhenStable(page)
    await step(page, 'What the two points say')
    await page.keyboard.press('Space')
    await step(page, /Write the numbers/)
    await at.press(/Write to the device/)
    await step(page, /to verify/)
    // By Nernst: the device reads 7.20 in 7.00, and 10.10 in 10.01 or 4.20 in 4.01.
    const ratio = isAcid ? (7.2 - 4.2) / (7.0 - 4.01) : (10.1 - 7.2) / (10.01 - 7.0)
    expect((device.values.slope ?? 0) / 100).toBeCloseTo(ratio, 2)
    expect(device.values.zero).toBeCloseTo(-0.2 * 59.16, 0)
    await page.goto(`/rig/position/1`)
    await expect(page.getByText('tally ph')).toBeVisible()
  } finally {
    device.close()
  }
})
