import { rmSync } from 'node:fs'
import { expect, test } from '@playwright/test'
import { startApp } from '../support/app.ts'
import { main, startVisit, step, takeWhenStable } from '../support/bench.ts'
import { seededFolder } from '../support/seeded.ts'

/** The demo as `npm run demo` starts it: processes, pages and stand-ins of its own, and no clock but the wall's. */
test('the demo in real time: from Rounds to a reading that the judge calls stable, and out again', async ({
  browser,
}) => {
  const folder = seededFolder()
  const app = await startApp({ folder })
  const page = await (await browser.newContext({ baseURL: app.url })).newPage()
  await page.goto('/')
  await expect(page.getByRole('main').getByRole('listitem')).not.toHaveCount(0)
  await startVisit(page, 'BR-pH-2', /Check only/)
  await expect(page.getByLabel('Stand-in').getByRole('button', { name: 'process' })).toHaveAttribute(
    'aria-pressed',
    'true',
  )
  await main(page).click()
  await step(page, /read it as found/)
  await takeWhenStable(page)
  await expect(page.getByRole('heading', { level: 2, name: /read it as found/ })).toBeHidden()
  await page.getByRole('button', { name: 'End without a result' }).click()
  await page.getByRole('button', { name: 'Called away' }).click()
  await page.getByRole('button', { name: 'End visit' }).click()
  await expect(page.getByRole('heading', { name: 'Ended without a result' })).toBeVisible()
  await app.stop()
  rmSync(folder, { recursive: true, force: true })
})
