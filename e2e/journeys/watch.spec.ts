import { startPostOffice } from '@frustum/lab/stand-ins'
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
  for (const path of ['/rig/position/1', '/rig/device/1', '/probes/T4-pH']) {
    await page.goto(path)
    await expect(page.getByRole('heading', { level: 1 }).first()).toBeVisible()
    await expect(page.getByText(/^Fetching /)).toBeHidden()
    expect([path, await page.evaluate(() => document.documentElement.scrollWidth)]).toEqual([path, PHONE.width])
  }
  await page.goto('/probes/T4-pH/readings')
  await expect(page.getByText(/from 1 reading/)).toBeVisible()
  // It was another display after all: nothing counts it, and it still stands there.
  await at.press('Take back 5.81 pH')
  await at.press('Another display')
  await at.press('Take it back')
  await expect(page.getByText(/^taken back by A\. Fenn.*Another display/)).toBeVisible()
  await expect(page.getByText(/No reading in these days/)).toBeVisible()
  await expectAccessible(page)
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

journey('none', 'an alarm is mailed, acknowledged and over; who is told is set and tried', async ({ page }) => {
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

    // A limit that what is typed is beyond: mailed, acknowledged in any room, and over with the next round.
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
          .getByText(/high: /)
          .count()
      })
      .toBe(1)
    await expect.poll(() => office.post[0]?.subject).toContain('Tent: T1-pH high')
    await page.getByRole('link', { name: '1 alarm' }).click()
    await page.getByRole('button', { name: 'Acknowledge', exact: true }).click()
    await expect(page.getByText(/acknowledged by A. Fenn/)).toBeVisible()
    await walk('5.85')
    await page.goto('/alarms')
    await expect(page.getByRole('heading', { name: 'No active alarms' })).toBeVisible()
    await page.goto('/site/told')
    await expect(page.getByText('Tent: T1-pH high').first()).toBeVisible()
    await at.press('Stop')
    await expect(page.getByText(/Nobody yet/)).toBeVisible()
  } finally {
    await office.close()
  }
})

const HOUR = 3_600_000
const TOKENS = ['kQ3x9mZ7pL1vT5rN8wB2yC4d', 'nW8y2cB4dkQ3x9mZ7pL1vT5r']

/** Its sensors send by themselves from now on; what each sends in turn is what is given. */
async function sending(page: Page, codes: readonly string[], water = '') {
  const post = async (path: string, data: object) => {
    const answer = await page.request.post(path, { data })
    expect(answer.status(), await answer.text()).toBeLessThan(300)
  }
  const field = { at: { field: '/ph' }, unit: '', scale: 1, offset: 0 }
  for (const [i] of codes.entries()) {
    await post(`/api/lines/${i + 1}/token`, { operator: OPERATOR, token: TOKENS[i] })
    const mapping = { countsFrom: 0, format: 'json', value: field }
    await post(`/api/lines/${i + 1}`, { operator: OPERATOR, protocol: 'push', mapping })
    if (!water) continue
    const { values } = await (await page.request.get(`/api/rig/position/${i + 1}`)).json()
    const edit = { operator: OPERATOR, values: { ...values, water }, seen: values, mode: 'wrong' }
    await post(`/api/rig/position/${i + 1}`, edit)
  }
  return async (...values: number[]) => {
    for (const [i, ph] of values.entries()) await post(`/api/ingest/${TOKENS[i]}`, { ph })
  }
}

journey(
  'none',
  'an alarm at night is mailed, acknowledged and closed; the morning’s digest, and its stop',
  async ({ page, pass }) => {
    const office = await startPostOffice('no key at all, here')
    try {
      await siteOf(page, ['T1-pH'])
      const send = await sending(page, ['T1-pH'])
      const post = (path: string, data: object) =>
        page.request.post(`/api/${path}`, { data: { operator: OPERATOR, ...data } })
      const hourNow = async () => new Date((await (await page.request.get('/api/site')).json()).clock.now).getUTCHours()
      await post('telling/mail', { host: '127.0.0.1', port: office.mail, security: 'none', sender: 'f@tent.example' })
      const wishes = {
        alarms: 'warning',
        from: 7,
        to: 22,
        afterMinutes: 0,
        repeatMinutes: 0,
        digestHour: 6,
        reminders: true,
      }
      // Three in the night: what can wait does, what can kill is told at once.
      await pass(((27 - (await hourNow())) % 24) * HOUR)
      await post('telling/recipients', { name: 'Fenn', by: 'mail', address: 'fenn@tent.example', wishes })
      await post('probes/T1-pH/limits', { limits: { high: 6.2, highHigh: 7, hysteresis: 0.05, delaySeconds: 0 } })

      const until = (ph: number, isSo: () => boolean | Promise<boolean>) =>
        expect
          .poll(async () => {
            await pass(10_000)
            await send(ph)
            return isSo()
          })
          .toBe(true)
      const alarms = async () => (await (await page.request.get('/api/alarms')).json()) as { kind: string }[]
      await until(6.5, async () => (await alarms()).some((a) => a.kind === 'high'))
      await until(7.4, () => office.post.some((p) => p.subject.includes('high-high')))
      expect(office.post.map((p) => p.subject)).toEqual([expect.stringContaining('Tent: T1-pH high-high')])
      await page.goto('/')
      await page.getByRole('link', { name: /^\d alarms?$/ }).click()
      await expect(page.getByRole('button', { name: 'Acknowledge', exact: true })).toHaveCount((await alarms()).length)
      for (let left = (await alarms()).length; left > 0; left--) {
        await page.getByRole('button', { name: 'Acknowledge', exact: true }).first().click()
        await expect(page.getByRole('button', { name: 'Acknowledge', exact: true })).toHaveCount(left - 1)
      }
      await expect(page.getByText(/acknowledged by A. Fenn/).first()).toBeVisible()
      await until(5.9, async () => (await alarms()).length === 0)
      await expect(page.getByRole('heading', { name: 'No active alarms' })).toBeVisible()

      // On the first day on which something is due, in the morning.
      const { today, trips } = await (await page.request.get('/api/plan')).json()
      await pass(trips[0].day - today + ((30 - (await hourNow())) % 24) * HOUR)
      await expect.poll(() => office.post[0]?.subject).toMatch(/visits? (is|are) due today$/)
      const text = office.post[0]?.text ?? ''
      expect(text).toContain('T1-pH:')
      expect(text).toContain('To pack:')
      const [, link = ''] = /(http:\S+\/stop\/\w+)/.exec(text) ?? []
      await page.goto(link)
      await expect(page.getByRole('heading', { name: 'What Fenn is told of Tent' })).toBeVisible()
      await expectAccessible(page)
      await page.getByRole('button', { name: 'Stop what is due' }).click()
      await expect(page.getByRole('button', { name: 'Stop alarms' })).toBeVisible()
      await page.goto('/site/told')
      await expect(page.getByText('fenn@tent.example')).toBeVisible()
      await expect(page.getByText(/each morning/)).toHaveCount(0)
      expect((await page.request.get('/api/told/0123456789abcdef')).status()).toBe(404)
    } finally {
      await office.close()
    }
  },
)

journey('none', 'twins that part are noticed long before the calendar', async ({ page, pass }) => {
  await siteOf(page, ['T1-pH', 'T2-pH'])
  const send = await sending(page, ['T1-pH', 'T2-pH'], 'tank 1')
  const both = async (one: number, other: number, times: number) => {
    for (let i = 0; i < times; i++) {
      await pass(10 * 60_000)
      await send(one, other)
    }
  }
  await both(5.8, 5.82, 40)
  await page.goto('/')
  await expect(page.getByRole('link', { name: /T1-pH/ }).first()).toBeVisible()
  await expect(page.getByText(/differ by [\d.]+\spH; expected at most \d/)).toHaveCount(0)
  await expect
    .poll(async () => {
      await both(5.8, 8.2, 6)
      await page.reload()
      await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
      return page.getByText(/differ by [\d.]+\spH; expected at most \d/).count()
    })
    .toBeGreaterThan(0)
  await expect(page.getByRole('link', { name: 'Check now' })).toBeVisible()
  await expectAccessible(page)
  // Why is seen on the curve of both, and how far they are apart beneath it.
  await page.getByRole('link', { name: 'The curve' }).click()
  await expect(page.getByRole('img', { name: /^T\d-pH less T\d-pH over time/ })).toBeVisible()
})
