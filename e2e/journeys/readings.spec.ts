import { readFileSync } from 'node:fs'
import type { Page } from '@playwright/test'
import { expectAccessible } from '../support/bench.ts'
import { hands } from '../support/hands.ts'
import { expect, journey } from '../support/test.ts'

const DAY = 86_400_000

/** The span as a table, saved: its name, and the times in it. */
async function exported(page: Page) {
  const [file] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: 'CSV' }).click()])
  const [, ...rows] = readFileSync(await file.path(), 'utf8')
    .trim()
    .split('\r\n')
  return { name: file.suggestedFilename(), times: rows.map((row) => Date.parse(row.split(',')[0] ?? '')) }
}

journey(
  ['CH-pH-2', 'CH-pH-5'],
  'a year of a sensor is looked at, then the week in which it left its ordinary day',
  async ({ page }) => {
    await page.goto('/probes/CH-pH-2')
    await page.getByRole('link', { name: 'Readings' }).click()
    await expect(page.getByRole('heading', { name: 'Readings of CH-pH-2' })).toBeVisible()
    const at = hands(page)
    const chart = page.getByRole('img', { name: /over time/ })
    await expect(page.getByText(/^Between/)).toBeVisible()
    await expectAccessible(page)
    await at.press('1 year')
    await expect(page).toHaveURL(/last=31536000000/)
    await expect(page.getByText(/Sulfide from a stuck filter/)).toBeVisible()
    await expect(page.getByRole('link', { name: 'Two points' }).last()).toBeVisible()
    // What a visit found out of tolerance is taken out of the readings before it, beside what was read.
    await expect(page.getByText(/Found out of tolerance on/).first()).toBeVisible()
    await expect(page.getByText('without the error found later')).toBeVisible()
    await at.press('1 week')
    await expect(page.getByText(/its ordinary day: 90 %/)).toBeVisible()
    // The week, as a table: all of it, and nothing else.
    const week = await exported(page)
    expect(week.name).toBe('CH-pH-2-readings.csv')
    const [to = 0, from = 0] = [Math.max(...week.times), Math.min(...week.times)]
    expect(week.times.length).toBeGreaterThan(100)
    expect(to - from).toBeGreaterThan(6 * DAY)
    expect(to - from).toBeLessThanOrEqual(7 * DAY + 120_000)
    // Keys, wheel and drag move what is looked at, and the address keeps it.
    await chart.focus()
    await page.keyboard.press('ArrowLeft')
    await expect(page).toHaveURL(/from=\d+&to=\d+/)
    const before = page.url()
    await page.keyboard.press('+')
    await expect.poll(() => page.url()).not.toBe(before)
    const box = await chart.boundingBox()
    if (!box) throw new Error('The chart is not there.')
    const closer = page.url()
    await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2)
    await expect(page.getByText(/\d readings?\)|pH, \d/).first()).toBeVisible()
    await page.mouse.wheel(0, 300)
    await expect.poll(() => page.url()).not.toBe(closer)
    const wider = page.url()
    await page.mouse.down()
    await page.mouse.move(box.x + box.width / 2 + 200, box.y + box.height / 2, { steps: 4 })
    await page.mouse.up()
    await expect.poll(() => page.url()).not.toBe(wider)
    await page.reload()
    await expect(page.getByText(/^Between/)).toBeVisible()
    // Its twin over it, by how much they differ, and how warm it was; the address keeps who.
    await at.press('With CH-pH-5')
    await expect(page.getByRole('img', { name: 'CH-pH-2 less CH-pH-5 over time' })).toBeVisible()
    await at.press('Temperature')
    await expect(page.getByRole('img', { name: 'Temperature over time' })).toBeVisible()
    await expect(page).toHaveURL(/with=CH-pH-5/)
    await expectAccessible(page)
    await page.getByLabel('This span as').selectOption('hours')
    expect((await exported(page)).name).toBe('CH-pH-2-hours.csv')
  },
)

journey(
  ['CH-pH-1'],
  'limits are set from the ordinary days, and an alarm is acknowledged and goes',
  async ({ page }) => {
    await page.goto('/probes/CH-pH-1/readings')
    const at = hands(page)
    await at.press('Set alarm limits')
    await at.press('From its ordinary days')
    const limits = page.getByRole('region', { name: 'Alarm limits' })
    await expect(limits.getByLabel('High', { exact: true })).not.toHaveValue('')
    await expectAccessible(page)
    // A slip is named before it is kept.
    await limits.getByLabel('Low', { exact: true }).fill('9.9')
    await expect(limits.getByRole('alert')).toContainText('Limits rise')
    await expect(limits.getByRole('button', { name: 'Keep these limits' })).toBeDisabled()
    await at.press('From its ordinary days')
    await limits.getByLabel('For, min').fill('1')
    await at.press('Keep these limits')
    await expect(page.getByRole('button', { name: 'Change its alarm limits' })).toBeVisible()
    await page.request.post('/api/extensions/demo/standins/CH-pH-1', { data: { bath: 'pH7.00' } })
    await page.getByRole('link', { name: /^\d+ alarms?$/ }).click()
    await expect(page.getByText(/low: pH\s[\d.]+, limit/).first()).toBeVisible()
    await expectAccessible(page)
    // Others may be raised meanwhile, and stand above it.
    const first = page.getByRole('listitem').filter({ hasText: /CH-pH-1 low: .*, limit/ })
    await first.getByRole('button', { name: 'Shelve' }).click()
    await first.getByRole('button', { name: '30 min' }).click()
    await expect(first.getByRole('alert')).toContainText('Enter a reason.')
    await first.getByLabel('Reason').fill('probe taken out')
    await first.getByRole('button', { name: '30 min' }).click()
    await expect(first.getByText(/shelved until .*probe taken out/)).toBeVisible()
    while ((await page.getByRole('button', { name: 'Acknowledge', exact: true }).count()) > 0) {
      const before = await page.getByRole('button', { name: 'Acknowledge', exact: true }).count()
      await page.getByRole('button', { name: 'Acknowledge', exact: true }).first().click()
      await expect(page.getByRole('button', { name: 'Acknowledge', exact: true })).toHaveCount(before - 1)
    }
    await page.request.post('/api/extensions/demo/standins/CH-pH-1', { data: { bath: 'process' } })
    await expect(page.getByText(/CH-pH-1 low/)).toHaveCount(0, { timeout: 120_000 })
  },
)
