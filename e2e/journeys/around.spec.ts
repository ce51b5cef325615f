import { readFileSync } from 'node:fs'
import { expectAccessible, main, skip, startVisit, step } from '../support/bench.ts'
import { expect, journey } from '../support/test.ts'

journey(
  ['WH-pH-2'],
  'the network goes in mid-step: the visit continues, and what was done is sent in order when it is back',
  async ({ page, context }) => {
    await startVisit(page, 'WH-pH-2', /Two points/)
    await step(page, /outputs on hold/)
    await context.setOffline(true)
    await main(page).click()
    await expect(page.getByText('1 queued', { exact: true })).toBeVisible()
    await step(page, /read it as found/)
    await skip(page, 'No flow')
    await step(page, /into fresh pH 7\.00/)
    await expect(page.getByText(/No connection\. 2 steps queued/)).toBeVisible()
    await context.setOffline(false)
    await page.reload()
    await expect(page.getByText('Queued step saved.').first()).toBeVisible()
    await step(page, /into fresh pH 7\.00/)
    await expect(page.getByText(/queued/)).toHaveCount(0)
  },
)

journey(
  ['CH-pH-1'],
  'the Shelf: what a standard is worth here, a new bottle with its own table, labels, what to order',
  async ({ page }) => {
    await page.goto('/')
    await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
    await page.keyboard.press('5')
    await expect(page.getByRole('heading', { name: 'Order' })).toBeVisible()
    await expect(page.getByText('No good lot is left.')).toBeVisible()
    await page.getByLabel('Values at').fill('15')
    await expect(page.getByRole('listitem').filter({ hasText: '7-24C' })).toContainText('7.040')
    await page.getByLabel('Values at').fill('hot')
    await expect(page.getByText('Enter a temperature from')).toBeVisible()
    await page.getByLabel('Values at').fill('15')
    await expectAccessible(page)

    await page.getByRole('button', { name: 'Add bottle' }).click()
    const form = page.getByRole('form', { name: 'A new bottle' })
    await form.getByRole('button', { name: 'Save bottle' }).click()
    await expect(form.getByText('Type the lot number on the label.')).toBeVisible()
    await form.getByLabel('Standard').selectOption({ label: 'pH 9.21' })
    await form.getByLabel('Lot number').fill('9-26B')
    await expect(form.getByText('Choose the expiry date on the label.')).toBeVisible()
    await form.getByLabel('Expires on').fill('2031-06-30')
    await form.getByLabel(/The label has a table/).check()
    await form.getByLabel('Temperature and value').fill('15 9.31\n25 9.20')
    await expectAccessible(page)
    await form.getByRole('button', { name: 'Save bottle' }).click()
    await expect(page.getByRole('listitem').filter({ hasText: '9-26B' })).toContainText('9.310')

    await page.getByRole('link', { name: 'Labels' }).click()
    await expect(page.getByRole('img', { name: 'QR code of the lot' }).first()).toBeVisible()
    await expectAccessible(page)
  },
)

journey(
  ['CH-pH-3', 'CH-pH-1'],
  'the Ledger: found, corrected beside, exported, and taken in again',
  async ({ page }) => {
    await page.goto('/')
    await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
    await page.keyboard.press('8')
    await page.getByLabel('Find').fill('CH-pH-3 two')
    await expect(page.getByRole('row').nth(1)).toContainText('CH-pH-3')
    await expectAccessible(page)
    await page.getByRole('row').nth(1).getByRole('link').click()
    await expect(page.getByRole('heading', { level: 2, name: 'Line by line' })).toBeVisible()
    await page.getByRole('button', { name: 'Add correction' }).click()
    await expect(page.getByText('Say what is to be read instead, and why.').last()).toBeVisible()
    await page.getByRole('textbox').fill('The buffer came from lot 7-24C.')
    await page.getByRole('button', { name: 'Add correction' }).click()
    await expect(page.getByRole('heading', { name: 'Corrected' })).toBeVisible()
    await expectAccessible(page)
    const download = page.waitForEvent('download')
    await page.getByRole('link', { name: 'JSON' }).click()
    const file = await (await download).path()
    const record = JSON.parse(readFileSync(file, 'utf8')) as { visits: { corrections: { text: string }[] }[] }
    expect(record.visits[0]?.corrections[0]?.text).toBe('The buffer came from lot 7-24C.')
    await page.goto('/ledger')
    await page.getByLabel('A file of records').setInputFiles(file)
    await expect(page.getByText('0 visits to take in, 1 known already, 0 refused.')).toBeVisible()
  },
)
