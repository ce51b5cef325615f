import { expectAccessible } from '../support/bench.ts'
import { expect, journey } from '../support/test.ts'

journey(
  'all',
  'which probe dies first, and why: found in the fleet, told on its page, tested, and kept as a view',
  async ({ page }) => {
    await page.goto('/probes')
    await expect(page.getByText('25 probes')).toBeVisible()
    await expectAccessible(page)
    await page.getByRole('button', { name: 'Which dies first' }).click()
    const first = page.getByRole('row').nth(1)
    await expect(first).toContainText('BR-Cl-1')
    await expect(first).toContainText('ion tip spent')
    await page.getByLabel('Find').fill('glass aged')
    await expect(page.getByText('1 of 25 probes')).toBeVisible()
    await page.getByRole('button', { name: 'Save view' }).click()
    await page.getByLabel('Name of the view').fill('Old glass')
    await page.getByRole('button', { name: 'Keep', exact: true }).click()
    await page.reload()
    await page.getByRole('button', { name: 'Old glass' }).click()
    await page.getByRole('link', { name: /WH-pH-4/ }).click()

    // The page says what it is, when it ends, and when to order.
    await expect(page.getByLabel('Diagnosis').getByText('glass aged').first()).toBeVisible()
    await expect(page.getByText(/By its slope about/)).toBeVisible()
    await expect(page.getByText(/Have a spare ordered by/)).toBeVisible()
    await expectAccessible(page)
    const cause = page.getByLabel('Diagnosis').getByRole('group').first()
    await cause.click()
    await expect(cause).toContainText('Speaks for it')
    await expect(cause).toContainText('Slope: low')

    // What if it had to be twice as good?
    const whatIf = page.getByLabel('Try other rules')
    const before = await whatIf.getByTestId('what-if-date').textContent()
    await whatIf.getByLabel('Within ±').fill('0')
    await expect(whatIf.getByText('The tolerance is 0; it must lie within 0.001 to 1000.')).toBeVisible()
    await whatIf.getByLabel('Within ±').fill('0,03')
    await whatIf.getByLabel('Shortest interval').fill('1')
    await expect(whatIf.getByTestId('what-if-date')).not.toHaveText(before ?? '')
  },
)

journey(
  ['BR-pH-1'],
  'a test on purpose moves the diagnosis; a misleading visit is taken out, visibly, and put back',
  async ({ page }) => {
    await page.goto('/probes/BR-pH-1')
    const card = page.getByLabel('Diagnosis')
    const likely = card.getByRole('listitem').first()
    const before = await likely.textContent()
    await card.getByRole('button').first().click()
    await expect(card.getByText('1 test on purpose counted in.')).toBeVisible()
    await expect(likely).not.toHaveText(before ?? '')

    await page
      .getByRole('button', { name: /^Exclude the visit/ })
      .first()
      .click()
    await page.getByRole('button', { name: 'Not settled', exact: true }).click()
    await page.getByRole('button', { name: 'Exclude visit' }).click()
    await expect(page.getByLabel('Not in the forecast')).toContainText('Excluded by hand: Not settled')
    await page.getByRole('button', { name: /^Count the visit/ }).click()
    await expect(page.getByLabel('Not in the forecast')).toHaveCount(0)
  },
)

journey(
  ['WH-pH-1', 'WH-pH-3', 'WH-EC-1'],
  'a planned trip is moved: by dragging, with the risk of each day in sight, and back by hand',
  async ({ page }) => {
    await page.goto('/plan')
    await expect(page.getByRole('heading', { name: /trips? in 12 weeks/ })).toBeVisible()
    await expectAccessible(page)
    const calendar = page.getByLabel('Calendar')
    const chip = calendar.getByRole('button', { name: /Wasabi House/ }).first()
    const from = await chip.locator('xpath=ancestor::*[@data-day]').getAttribute('data-day')
    await chip.click()
    const sheet = page.getByLabel('Trip')
    await expect(sheet).toContainText('Wasabi House')

    const target = calendar.locator('[data-day]').nth(13)
    const to = await target.getAttribute('data-day')
    const [a, b] = [await chip.boundingBox(), await target.boundingBox()]
    await page.mouse.move((a?.x ?? 0) + 20, (a?.y ?? 0) + 10)
    await page.mouse.down()
    await page.mouse.move((b?.x ?? 0) + 20, (b?.y ?? 0) + 30, { steps: 6 })
    await expect(target).toContainText(/\d+\s% out/)
    await page.mouse.up()
    await expect(target.getByRole('button', { name: /Wasabi House/ })).toBeVisible()
    await expect(sheet).toContainText('moved by hand')
    // What is moved outlives a reload.
    await page.reload()
    await calendar
      .locator(`[data-day="${to}"]`)
      .getByRole('button', { name: /Wasabi House/ })
      .click()
    await sheet.getByRole('button', { name: 'back to what is proposed' }).click()
    await expect(calendar.locator(`[data-day="${from}"]`).getByRole('button', { name: /Wasabi House/ })).toBeVisible()
  },
)

journey(
  ['CH-pH-1', 'CH-S-1'],
  'the calendar is subscribed to at its address, and holds the trips',
  async ({ page, request }) => {
    await page.goto('/plan')
    await page.getByText('Share').click()
    const address = await page.getByLabel('Address of the calendar').inputValue()
    expect(address).toMatch(/\/api\/calendar\/[0-9a-f]{32}\.ics$/)
    const feed = await (await request.get(address)).text()
    expect(feed).toContain('BEGIN:VCALENDAR')
    expect(feed).toMatch(/SUMMARY:.*Cuttlefish Hall/)
    const heading = await page.getByRole('heading', { name: /trips? in 12 weeks/ }).textContent()
    expect(feed.match(/UID:trip-/g)).toHaveLength(Number.parseInt(heading ?? '0', 10))
  },
)

journey(
  ['CH-pH-2'],
  'a past month is corrected beside the raw readings, and taken away as a file',
  async ({ page }) => {
    await page.goto('/probes/CH-pH-2')
    // A chart that comes in late moves the table: a click that met nothing is made again, as a person would.
    await expect(async () => {
      await page.getByRole('link', { name: 'correct past' }).last().click()
      await expect(page.getByRole('heading', { name: /^Readings from/ })).toBeVisible({ timeout: 10_000 })
    }).toPass({ timeout: 90_000 })
    await expect(page.getByText(/Under a straight growth it left its limit of 0.10 about/)).toBeVisible()
    await expect(page.getByTestId('rating')).toHaveText('excellent')
    await expectAccessible(page)
    const waiting = page.waitForEvent('download')
    await page.getByRole('link', { name: 'Raw and corrected as CSV' }).click()
    expect((await waiting).suggestedFilename()).toBe('CH-pH-2-corrected.csv')
  },
)

journey(['CH-pH-1', 'CH-pH-2', 'CH-S-1'], 'up to four probes stand side by side', async ({ page }) => {
  await page.goto('/probes')
  for (const position of ['CH-pH-1', 'CH-pH-2']) {
    await page.getByLabel('Find').fill(position)
    await page.getByRole('checkbox', { name: `Compare ${position}` }).check()
  }
  await page.getByRole('link', { name: 'Compare 2' }).click()
  await expect(page.getByRole('article')).toHaveCount(2)
  await expect(page.getByRole('heading', { name: /CH-pH-2/ })).toBeVisible()
  await expectAccessible(page)
})
