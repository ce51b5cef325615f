import { chromium } from '/work/main/node_modules/playwright-core/index.mjs'
import { chromiumPath, CHROMIUM_FLAGS } from '/work/main/scripts/chromium.ts'
import { acceleratedClock } from '@frustum/contract'
import { CONTROLLER_UNIT, fleet, standInUnits } from '@frustum/demo'
import { StandInControl, startStandIns } from '@frustum/standins'
import { hands } from '/work/main/e2e/support/hands.ts'
const C = fleet().find((s) => s.code === 'CH-pH-3')!
const standIns = await startStandIns(standInUnits([C]), { clock: acceleratedClock(10, Date.now()) })
const control = new StandInControl({ host: '127.0.0.1', port: standIns.port, unit: C.unit as number })
const base = 'http://127.0.0.1:4271'
const post = async (path: string, body: object) => (await fetch(base + '/api/' + path, { method: 'POST', body: JSON.stringify(body), headers: { 'content-type': 'application/json' } })).json()
const operator = 'A. Fenn'
await post('site/set-up', { name: 'Mill', person: operator, timeZone: 'Europe/Berlin' })
const list = new URLSearchParams({ name: 'list.csv', operator, options: JSON.stringify({ take: true, adjustsBy: 'numbers' }) })
await fetch(`${base}/api/bring/sensors?${list}`, { method: 'POST', body: 'code,kind,place,water\nT1-pH,pH,Hall,seawater', headers: { 'content-type': 'application/octet-stream' } })
const display = { ...(C.via?.mapping ?? {}), calibration: undefined, writes: undefined, hold: undefined }
const says = async () => ((await post('lines/1/try', { operator, protocol: 'modbus-tcp', settings: { host: '127.0.0.1', port: standIns.port }, address: { unit: CONTROLLER_UNIT }, mapping: JSON.parse(JSON.stringify(display)) })) as any).reading.shown as number
const browser = await chromium.launch({ executablePath: chromiumPath()!, args: [...CHROMIUM_FLAGS] })
const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, baseURL: base })
page.setDefaultTimeout(30000)
const at = hands(page as never)
const shot = async (n: string) => { await page.getByText('Find it by the displayed value').scrollIntoViewIfNeeded(); await page.screenshot({ path: `/tmp/shots/${n}.png` }) }
await page.goto('/rig/position/1/line'); await page.waitForTimeout(1500)
await at.fill('Address or name', '127.0.0.1'); await at.fill('Port', String(standIns.port)); await at.fill('Unit number', '9')
await page.getByRole('textbox', { name: 'Value', exact: true }).fill((await says()).toFixed(2))
await at.press('Search')
await page.getByText('This unit answers').or(page.getByText('These units answer')).waitFor({ timeout: 120000 })
await shot('find-unit')
await page.getByRole('button', { name: `Unit ${CONTROLLER_UNIT}` }).click()
await page.waitForTimeout(3000); await shot('find-scan')
await page.getByText('can be read.').waitFor({ timeout: 120000 })
await control.putInto('pH4.01')
while ((await says()) > 4.1) await page.waitForTimeout(500)
await page.waitForTimeout(4000)
await page.getByRole('textbox', { name: 'Value', exact: true }).fill((await says()).toFixed(2))
await at.press('Add reading'); await page.waitForTimeout(12000)
await page.getByText('Details').first().click()
await shot('find-two')
await page.setViewportSize({ width: 390, height: 844 }); await page.emulateMedia({ colorScheme: 'dark' }); await page.waitForTimeout(500)
await shot('find-390'); await page.evaluate(() => window.scrollBy(0, 500)); await page.screenshot({ path: '/tmp/shots/find-390b.png' }); await page.setViewportSize({ width: 1280, height: 1400 }); await page.screenshot({ path: '/tmp/shots/find-dark.png' })
await browser.close(); await standIns.close?.(); process.exit()
