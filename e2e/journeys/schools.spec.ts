import type { Page } from '@playwright/test'
import { expectAccessible, main, skip, startVisit, step } from '../support/bench.ts'
import { expect, journey } from '../support/test.ts'

async function prefer(page: Page, way: RegExp): Promise<void> {
  await page.goto('/site')
  await page.getByRole('radio', { name: way }).click()
  await expect(page.getByRole('radio', { name: way })).toBeChecked()
}

journey(['CH-pH-1'], 'what the site prefers is how the steps speak', async ({ page }) => {
  await page.goto('/site')
  await expectAccessible(page)
  await prefer(page, /Shake it off/)
  await startVisit(page, 'CH-pH-1', /Check only/)
  await step(page, /outputs on hold/)
  await main(page).click()
  await step(page, /read it as found/)
  await skip(page, 'No flow')
  await step(page, 'Rinse, shake, and into fresh pH 7.00')
})

journey(
  ['BR-pH-1', 'BR-ORP-2'],
  'a trip: one float for all, leaving a half-done sensor and coming back to it',
  async ({ page }) => {
    await prefer(page, /The water\u2019s temperature/)
    await page.goto('/')
    await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
    await page.keyboard.press('n')
    await page.getByRole('button', { name: 'Boiler and Rinse Plant' }).click()
    for (const box of await page.getByRole('checkbox').all()) await box.setChecked(false)
    await page.getByRole('checkbox', { name: /BR-pH-1/ }).check()
    await page.getByRole('checkbox', { name: /BR-ORP-2/ }).check()
    await expectAccessible(page)
    await page.getByRole('button', { name: 'Start with 2' }).click()
    await page.waitForURL(/trips\/[0-9a-f]{8}/)
    const trip = page.url()
    await page.getByRole('link', { name: 'Begin' }).first().click()
    await page.getByRole('button', { name: /^Start/ }).click()
    await step(page, /outputs on hold/)
    await expect(page.getByText('Mains equipment near water')).toBeVisible()
    await main(page).click()
    await step(page, 'Float the closed bottles in the water')
    await main(page).click()
    await page.getByRole('link', { name: 'Leave it here, back to the trip' }).click()
    await expect(page.getByText('at “Float the bottles”')).toBeVisible()
    await expectAccessible(page)

    await page.getByRole('link', { name: 'Begin' }).click()
    const others = page.getByRole('button', { name: /other ways?:/ })
    if (!(await page.getByRole('radio', { name: /One standard/ }).isVisible())) await others.click()
    await page.getByRole('radio', { name: /One standard/ }).check()
    await page.getByRole('button', { name: /^Start/ }).click()
    await step(page, /outputs on hold/)
    // Said at the first sensor of the trip already.
    await expect(page.getByText('Mains equipment near water')).toHaveCount(0)
    await main(page).click()
    // The same float serves this sensor.
    await expect(page.getByTestId('time-left')).toHaveText(/1 h 00|5\d min/)
    await page.goto(trip)
    await page.getByRole('link', { name: 'Go on' }).first().click()
    await step(page, 'Float the closed bottles in the water')
    await prefer(page, /Room temperature/)
  },
)
