import { chromium } from '@playwright/test'
import { CHROMIUM_FLAGS, ensureChromium } from '../scripts/chromium.ts'
const [base, ...list] = process.argv.slice(2)
const browser = await chromium.launch({ executablePath: ensureChromium(), args: [...CHROMIUM_FLAGS] })
for (const item of list) {
  const [name, path, scheme = 'light', w = '1280', h = '800', full = ''] = item.split('|')
  const page = await (await browser.newContext({ viewport: { width: Number(w), height: Number(h) }, colorScheme: scheme as 'light' })).newPage()
  page.on('pageerror', (e) => console.log(name, String(e)))
  await page.goto(base + path!)
  await page.waitForTimeout(2500)
  await page.screenshot({ path: `/tmp/shots/${name}.png`, fullPage: full === 'full' })
  await page.close()
}
await browser.close()
