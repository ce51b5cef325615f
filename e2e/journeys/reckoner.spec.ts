import type { Page } from '@playwright/test'
import { expectAccessible } from '../support/bench.ts'
import { expect, journey } from '../support/test.ts'

const box = (page: Page, name: string) => page.getByRole('textbox', { name, exact: true })

journey(
  ['CH-pH-1'],
  'a number is worked out both ways, survives in the address, and is copied as text',
  async ({ page, context }) => {
    await context.grantPermissions(['clipboard-read', 'clipboard-write'])
    await page.goto('/')
    await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
    await page.keyboard.press('6')
    await expect(page.getByRole('heading', { level: 1, name: 'pH and millivolts' })).toBeVisible()
    await expectAccessible(page)
    await page.getByRole('link', { name: 'Seawater, salinity, gravity' }).click()
    const at25 = box(page, 'Conductivity at 25 °C')
    const salinity = box(page, 'Practical salinity')
    await at25.fill('53 mS/cm')
    await expect(salinity).toHaveValue('34.95')
    await expect(page.getByRole('button', { name: 'Hold Conductivity at 25 °C' })).toHaveAttribute(
      'aria-pressed',
      'true',
    )
    // What is held stays when what is given changes; the rest follows.
    await box(page, 'Water is at').fill('77 F')
    await expect(page.getByText('read as 25.0 °C')).toBeVisible()
    await expect(box(page, 'Conductivity as it is')).toHaveValue('53.00')
    await salinity.fill('35')
    await expect(at25).toHaveValue('53.07')
    await expect(page).toHaveURL(/hold=salinity&at=35/)
    await page.reload()
    await expect(at25).toHaveValue('53.07')
    await page.getByRole('heading', { level: 1 }).click()
    await page.keyboard.press('c')
    await expect(page.getByText('The sheet copied.')).toBeVisible()
    const copied = await page.evaluate(() => navigator.clipboard.readText())
    expect(copied).toContain('Practical salinity: 35.00 (held)')
    expect(copied).toContain('PSS-78')
  },
)

journey(
  ['CH-pH-1'],
  'bad input is named at the field, the last good result stays greyed, nothing typed is lost',
  async ({ page }) => {
    await page.goto('/reckoner/compensation')
    const here = box(page, 'As it is at this temperature')
    const shown = box(page, 'Shown by the device')
    await expect(shown).toHaveValue('1302.3')
    await here.fill('1,413 uS/cm')
    await expect(page.getByText('"1,413" can mean 1413 or 1.413. Enter one of them.')).toBeVisible()
    await expect(here).toHaveValue('1,413 uS/cm')
    await expect(shown).toHaveValue('1302.3')
    await expect(page.getByText('as it was before')).toBeVisible()
    await expectAccessible(page)
    await here.fill('1413 uS/cm')
    await expect(shown).toHaveValue('1643.0')
    await box(page, 'Water is at').fill('140')
    await expect(page.getByText(/Temperature is 140; it must lie within −5 to 110\s°C/)).toBeVisible()
    await expect(page.locator('body')).not.toContainText(/NaN|Infinity/)
  },
)

journey(['CH-pH-1'], 'works by keyboard alone, and goes on without a network', async ({ page, context }) => {
  await page.goto('/reckoner/nitrate')
  const nitrogen = box(page, 'As nitrogen, NO3-N')
  await expect(nitrogen).toHaveValue('10')
  await context.setOffline(true)
  for (let i = 0; i < 60 && !(await nitrogen.evaluate((e) => e === document.activeElement)); i++) {
    await page.keyboard.press('Tab')
  }
  await page.keyboard.type('22.6')
  await expect(box(page, 'As nitrate, NO3')).toHaveValue('100.0')
  await page.keyboard.press('Tab')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('button', { name: 'Hold As nitrate, NO3' })).toHaveAttribute('aria-pressed', 'true')
  await page.getByRole('link', { name: 'EC scales' }).press('Enter')
  await box(page, 'CF').fill('21')
  await expect(box(page, 'ppm, 700 scale (mixed salt)')).toHaveValue('1470.0')
  await context.setOffline(false)
})
