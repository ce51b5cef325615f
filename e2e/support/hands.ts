import { expect, type Page } from '@playwright/test'
import { expectAccessible, main, step } from './bench.ts'

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

export const STILL = 'It stood still: keep it'

/** From the first reading as found to the end: two points by the key of a device that calibrates itself. */
export async function twoPointsByKey(page: Page, at: ReturnType<typeof hands>): Promise<void> {
  const read = async (title: RegExp, value: string, temperature?: string) => {
    await step(page, title)
    await at.type('pH shown', value)
    if (temperature) await at.type('Temperature', temperature)
    await at.press(STILL)
  }
  // The reading and the device's own key are one screen.
  const pressed = async (title: RegExp, value: string, shown: string, label = 'It shows then') => {
    await step(page, title)
    await at.type('pH shown', value)
    await at.type(label, shown)
    await at.press('Save reading and key')
  }
  await read(/read it as found/, '8.05')
  await read(/into fresh pH 7.00/, '7.12', '22.4')
  // The second cup has the temperature of the first.
  await read(/into fresh pH 10.01/, '10.18')
  await step(page, 'What it is as found')
  await at.press(/^Go on and calibrate/)
  await step(page, /^Clean/)
  await at.go()
  await step(page, /into pH 7.00/)
  await expectAccessible(page)
  await pressed(/into pH 7.00/, '7.10', '7.01', 'It shows then (optional)')
  await pressed(/into pH 10.01/, '10.15', '10.03')
  await read(/back into pH 7.00/, '7.02')
  await step(page, 'What its own calibration came to')
  await expectAccessible(page)
  await at.press(/^Keep it so/)
  await read(/back into the process/, '8.02')
  await step(page, /Release/)
  await at.go()
  await expect(page.getByRole('heading', { name: 'Done' })).toBeVisible()
  await expect(page.getByText('Calibrated by its own key, kept so')).toBeVisible()
}

/** The same with a clean sensor, as in a monthly routine: what was found stands, and only the keys are pressed. */
export async function twoPointsUncleaned(page: Page, at: ReturnType<typeof hands>): Promise<void> {
  const read = async (title: RegExp, value: string, temperature?: string) => {
    await step(page, title)
    await at.type('pH shown', value)
    if (temperature) await at.type('Temperature', temperature)
    await at.press(STILL)
  }
  await read(/read it as found/, '8.05')
  await read(/into fresh pH 7.00/, '7.12', '22.4')
  await read(/into fresh pH 10.01/, '10.18')
  await step(page, 'What it is as found')
  await at.press('Calibrate without cleaning')
  await step(page, /into pH 7.00; press CAL/)
  await at.go()
  await step(page, /into pH 10.01; press CAL/)
  await at.type('It shows then', '10.03')
  await at.go()
  await read(/back into pH 7.00/, '7.02')
  await step(page, 'What its own calibration came to')
  await at.press(/^Keep it so/)
  await read(/back into the process/, '8.02')
  await step(page, /Release/)
  await at.go()
  await expect(page.getByRole('heading', { name: 'Done' })).toBeVisible()
}
