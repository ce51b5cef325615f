import type { Page } from '@playwright/test'
import { main } from './bench.ts'

/** An action is a press, or one field filled. */
export function hands(page: Page) {
  const counted = { actions: 0, numbers: 0 }
  return {
    counted,
    async press(name: string | RegExp): Promise<void> {
      await page.getByRole('button', { name }).last().click()
      counted.actions++
    },
    async go(): Promise<void> {
      await main(page).click()
      counted.actions++
    },
    async type(label: string, value: string): Promise<void> {
      await page.getByLabel(label, { exact: true }).fill(value)
      counted.actions++
      counted.numbers++
    },
    /** A field of text, which is no number. */
    async fill(label: string, value: string): Promise<void> {
      await page.getByLabel(label, { exact: true }).fill(value)
      counted.actions++
    },
    async choose(name: string): Promise<void> {
      await page.getByRole('radio', { name, exact: true }).check()
      counted.actions++
    },
    async follow(name: string | RegExp): Promise<void> {
      await page.getByRole('link', { name }).first().click()
      counted.actions++
    },
  }
}
