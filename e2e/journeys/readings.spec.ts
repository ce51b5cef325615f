import { expectAccessible } from '../support/bench.ts'
import { hands } from '../support/hands.ts'
import { expect, journey } from '../support/test.ts'

journey(
  ['CH-pH-2'],
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
    await at.press('1 week')
    await expect(page.getByText(/The green band is its ordinary day/)).toBeVisible()
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
    const [table] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('link', { name: 'This span as a table (CSV)' }).click(),
    ])
    expect(table.suggestedFilename()).toBe('readings-CH-pH-2.csv')
  },
)
