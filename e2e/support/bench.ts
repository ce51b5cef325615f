import AxeBuilder from '@axe-core/playwright'
import { expect, type Page } from '@playwright/test'

/** Waits of one settling: generous, for a slow machine and an old electrode. */
const SETTLES_WITHIN = 3 * 60_000

export const main = (page: Page) => page.getByTestId('main')

/** Puts the stand-in's probe into something. */
export async function dip(page: Page, bath: string): Promise<void> {
  const button = page.getByLabel('Stand-in').getByRole('button', { name: bath, exact: true })
  await button.click()
  await expect(button).toHaveAttribute('aria-pressed', 'true')
}

/** Switches a fault of the stand-in on or off, and waits until it says so. */
export async function play(page: Page, fault: string): Promise<void> {
  const strip = page.getByLabel('Stand-in')
  const on = strip.getByRole('button', { name: fault, exact: true })
  if (await on.isVisible()) {
    await on.click()
    await expect(on).toBeHidden()
  } else {
    await strip.getByRole('combobox').selectOption({ label: fault })
    await expect(on).toBeVisible()
  }
}

export async function step(page: Page, title: string | RegExp): Promise<void> {
  await expect(page.getByRole('heading', { level: 2, name: title })).toBeVisible()
}

/** Waits until the judge offers the reading, and takes it; one that moved just before the press is waited for again. */
export async function takeWhenStable(page: Page): Promise<void> {
  const ends = performance.now() + SETTLES_WITHIN
  while (performance.now() < ends) {
    await expect(main(page)).toBeEnabled({ timeout: SETTLES_WITHIN })
    const answered = page.waitForResponse((r) => r.url().endsWith('/capture')).catch(() => null)
    const pressed = await main(page)
      .click({ timeout: 3000 })
      .then(
        () => true,
        () => false,
      )
    if (!pressed) continue
    const answer = await answered
    if (answer?.ok()) return
    expect(await answer?.json()).toMatchObject({ code: 'not-stable' })
  }
  throw new Error('The reading was never offered for long enough to be taken.')
}

/** Takes the reading at once, with a usual reason. */
export async function takeEarly(page: Page, reason: string): Promise<void> {
  await page.getByRole('button', { name: /Capture early/ }).click()
  await page.getByRole('button', { name: reason, exact: true }).click()
  await page.getByRole('button', { name: 'Capture now', exact: true }).click()
}

export async function skip(page: Page, reason: string): Promise<void> {
  const choice = page.getByRole('button', { name: reason, exact: true })
  // Pressed before the next step stands there, it asks about the step before, and goes with that.
  await expect(async () => {
    if (!(await choice.isVisible())) await page.getByRole('button', { name: /^Skip/ }).click({ timeout: 3000 })
    await expect(choice).toBeVisible({ timeout: 3000 })
  }).toPass()
  await choice.click()
  await page.getByRole('button', { name: 'Skip step', exact: true }).click()
}

/** WCAG 2.2 AA, as far as a machine can tell. */
export async function expectAccessible(page: Page): Promise<void> {
  // What is being fetched is dimmed for that time.
  await expect(page.locator('[aria-busy="true"]')).toHaveCount(0)
  // One page without foreign frames: axe need not open a page of its own, and what passes need not be listed.
  const { violations } = await new AxeBuilder({ page })
    .options({
      resultTypes: ['violations'],
      runOnly: { type: 'tag', values: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'] },
    })
    .setLegacyMode(true)
    .analyze()
  expect(violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.target.join(' ')).join(', ')}`)).toEqual([])
}

/** Opens the Bench for a sensor and starts a visit. */
export async function startVisit(page: Page, position: string, procedure: string | RegExp): Promise<void> {
  await page.goto(`/bench/start/${position}`)
  const choice = page.getByRole('radio', { name: procedure })
  const others = page.getByRole('button', { name: /other ways?:/ })
  await expect(page.getByRole('button', { name: /^Start/ })).toBeVisible()
  if (!(await choice.isVisible())) await others.click()
  await choice.check()
  await page.getByRole('button', { name: /^Start/ }).click()
}

/** Counts what the operator does from here on: taps and keys, and how many of them typed something into a field. */
export async function countActions(page: Page): Promise<() => Promise<{ taps: number; total: number; typed: number }>> {
  const install = () => {
    const kept = () => JSON.parse(sessionStorage.getItem('counted') ?? '{"taps":0,"total":0,"typed":0}')
    const count = (what: 'tap' | 'key', typed: boolean) => {
      const now = kept()
      now.total++
      if (what === 'tap') now.taps++
      if (typed) now.typed++
      sessionStorage.setItem('counted', JSON.stringify(now))
    }
    const hands = (target: EventTarget | null) => !(target as Element | null)?.closest?.('[aria-label="Stand-in"]')
    addEventListener('pointerdown', (e) => hands(e.target) && count('tap', false), true)
    addEventListener(
      'keydown',
      (e) => hands(e.target) && count('key', /^(input|textarea)$/i.test((e.target as Element).tagName)),
      true,
    )
  }
  await page.addInitScript(install)
  await page.evaluate(install)
  return () => page.evaluate(() => JSON.parse(sessionStorage.getItem('counted') ?? '{}'))
}
