import { randomUUID } from 'node:crypto'
import { fileURLToPath } from 'node:url'
import { VisitRun, type VisitSnapshot } from '@frustum/core'
import { expect, type Page } from '@playwright/test'
import { build } from 'esbuild'
import { expectAccessible, step } from '../support/bench.ts'
import { hands, STILL, twoPointsByKey, twoPointsUncleaned } from '../support/hands.ts'
import { journey } from '../support/test.ts'

/** Devices that are read by eye: as few presses and numbers as the work has, in °C and in °F. */

async function begin(page: Page, position: string, procedure: RegExp) {
  const at = hands(page)
  await page.goto('/')
  await page.getByRole('link', { name: position }).first().waitFor()
  await page.goto(`/bench/start/${position}`)
  at.counted.actions++
  await expect(page.getByRole('button', { name: /^Start/ })).toBeVisible()
  const choice = page.getByRole('radio', { name: procedure })
  if (!(await choice.isVisible())) await page.getByRole('button', { name: /other ways?:/ }).click()
  if (!(await choice.isChecked())) await choice.check()
  await at.press(/^Start/)
  await step(page, /outputs on hold/)
  await at.go()
  return at
}

journey(
  ['CH-pH-4'],
  'two points by the key of an aquarium controller: 30 presses and 10 numbers at most',
  async ({ page }) => {
    const at = await begin(page, 'CH-pH-4', /^Two points, by its own key/)
    await twoPointsByKey(page, at)
    expect(at.counted.actions).toBeLessThanOrEqual(30)
    expect(at.counted.numbers).toBeLessThanOrEqual(10)
    await page.getByRole('link', { name: 'The record' }).click()
    await expect(page.getByText('by its own key').first()).toBeVisible()
    await expect(page.getByText('worked out').first()).toBeVisible()
    await expect(page.getByText(/22\.4\s°C as before, not read again/).first()).toBeVisible()
  },
)

journey(['CH-pH-4'], 'the same with a clean sensor: 20 presses and 8 numbers at most', async ({ page }) => {
  const at = await begin(page, 'CH-pH-4', /^Two points, by its own key/)
  await twoPointsUncleaned(page, at)
  expect(at.counted.actions).toBeLessThanOrEqual(20)
  expect(at.counted.numbers).toBeLessThanOrEqual(8)
})

journey(
  ['CH-pH-4'],
  'a check in one cup in °F: 10 presses and 4 numbers at most; a number in °F is named as such',
  async ({ page }) => {
    const at = await begin(page, 'CH-pH-4', /^Check only/)
    await step(page, /read it as found/)
    await at.type('pH shown', '8.10')
    await at.press(STILL)
    await step(page, /into fresh pH 7.00/)
    await at.type('pH shown', '7.03')
    await at.type('Temperature', '72.3')
    await page.getByRole('button', { name: STILL }).click()
    await expect(
      page.getByText('72.3 looks like °F: choose °F beside it, or type C behind it if it is that hot.'),
    ).toBeVisible()
    await page.getByRole('button', { name: 'In °C; press for °F' }).click()
    await at.press(STILL)
    await step(page, 'What the check says')
    await at.press(/^Leave it alone/)
    await step(page, /Release/)
    await at.go()
    await expect(page.getByRole('heading', { name: 'Done' })).toBeVisible()
    expect(at.counted.actions).toBeLessThanOrEqual(10)
    expect(at.counted.numbers).toBeLessThanOrEqual(4)
    await page.getByRole('link', { name: 'The record' }).click()
    await expect(page.getByText('Checked').first()).toBeVisible()
    await expect(page.getByText('22.4 °C').first()).toBeVisible()
  },
)

journey(['CH-S-2'], 'a salinity cell in SG with its zero in dry air, by what it shows there', async ({ page }) => {
  const at = await begin(page, 'CH-S-2', /^Dry zero and one standard/)
  const read = async (title: RegExp, value: string, temperature?: string) => {
    await step(page, title)
    await at.type('Specific gravity shown', value)
    if (temperature) await at.type('Temperature', temperature)
    await at.press(STILL)
  }
  const skip = async (title: RegExp, reason: string) => {
    await step(page, title)
    await at.press(/^Skip/)
    await at.press(reason)
    await at.press('Skip step')
  }
  await read(/read it as found/, '1.0263')
  await read(/into fresh/, '1.0270', '22.4')
  await step(page, /then rinse$/)
  await at.go()
  await skip(/Blow the cell out/, 'It is bone dry already')
  await step(page, /bone dry\?/)
  for (const tick of await page.getByRole('checkbox').all()) await tick.check()
  await at.go()
  await read(/Hold the dry cell in air/, '1.0000', '22.4')
  await read(/^Into /, '1.0270')
  await step(page, 'What zero and standard say')
  await expect(page.getByText(/Cell factor/).first()).toBeVisible()
  await expectAccessible(page)
})

/** Walks a two-point visit by typed readings to its end; runs in Node and, as text, in a page. */
function walkByEye(from: (snapshot: VisitSnapshot, now: number) => VisitRun, snapshot: VisitSnapshot) {
  let now = snapshot.startedAt
  const run = from(snapshot, now)
  for (let n = 0; run.progress.current && n < 60; n++) {
    const { key, kind, role } = run.progress.current
    now += 30_000
    if (kind === 'capture') {
      const code = role ? snapshot.setup.standards[role]?.code : undefined
      const value = code === 'pH7.00' ? '7.03' : code === 'pH10.01' ? '9.93' : '8.05'
      run.type(key, { value, temperature: '25.0', still: true }, now)
      run.capture(key, now, { earlyReason: 'Testing' })
    } else if (kind === 'apply') run.keyIn('8.05', now, 'Testing')
    else if (kind === 'verdict' || kind === 'result') {
      const choices = run.view.result?.choices ?? []
      run.act(
        { type: 'decide', step: key, decision: choices.includes('adjust') ? 'adjust' : 'leave-alone', note: 'Testing' },
        now,
      )
    } else run.act({ type: 'done', step: key }, now)
  }
  return { lines: run.lines, ended: run.progress.current === null, live: run.liveAt(now) }
}

journey(
  ['CH-pH-4'],
  'a whole visit runs in a page with the network off, as it does on the server',
  async ({ page }) => {
    const standards = { first: 'pH7.00', second: 'pH10.01' }
    const asked = { clientId: randomUUID(), operator: 'S. Osk', position: 'CH-pH-4', procedure: 'ph-two-point' }
    const begun = await page.request.post('/api/visits', { data: { ...asked, standards, opening: {} } })
    const { id } = (await begun.json()) as { id: string }
    const snapshot = (await (await page.request.get(`/api/visits/${id}/snapshot`)).json()) as VisitSnapshot
    const { outputFiles } = await build({
      entryPoints: [fileURLToPath(new URL('../../core/src/visits/visitRun.ts', import.meta.url))],
      bundle: true,
      format: 'iife',
      globalName: 'visits',
      platform: 'browser',
      write: false,
    })
    await page.context().setOffline(true)
    await page.addScriptTag({ content: outputFiles[0]?.text ?? '' })
    const inPage = await page.evaluate(
      `JSON.stringify((${walkByEye})((snapshot, now) => visits.VisitRun.from(snapshot, now), ${JSON.stringify(snapshot)}))`,
    )
    const here = walkByEye((s, now) => VisitRun.from(s, now), snapshot)
    expect(here.ended).toBe(true)
    expect(here.lines.filter(({ entry }) => entry.type === 'captured').length).toBeGreaterThanOrEqual(4)
    expect(here.lines.some(({ entry }) => entry.type === 'applied')).toBe(true)
    expect(inPage).toBe(JSON.stringify(here))
  },
)
