import { chromium } from 'playwright-core'

const b = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox'] })
const base = process.env.URL ?? 'http://127.0.0.1:4280'
const shots = process.argv.slice(2)
for (const spec of shots) {
  const [path, name, width = '1280', sel = '', theme = 'light'] = spec.split('|')
  const p = await b.newPage({ viewport: { width: Number(width), height: 800 }, colorScheme: theme as never })
  await p.goto(base + path)
  await p.waitForTimeout(2500)
  if (sel) {
    for (const s of sel.split('~')) {
      const [l, v] = s.split('=')
      if (v)
        await p
          .getByLabel(l, { exact: true })
          .selectOption(v)
          .catch(() => p.getByLabel(l, { exact: true }).fill(v))
      else await p.getByText(l).first().click()
    }
    await p.waitForTimeout(1200)
  }
  await p.screenshot({ path: `/tmp/shots/${name}.png`, fullPage: true })
  await p.close()
}
await b.close()
