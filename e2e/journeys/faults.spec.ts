import { dip, expectAccessible, main, play, skip, startVisit, step, takeEarly } from '../support/bench.ts'
import { expect, journey } from '../support/test.ts'

journey(
  ['CH-pH-5'],
  'swapped buffers are named in the step and again in the result, and the points can be taken again',
  async ({ page }) => {
    await startVisit(page, 'CH-pH-5', /Two points/)
    await step(page, /outputs on hold/)
    await main(page).click()
    await step(page, /read it as found/)
    await skip(page, 'It was out of the water already')
    await step(page, /fresh pH 7.00/)
    await skip(page, 'Only one pouring left')
    await step(page, /Clean the glass/)
    await page.getByRole('button', { name: 'It is clean', exact: true }).click()
    await step(page, /Into pH 7.00/)
    await play(page, 'swapped cups')
    await dip(page, 'pH 7.00')
    // The cup labelled 7.00 holds 10.01: the step says so and does not offer the reading.
    await expect(page.getByTestId('verdict')).toHaveText('wrong cup?', { timeout: 240_000 })
    await expect(page.getByText(/reads like pH\s\d+\.\d+: pH 10\.01, not pH 7\.00/)).toBeVisible()
    await expect(main(page)).toBeDisabled()
    await takeEarly(page, 'I am sure of it')
    await step(page, /Rinse well/)
    await main(page).click()
    await step(page, /Into pH 10.01/)
    await dip(page, 'pH 10.01')
    await expect(page.getByTestId('verdict')).toHaveText('wrong cup?', { timeout: 240_000 })
    await takeEarly(page, 'I am sure of it')
    await step(page, 'What the two points say')
    await expect(page.getByText(/They look swapped/).first()).toBeVisible()
    await expect(page.getByTestId('proposal')).toHaveText('Take the points again')
    await expectAccessible(page)
    await page.getByRole('button', { name: /Take the points again Space/ }).click()
    await step(page, 'Into pH 7.00')
  },
)

journey(
  ['WH-pH-1'],
  'a second person sees who has the sensor in hand, may watch, and may take over',
  async ({ page, browser }) => {
    await startVisit(page, 'WH-pH-1', /Check only/)
    const other = await (await browser.newContext()).newPage()
    await other.goto(page.url())
    await expect(other.getByText('has this sensor in hand since')).toContainText('I. Marrow')
    // Whoever takes over has looked first: the page is there with what the sensor reads.
    await step(other, /outputs on hold/)
    await expect(other.getByText(/shows pH/)).toBeVisible()
    await other.getByRole('button', { name: 'Take over' }).click()
    await expect(other.getByText('has this sensor in hand since')).toHaveCount(0)
    await expect(page.getByText('has this sensor in hand since')).toBeVisible()
    // A second tab of the same browser is the same person.
    const tab = await other.context().newPage()
    await tab.goto(page.url())
    await step(tab, /outputs on hold/)
    await expect(tab.getByText('has this sensor in hand since')).toHaveCount(0)
  },
)

journey(
  ['BR-pH-2'],
  'a device that goes silent makes the step blind, keeps what was taken, and goes on by itself',
  async ({ page }) => {
    await startVisit(page, 'BR-pH-2', /Check only/)
    await step(page, /outputs on hold/)
    await main(page).click()
    await step(page, /read it as found/)
    await play(page, 'line cut')
    await expect(page.getByTestId('verdict')).toHaveText('blind')
    await expect(main(page)).toBeDisabled()
    await play(page, 'line cut')
    await expect(page.getByTestId('verdict')).not.toHaveText('blind')
  },
)

journey(
  ['CH-pH-4'],
  'typed readings: slips are named at the field, comma and point both count, nothing typed is lost',
  async ({ page }) => {
    await startVisit(page, 'CH-pH-4', /Check only/)
    await step(page, /outputs on hold/)
    await main(page).click()
    const [value, temperature] = [page.getByLabel('pH shown'), page.getByLabel('Temperature', { exact: true })]
    const note = page.getByRole('button', { name: 'Note it, look again' })
    await temperature.fill('24,6')
    for (const [typed, sentence] of [
      ['8050', 'A decimal mark seems to be missing'],
      ['seven', '"seven" is not a number'],
      ['', 'Type the pH, -1 to 15.'],
      ['16', 'must lie within -1 to 15'],
    ] as const) {
      await value.fill(typed)
      await note.click()
      await expect(page.getByText(sentence)).toBeVisible()
      await expect(temperature).toHaveValue('24,6')
    }
    await value.fill('8,05')
    await temperature.fill('246')
    await note.click()
    await expect(page.getByText(/temperature is 246; it must lie within -5 to 110 °C. Was it 24.6\?/)).toBeVisible()
    await temperature.fill('24.6')
    await note.click()
    await expect(page.getByTestId('live-value')).toHaveText('8.05')
    await expect(page.getByText(/8\.05 at 24\.6\s°C is noted\. Look again/)).toBeVisible()
    await expectAccessible(page)
    await page.reload()
    await expect(page.getByTestId('live-value')).toHaveText('8.05')
  },
)

journey(['WH-pH-3', 'CH-S-1'], 'everything is reached by keyboard, and the keys are listed', async ({ page }) => {
  await page.goto('/')
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
  await page.keyboard.press('?')
  await expect(page.getByRole('dialog', { name: 'Keys' })).toBeVisible()
  await expectAccessible(page)
  await page.keyboard.press('Escape')
  await page.keyboard.press('t')
  await expect(page.locator('html')).toHaveAttribute('data-theme', 'lamp')
  await expectAccessible(page)
  await page.keyboard.press('3')
  await expect(page.getByRole('heading', { name: 'Probes' })).toBeVisible()
  await expectAccessible(page)
  await page.keyboard.press('2')
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
  await expectAccessible(page)
  await page.goto('/probes/WH-pH-3')
  await expect(page.getByRole('heading', { level: 1, name: 'WH-pH-3' })).toBeVisible()
  await expectAccessible(page)
  await page.goto('/nowhere')
  await expect(page.getByText('There is no such page.')).toBeVisible()
  await page.goto('/probes/XX-pH-9')
  await expect(page.getByText('There is no such sensor.')).toBeVisible()
})
