import AxeBuilder from '@axe-core/playwright'
import { expect, type Page } from '@playwright/test'

export const appUrl = () => process.env.FRUSTUM_URL as string

/** Waits of one settling: generous, for a slow machine and an old electrode. */
const SETTLES_WITHIN = 5 * 60_000

export const main = (page: Page) => page.getByTestId('main')

/** Puts the stand-in's probe into something. */
export async function dip(page: Page, bath: string): Promise<void> {
  const button = page.getByLabel('Stand-in').getByRole('button', { name: bath, exact: true })
  await button.click()
  await expect(button).toHaveAttribute('aria-pressed', 'true')
}

/** Switches a fault of the stand-in on or off. */
export async function play(page: Page, fault: string): Promise<void> {
  await page.getByLabel('Stand-in').getByRole('button', { name: fault, exact: true }).click()
}

export async function step(page: Page, title: string | RegExp): Promise<void> {
  await expect(page.getByRole('heading', { level: 2, name: title })).toBeVisible()
}

/** Waits until the judge offers the reading, and takes it. */
export async function takeWhenStable(page: Page): Promise<void> {
  await expect(page.getByTestId('verdict')).toHaveText('stable', { timeout: SETTLES_WITHIN })
  await expect(main(page)).toBeEnabled()
  await main(page).click()
}

/** Takes the reading at once, with a usual reason. */
export async function takeEarly(page: Page, reason: string): Promise<void> {
  await page.getByRole('button', { name: /Take it now, with a reason/ }).click()
  await page.getByRole('button', { name: reason, exact: true }).click()
  await page.getByRole('button', { name: 'Take it now', exact: true }).click()
}

export async function skip(page: Page, reason: string): Promise<void> {
  await page.getByRole('button', { name: /^Skip/ }).click()
  await page.getByRole('button', { name: reason, exact: true }).click()
  await page.getByRole('button', { name: 'Skip it' }).click()
}

/** WCAG 2.2 AA, as far as a machine can tell. */
export async function expectAccessible(page: Page): Promise<void> {
  const { violations } = await new AxeBuilder({ page })
    .withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'])
    .analyze()
  expect(violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.target.join(' ')).join(', ')}`)).toEqual([])
}

/** Opens the Bench for a sensor and starts a visit. */
export async function startVisit(page: Page, position: string, kind: 'Check only' | 'Two points'): Promise<void> {
  await page.goto(`${appUrl()}/bench/start/${position}`)
  await page.getByRole('radio', { name: new RegExp(kind) }).check()
  await page.getByRole('button', { name: /^Start/ }).click()
  await step(page, /outputs on hold/)
}
