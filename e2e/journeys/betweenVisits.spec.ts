import type { APIRequestContext } from '@playwright/test'
import { expectAccessible } from '../support/bench.ts'
import { expect, journey } from '../support/test.ts'

/** What happens to a sensor while nobody is at it. */

const asker = { clientId: '5f0c6b1e-0d7e-4c43-9a58-3b1c9e0d7a21', operator: 'S. Osk' }

/** A visit looks at the device's numbers when it begins; this one is left again. */
async function lookIn(request: APIRequestContext, position: string): Promise<void> {
  const visit = await request.post('/api/visits', {
    data: {
      ...asker,
      position,
      procedure: 'ph-two-point',
      standards: { first: 'pH7.00', second: 'pH10.01' },
      opening: {},
    },
  })
  const { id } = (await visit.json()) as { id: string }
  await request.post(`/api/visits/${id}/abandon`, { data: { ...asker, reason: 'Only looking' } })
}

journey(
  ['BR-pH-2', 'BR-pH-1'],
  'a device that lost its numbers stands on top of Rounds, says why, and is given them back',
  async ({ page, request }) => {
    const position = 'BR-pH-2'
    await page.goto(`/probes/${position}`)
    const numbers = page.getByLabel('Calibration in the device')
    const before = await numbers.getByRole('paragraph').first().textContent()

    await request.post(`/api/extensions/demo/standins/${position}`, {
      data: { keyIn: { zero: 30, slopeEfficiency: 1 } },
    })
    await lookIn(request, position)
    await page.goto('/')
    const row = page.getByRole('listitem').filter({ hasText: 'The calibration in its device changed' })
    await expect(row).toContainText(position)
    await expect(row).toContainText(/^out/)
    await expect(row).toContainText(/it shows 0\.\d\d\spH too much/)
    await expectAccessible(page)

    await page.goto(`/probes/${position}`)
    await expect(numbers).toContainText('Changed in the device')
    await expect(page.getByLabel('Diagnosis').getByRole('listitem').first()).toContainText('device reset')
    await expectAccessible(page)
    // Whoever puts it on the Bench is told before the first step.
    await page.goto(`/bench/start/${position}`)
    await expect(page.getByText(/Restore the calibration/)).toBeVisible()

    await page.goto(`/probes/${position}`)
    await numbers.getByRole('button', { name: 'Restore calibration' }).click()
    await expect(page.getByText('Calibration restored in the device.')).toBeVisible()
    await expect(numbers).not.toContainText('Changed in the device')
    expect(await numbers.getByRole('paragraph').first().textContent()).toBe(before)
  },
)

journey(
  ['WH-pH-1'],
  'the hour meter is read, a slip is caught and nothing typed is lost, and a new meter starts again',
  async ({ page }) => {
    await page.goto('/probes/WH-pH-1')
    const whatIf = page.getByLabel('Try other rules')
    await whatIf.getByLabel('Next date').selectOption({ label: 'hours in use' })
    await whatIf.getByRole('button', { name: 'Save rules' }).click()
    const meter = page.getByLabel('Hour meter')
    const field = meter.getByLabel('It shows')
    const keep = meter.getByRole('button', { name: 'Save hours' })
    await field.fill('a lot')
    await keep.click()
    await expect(meter.getByText('Type the hours that the meter shows.')).toBeVisible()
    await field.fill('1204,5')
    await keep.click()
    await expect(meter.getByRole('listitem')).toContainText('1,204.5 h')
    await field.fill('120')
    await keep.click()
    await expect(meter.getByLabel('The meter was changed')).toBeVisible()
    await expect(field).toHaveValue('120')
    await expectAccessible(page)
    await meter.getByLabel('The meter was changed').check()
    await keep.click()
    await expect(meter.getByRole('listitem')).toHaveCount(2)
    await page.reload()
    await expect(meter.getByRole('listitem').first()).toContainText('120.0 h')
  },
)

journey(['WH-pH-4'], 'what it turned out to be is kept beside what was proposed, and counted', async ({ page }) => {
  await page.goto('/probes/WH-pH-4')
  const card = page.getByLabel('Diagnosis')
  await card.getByText('It turned out to be').click()
  await card.getByRole('combobox').selectOption({ label: 'glass aged' })
  await card.getByRole('button', { name: 'Confirm cause' }).click()
  await expect(card).toContainText(/glass aged, proposed as number 1 with \d+\s%/)
  await page.goto('/probes')
  await expect(page.getByText(/^Of \d+ confirmed causes? the diagnosis had named \d+ first/)).toBeVisible()
})
