import { countActions, dip, expectAccessible, main, step, takeWhenStable } from '../support/bench.ts'
import { expect, journey } from '../support/test.ts'

journey(
  ['CH-pH-1', 'CH-pH-2', 'CH-S-1'],
  'from Rounds through a whole two-point calibration, with a reload in the middle, to the trend',
  async ({ page }) => {
    await page.goto('/')
    await expect(page.getByRole('heading', { level: 1 })).toContainText('to do within three days')
    await expectAccessible(page)
    // The nursery probe was poisoned in summer: it leaves tolerance first, so it is on top.
    const first = page
      .getByRole('main')
      .getByRole('listitem')
      .filter({ has: page.getByRole('link', { name: /Calibrate/ }) })
      .first()
    await expect(first).toContainText('CH-pH-2')
    await expect(first).toContainText('out')
    const actions = await countActions(page)
    await first.getByRole('link', { name: /Calibrate/ }).click()

    await expect(page.getByLabel('First buffer')).toHaveValue('pH7.00')
    await expect(page.getByLabel('Second buffer')).toHaveValue('pH10.01')
    await expectAccessible(page)
    await page.getByRole('button', { name: /^Start/ }).click()

    await step(page, /outputs on hold/)
    await expect(page.getByText('Livestock depend on this water')).toBeVisible()
    await expectAccessible(page)
    await page.keyboard.press('Space')

    await step(page, /read it as found/)
    await takeWhenStable(page)
    await step(page, 'Rinse, blot, and into fresh pH 7.00')
    await dip(page, 'pH 7.00')
    await takeWhenStable(page)
    await step(page, /Clean the glass/)
    await dip(page, 'rinse')
    await main(page).click()
    await step(page, 'Into pH 7.00')
    await dip(page, 'pH 7.00')
    await expect(page.getByTestId('verdict')).not.toBeEmpty()
    await expectAccessible(page)
    await takeWhenStable(page)
    await step(page, /Rinse well/)

    // A reload comes back to the same step, with all that was captured.
    await page.reload()
    await step(page, /Rinse well/)
    const rung = page.getByRole('button', { name: /^pH 7\.00/ }).first()
    await expect(rung).toContainText(/\d\d\.\d/)

    await dip(page, 'rinse')
    await main(page).click()
    await step(page, 'Into pH 10.01')
    await dip(page, 'pH 10.01')
    await takeWhenStable(page)

    await step(page, 'What the two points say')
    await expect(page.getByTestId('proposal')).toHaveText('Adjust')
    await expect(page.getByText(/too low at the process value/)).toBeVisible()
    await expectAccessible(page)
    await page.keyboard.press('Space')
    await step(page, /Write the numbers/)
    await page.getByRole('button', { name: /Write to the device/ }).click()

    await step(page, /to verify/)
    await dip(page, 'pH 7.00')
    await takeWhenStable(page)
    await step(page, /back into the process/)
    await dip(page, 'process')
    await takeWhenStable(page)
    await step(page, /Release the hold/)
    await expect(page.getByText('That fits what was done.')).toBeVisible()
    await main(page).click()

    await expect(page.getByRole('heading', { name: 'Done' })).toBeVisible()
    // From Rounds to done, as fingers count: taps and keys, none of them a typed number.
    expect(await actions()).toEqual({ taps: expect.any(Number), total: expect.any(Number), typed: 0 })
    expect((await actions()).total).toBeLessThanOrEqual(14)
    await expect(page.getByText(/Next check/)).toContainText(/It drifts 0\.\d+\spH a month downwards/)
    await expect(page.getByText('As left', { exact: true }).locator('xpath=following-sibling::dd[1]')).toHaveText(
      /^[+−]?0\.0\d\spH$/,
    )
    await page.getByRole('link', { name: 'The record' }).click()
    await expect(page.getByRole('heading', { level: 1 })).toContainText('CH-pH-2 · Two points')
    await expect(page.getByRole('row', { name: /pH 10\.01/ })).toContainText('10-24A')
    await expect(page.getByRole('img', { name: /Settled within/ })).toHaveCount(6)
    await expectAccessible(page)
    await page.goBack()
    await page.getByRole('link', { name: 'See it in the trend' }).click()
    await expect(page.getByRole('heading', { level: 1, name: 'CH-pH-2' })).toBeVisible()
    await expect(page.getByRole('row').nth(1)).toContainText('adjusted')
    await expectAccessible(page)

    await page.goto('/')
    const row = page
      .getByRole('main')
      .getByRole('listitem')
      .filter({ has: page.getByRole('link', { name: 'CH-pH-2' }) })
    await expect(row.first()).not.toContainText('Out of tolerance')
  },
)
