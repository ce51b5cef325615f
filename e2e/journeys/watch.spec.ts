import { startPostOffice } from '@frustum/standins'
import type { Page } from '@playwright/test'
import { expectAccessible } from '../support/bench.ts'
import { hands } from '../support/hands.ts'
import { expect, journey } from '../support/test.ts'

/** The months between visits on a site of one's own: by eye, by file, and told. */

const PHONE = { width: 390, height: 844 }
const OPERATOR = 'A. Fenn'

/** A site with sensors that are in use. */
async function siteOf(page: Page, codes: readonly string[]): Promise<void> {
  const post = (path: string, data: object | string) => page.request.post(path, { data })
  await post('/api/site/set-up', { name: 'Tent', person: OPERATOR, timeZone: 'UTC' })
  const list = [
    'code,kind,place,water',
    ...codes.map((c) => `${c},${c.includes('EC') ? 'conductivity' : 'pH'},Tent,nutrient`),
  ]
  const query = new URLSearchParams({
    name: 'list.csv',
    operator: OPERATOR,
    options: JSON.stringify({ take: true, adjustsBy: 'key' }),
  })
  const answer = await page.request.post(`/api/bring/sensors?${query}`, {
    data: Buffer.from(list.join('\n')),
    headers: { 'content-type': 'application/octet-stream' },
  })
  expect(answer.status(), await answer.text()).toBe(200)
}

journey('none', 'a walk round of ten on a phone: twelve actions, and a slip is named', async ({ page }) => {
  await page.setViewportSize(PHONE)
  const codes = Array.from({ length: 5 }, (_, i) => [`T${i + 1}-pH`, `T${i + 1}-EC`]).flat()
  await siteOf(page, codes)
  await page.goto('/')
  const at = hands(page)
  await at.follow(/^Walk round Tent/)
  for (const [i, code] of codes.entries()) {
    const value = code === 'T4-pH' ? '581' : code.includes('EC') ? `1,8${i}` : `5.8${i}`
    await at.type(`${code} shows`, value)
  }
  await expect(page.getByText('The decimal mark seems to be elsewhere')).toBeVisible()
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBe(PHONE.width)
  await page.evaluate(() => window.scrollTo(0, document.body.scrollHeight))
  await expectAccessible(page)
  // A page that is loaded anew in between forgets nothing.
  await page.reload()
  await expect(page.getByLabel('T3-EC shows')).toHaveValue('1,85')
  const before = at.counted.actions
  await at.press('5.81')
  await at.press('Keep 10 readings')
  await expect(page.getByText('10 readings kept.')).toBeVisible()
  expect(before).toBeLessThanOrEqual(11)
  await page.getByRole('link', { name: 'Rounds', exact: true }).first().click()
  await expect(page.getByText(/^Walk round Tent/).first()).toBeVisible()
  await page.goto('/probes/T4-pH/readings')
  await expect(page.getByText(/from 1 reading/)).toBeVisible()
})

journey('none', 'a logger’s file is taken in, whatever its columns are called', async ({ page }) => {
  await siteOf(page, ['T1-pH', 'T1-EC'])
  await page.goto('/bring')
  const section = page.getByRole('region', { name: 'Log of readings' })
  const start = Date.now() - 3 * 86_400_000
  const rows = Array.from({ length: 300 }, (_, i) => {
    const [date = '', clock = ''] = new Date(start + i * 600_000).toISOString().split('T')
    return `${date.split('-').reverse().join('.')};${clock.slice(0, 5)};5,${80 + (i % 9)};${1800 + i};x`
  })
  const file = ['Datum;Uhrzeit;Becken;Leitwert (µS/cm);Notiz', ...rows, '31.02.2026;10:00;5,8;1800;'].join('\n')
  await section
    .locator('input[type=file]')
    .setInputFiles({ name: 'logger.csv', mimeType: 'text/csv', buffer: Buffer.from(file) })
  await section.getByLabel('Sensor of Becken').selectOption('T1-pH')
  await section.getByLabel('Sensor of Leitwert (µS/cm)').selectOption('T1-EC')
  await expect(section.getByText('600 readings')).toBeVisible()
  await expect(section.getByText(/31\.02\.2026.* is no time/)).toBeVisible()
  await expectAccessible(page)
  await section.getByLabel('Leave out what is wrong').check()
  await section.getByRole('button', { name: 'Take them in' }).click()
  await expect(section.getByText('600 new readings')).toBeVisible()
  await page.goto('/probes/T1-EC/readings')
  await page.getByRole('button', { name: 'All', exact: true }).click()
  await expect(page.getByText(/from 300 readings/)).toBeVisible()
  await expect(page.getByText('1.80 mS/cm')).toBeVisible()
})

journey('none', 'an alarm is mailed, seen and over; who is told is set and tried', async ({ page }) => {
  const office = await startPostOffice('no key at all, here')
  try {
    await siteOf(page, ['T1-pH'])
    await page.goto('/site')
    const at = hands(page)
    await at.follow('Set who is told')
    await expect(page.getByText(/Nobody yet/)).toBeVisible()
    await at.press('Set a mail server')
    await at.fill('Host', '127.0.0.1')
    await page.getByLabel('Encryption').selectOption('none')
    await at.fill('Port', String(office.mail))
    await at.fill('Messages come from', 'frustum@tent.example')
    await at.press('Save')
    await expect(page.getByText(`127.0.0.1:${office.mail}, from`)).toBeVisible()
    await at.press('Tell somebody')
    await at.fill('Name', 'Fenn')
    await at.fill('E-mail address', 'fenn')
    await at.press('Tell from now on')
    await expect(page.getByText('Write a mail address, as name@host.')).toBeVisible()
    await at.fill('E-mail address', 'fenn@tent.example')
    await page.getByLabel('From', { exact: true }).selectOption('0')
    await page.getByLabel('To', { exact: true }).selectOption('0')
    await expectAccessible(page)
    await at.press('Send a try')
    await expect.poll(() => office.post[0]?.subject).toBe('Tent: a try')
    await at.press('Tell from now on')
    await expect(page.getByText('fenn@tent.example')).toBeVisible()

    // A limit that what is typed is beyond: mailed, seen in any room, and over with the next round.
    const limits = { low: 5.5, high: 6.2, hysteresis: 0.05, delaySeconds: 0 }
    await page.request.post('/api/probes/T1-pH/limits', { data: { operator: OPERATOR, limits } })
    const walk = async (value: string) => {
      await page.goto('/')
      await page.getByRole('link', { name: /^Walk round/ }).click()
      await page.getByLabel('T1-pH shows').fill(value)
      await page.getByRole('button', { name: 'Keep 1 reading' }).click()
      await expect(page.getByText('1 reading kept.')).toBeVisible()
    }
    await expect
      .poll(async () => {
        await walk('6.45')
        return page
          .getByRole('region', { name: 'Kept' })
          .getByText(/too high/)
          .count()
      })
      .toBe(1)
    await expect.poll(() => office.post[0]?.subject).toContain('Tent: T1-pH too high')
    await page.getByRole('link', { name: '1 alarm' }).click()
    await page.getByRole('button', { name: 'I saw it' }).click()
    await expect(page.getByText(/seen by A. Fenn/)).toBeVisible()
    await walk('5.85')
    await page.goto('/alarms')
    await expect(page.getByRole('heading', { name: 'Nothing is wrong now' })).toBeVisible()
    await page.goto('/site/told')
    await expect(page.getByText('Tent: T1-pH too high').first()).toBeVisible()
    await at.press('Stop')
    await expect(page.getByText(/Nobody yet/)).toBeVisible()
  } finally {
    await office.close()
  }
})
