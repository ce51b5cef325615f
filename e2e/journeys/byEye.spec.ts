import { expect, type Page } from '@playwright/test'
import { expectAccessible, step } from '../support/bench.ts'
import { hands, STILL, twoPointsByKey, twoPointsUncleaned } from '../support/hands.ts'
import { journey } from '../support/test.ts'

/** Devices that are read by eye: as few presses and numbers as the work has, in °C and in °F. */

async function begin(page: Page, position: string, procedure: RegExp) {
  const at = hands(page)
  await page.goto('/')
  await page.getByRole('link', { name: position }).first().waitFor()
  await page.goto(`/bench/start/${position}`)
  at.counted.actions++
  await expect(page.getByRole('button', { name: /^Start/ })).toBeVisible()
  const choice = page.getByRole('radio', { name: procedure })
  if (!(await choice.isVisible())) await page.getByRole('button', { name: /other ways?:/ }).click()
  if (!(await choice.isChecked())) await choice.check()
  await at.press(/^Start/)
  await step(page, /outputs on hold/)
  await at.go()
  return at
}

journey(
  ['CH-pH-4'],
  'two points by the key of an aquarium controller: 30 presses and 10 numbers at most',
  async ({ page }) => {
    const at = await begin(page, 'CH-pH-4', /^Two points, by its own key/)
    await twoPointsByKey(page, at)
    expect(at.counted.actions).toBeLessThanOrEqual(30)
    expect(at.counted.numbers).toBeLessThanOrEqual(10)
    await page.getByRole('link', { name: 'The record' }).click()
    await expect(page.getByText('by its own key').first()).toBeVisible()
    await expect(page.getByText('worked out').first()).toBeVisible()
    await expect(page.getByText(/22\.4\s°C as before, not read again/).first()).toBeVisible()
  },
)

journey(['CH-pH-4'], 'the same with a clean sensor: 20 presses and 8 numbers at most', async ({ page }) => {
  const at = await begin(page, 'CH-pH-4', /^Two points, by its own key/)
  await twoPointsUncleaned(page, at)
  expect(at.counted.actions).toBeLessThanOrEqual(20)
  expect(at.counted.numbers).toBeLessThanOrEqual(8)
})

journey(
  ['CH-pH-4'],
  'a check in one cup in °F: 10 presses and 4 numbers at most; a number in °F is named as such',
  async ({ page }) => {
    const at = await begin(page, 'CH-pH-4', /^Check only/)
    await step(page, /read it as found/)
    await at.type('pH shown', '8.10')
    await at.press(STILL)
    await step(page, /into fresh pH 7.00/)
    await at.type('pH shown', '7.03')
    await at.type('Temperature', '72.3')
    await page.getByRole('button', { name: STILL }).click()
    await expect(
      page.getByText('72.3 looks like °F: choose °F beside it, or type C behind it if it is that hot.'),
    ).toBeVisible()
    await page.getByRole('button', { name: 'In °C; press for °F' }).click()
    await at.press(STILL)
    await step(page, 'What the check says')
    await at.press(/^Leave it alone/)
    await step(page, /Release/)
    await at.go()
    await expect(page.getByRole('heading', { name: 'Done' })).toBeVisible()
    expect(at.counted.actions).toBeLessThanOrEqual(10)
    expect(at.counted.numbers).toBeLessThanOrEqual(4)
    await page.getByRole('link', { name: 'The record' }).click()
    await expect(page.getByText('Checked').first()).toBeVisible()
    await expect(page.getByText('22.4 °C').first()).toBeVisible()
  },
)

journey(['CH-S-2'], 'a salinity cell in SG with its zero in dry air, by what it shows there', async ({ page }) => {
  const at = await begin(page, 'CH-S-2', /^Dry zero and one standard/)
  const read = async (title: RegExp, value: string, temperature?: string) => {
    await step(page, title)
    await at.type('Specific gravity shown', value)
    if (temperature) await at.type('Temperature', temperature)
    await at.press(STILL)
  }
  const skip = async (title: RegExp, reason: string) => {
    await step(page, title)
    await at.press(/^Skip/)
    await at.press(reason)
    await at.press('Skip step')
  }
  await read(/read it as found/, '1.0263')
  await read(/into fresh/, '1.0270', '22.4')
  await step(page, /then rinse$/)
  await at.go()
  await skip(/Blow the cell out/, 'It is bone dry already')
  await step(page, /bone dry\?/)
  for (const tick of await page.getByRole('checkbox').all()) await tick.check()
  await at.go()
  await read(/Hold the dry cell in air/, '1.0000', '22.4')
  await read(/^Into /, '1.0270')
  await step(page, 'What zero and standard say')
  await expect(page.getByText(/Cell factor/).first()).toBeVisible()
  await expectAccessible(page)
})
