import type { FleetView } from '@frustum/contract'
import type { Page } from '@playwright/test'
import type { BenchRow } from './ageing.ts'

const PROBES = 1000

/** A fleet of a thousand: scrolled, filtered and sorted, by the browser's own count of how long each input waited. */
export async function fleetTable(page: Page, url: string): Promise<BenchRow> {
  await page.route('**/api/probes', async (route) => {
    const response = await route.fetch()
    const { rows, confirmed } = (await response.json()) as FleetView
    const many = Array.from({ length: PROBES }, (_, i) => {
      const row = rows[i % rows.length] as FleetView['rows'][number]
      return { ...row, position: `${row.position}-${i}` }
    })
    await route.fulfill({ json: { rows: many, confirmed } })
  })
  await page.goto(`${url}/probes`)
  await page.getByText('1000 probes').waitFor()
  await page.evaluate(() => {
    const waits: number[] = []
    Object.assign(window, { waits })
    new PerformanceObserver((list) => {
      // Only what the browser counts as an interaction: a press, a key, a tap.
      for (const entry of list.getEntries() as (PerformanceEntry & { interactionId: number })[]) {
        if (entry.interactionId > 0) waits.push(entry.duration)
      }
    }).observe({ type: 'event', durationThreshold: 16 } as PerformanceObserverInit)
  })
  const box = page.getByLabel('The fleet').first()
  await box.hover()
  for (let i = 0; i < 40; i++) {
    await page.mouse.wheel(0, 1200)
    await page.waitForTimeout(30)
  }
  await page.getByLabel('Find').pressSequentially('glass', { delay: 60 })
  await page.getByRole('button', { name: 'Next date' }).click()
  await page.getByRole('button', { name: 'Worst first' }).click()
  await page.waitForTimeout(500)
  const longest = await page.evaluate(() => Math.max(0, ...(window as unknown as { waits: number[] }).waits))
  const drawn = await page.getByRole('row').count()
  await page.unroute('**/api/probes')
  return {
    what: `fleet of ${PROBES.toLocaleString('en')}: longest interaction`,
    measured: `${longest.toFixed(0)} ms, ${drawn} rows drawn`,
    wanted: 'under 100 ms',
    ok: longest < 100,
  }
}
