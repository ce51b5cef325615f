import { acceleratedClock } from '@frustum/contract'
import { CONTROLLER_UNIT, type FleetSensor, fleet, standInUnits } from '@frustum/demo'
import { FAULT_BITS, StandInControl, startStandIns } from '@frustum/lab/stand-ins'
import { expect, type Page } from '@playwright/test'
import { expectAccessible, startVisit, step, takeWhenStable } from '../support/bench.ts'
import { hands } from '../support/hands.ts'
import { journey } from '../support/test.ts'

/** An own site, from nothing: a controller that nobody has a manual of is found by its display, and calibrated over its line. */

const CONTROLLER = fleet().find((s) => s.code === 'CH-pH-3') as FleetSensor
/** That of the site's clock: both must go on alike. */
const RATE = 10
const UNIT = String(CONTROLLER_UNIT)
const post = (page: Page, path: string, data: object) => page.request.post(`/api/${path}`, { data })

journey(
  'none',
  'a controller with swapped words is found by its display, and its pH calibrated over the line',
  async ({ page }) => {
    const standIns = await startStandIns(standInUnits([CONTROLLER]), { clock: acceleratedClock(RATE, Date.now()) })
    const control = new StandInControl({ host: '127.0.0.1', port: standIns.port, unit: CONTROLLER.unit as number })
    try {
      await post(page, 'site/set-up', { name: 'Mill', person: 'A. Fenn', timeZone: 'Europe/Berlin' })
      const options = JSON.stringify({ take: true, adjustsBy: 'numbers' })
      const list = new URLSearchParams({ name: 'list.csv', operator: 'A. Fenn', options })
      await page.request.post(`/api/bring/sensors?${list}`, {
        data: Buffer.from('code,kind,place,water\nT1-pH,pH,Hall,seawater'),
        headers: { 'content-type': 'application/octet-stream' },
      })
      await page.goto('/rig/position/1')
      const at = hands(page)
      await page.getByRole('link', { name: 'Connection', exact: true }).click()
      await at.fill('Address or name', '127.0.0.1')
      await at.fill('Port', String(standIns.port))
      await at.fill('Unit ID', UNIT)
      // The display of the controller is in nobody's sight here: what it says is asked by its own map.
      const display = { ...(CONTROLLER.via?.mapping ?? {}), calibration: undefined, writes: undefined, hold: undefined }
      const says = async (): Promise<string> => {
        const answer = await post(page, 'lines/1/try', {
          operator: 'A. Fenn',
          protocol: 'modbus-tcp',
          settings: { host: '127.0.0.1', port: standIns.port },
          address: { unit: Number(UNIT) },
          mapping: JSON.parse(JSON.stringify(display)),
        })
        const { reading } = (await answer.json()) as { reading: { shown: number } }
        return reading.shown.toFixed(2)
      }
      const value = page.getByRole('textbox', { name: 'Value', exact: true })
      await value.fill(await says())
      await at.press('Search')
      const found = page.getByRole('region', { name: 'Value, found' })
      await expect(found).toBeVisible({ timeout: 60_000 })
      await expectAccessible(page)
      await control.putInto('pH4.01')
      await expect.poll(async () => Number(await says()), { timeout: 60_000 }).toBeLessThan(4.2)
      await value.fill(await says())
      await at.press('Add reading')
      // Beside it may be what shares its high word; a further look would tell.
      const right = found
        .getByRole('listitem')
        .filter({ hasText: 'Register 100 (32-bit decimal)' })
        .filter({ hasText: 'CDAB' })
      await right.getByRole('button', { name: 'Use this' }).click()
      const anyway = right.getByRole('button', { name: 'Use anyway' })
      if (await anyway.isVisible()) await anyway.click()
      await at.press('Stop')
      // Its manual says the rest: the temperature, and where its slope and zero stand.
      await page.getByLabel('Temperature, address').fill('104')
      await page.getByText('Calibration and outputs').click()
      for (const [name, address] of [
        ['Slope', '120'],
        ['Zero', '122'],
      ] as const) {
        await page.getByLabel(`${name}, address`).fill(address)
        await page.getByLabel(`${name}, byte order`).selectOption('CDAB')
      }
      await page.getByLabel('Allow writing from the Bench').check()
      await expect(page.getByText('Connected. All mapped values can be read.')).toBeVisible()
      await at.press('Save connection')
      await expect(page).toHaveURL(/\/rig\/position\/1$/)
      await page.goto('/rig')
      await at.press('Connections')
      await expect(page.getByText('Connected', { exact: true })).toBeVisible()
      await page.getByRole('link', { name: /Modbus TCP, 127/ }).click()
      await expect(page.getByText('holding 100')).toBeVisible()
      await page.getByText(/The last \d+ exchanges/).click()
      await expect(page.getByText(/holding registers from 100/).first()).toBeVisible()
      await expectAccessible(page)

      await control.putInto('process')
      await startVisit(page, 'T1-pH', /Two points/)
      await step(page, /outputs on hold/)
      await at.go()
      await step(page, /read it as found/)
      await takeWhenStable(page)
      await step(page, /into fresh pH 7.00/)
      await control.putInto('pH7.00')
      await takeWhenStable(page)
      await step(page, /Clean the glass/)
      await control.putInto('rinse')
      await at.go()
      await step(page, 'Into pH 7.00')
      await control.putInto('pH7.00')
      await takeWhenStable(page)
      await step(page, /Rinse well/)
      await control.putInto('rinse')
      await at.go()
      await step(page, 'Into pH 10.01')
      await control.putInto('pH10.01')
      await takeWhenStable(page)
      await step(page, 'What the two points say')
      await page.keyboard.press('Space')
      await step(page, /Write the numbers/)
      await at.press(/Write to the device/)
      await step(page, /to verify/)
      await control.putInto('pH7.00')
      await takeWhenStable(page)
      await step(page, /back into the process/)
      await control.putInto('process')
      await takeWhenStable(page)
      await step(page, /Release the hold/)
      await at.go()
      await expect(page.getByRole('heading', { name: 'Done' })).toBeVisible()
    } finally {
      control.close()
      await standIns.close()
    }
  },
)

journey('none', 'a monitor is found among all that its broker publishes, and read', async ({ page }) => {
  const monitors = fleet().filter((s) => s.via?.by === 'broker')
  const standIns = await startStandIns(standInUnits(monitors), { clock: acceleratedClock(RATE, Date.now()) })
  const control = new StandInControl({ host: '127.0.0.1', port: standIns.port, unit: monitors[0]?.unit as number })
  try {
    await post(page, 'site/set-up', { name: 'Mill', person: 'A. Fenn', timeZone: 'Europe/Berlin' })
    const list = new URLSearchParams({ name: 'list.csv', operator: 'A. Fenn', options: JSON.stringify({ take: true }) })
    await page.request.post(`/api/bring/sensors?${list}`, {
      data: Buffer.from('code,kind,place,water\nB2-pH,pH,House,nutrient'),
      headers: { 'content-type': 'application/octet-stream' },
    })
    await page.goto('/rig/position/1/line')
    const at = hands(page)
    await page.getByLabel('Protocol').selectOption('mqtt')
    await at.fill('Broker address or name', '127.0.0.1')
    await at.fill('Port (optional)', '1')
    // Nothing listens there: it says so, and what was typed stays.
    await page.getByRole('textbox', { name: 'Value', exact: true }).fill('9.99')
    await at.press('Search')
    await expect(page.getByText('Nothing listens at 127.0.0.1:1.')).toBeVisible()
    await at.press('Stop')
    await at.fill('Port (optional)', String(standIns.broker))
    await at.press('Search')
    await expect(page.getByText('wasabi/bed-2', { exact: true })).toBeVisible()
    await expectAccessible(page)
    const all = page.getByRole('listitem')
    await all.filter({ hasText: '/ph' }).first().getByRole('button', { name: 'Value' }).click()
    await expect(page.getByLabel('Value, topic')).toHaveValue('wasabi/bed-2')
    await page.getByLabel('Temperature, topic').fill('wasabi/bed-2')
    await page.getByLabel('Temperature, field').fill('/water/temp_c')
    await expect(page.getByText('Connected. All mapped values can be read.')).toBeVisible()
    await page.getByText('Offline message (last will)').click()
    await page.getByLabel('Offline message (last will), Topic').fill('wasabi/bed-2/state')
    await page.getByLabel('Offline message (last will), Offline values').fill('offline')
    await at.press('Save connection')
    await expect(page).toHaveURL(/\/rig\/position\/1$/)
    await page.goto('/rig/connection/1')
    await expect(page.getByText('wasabi/bed-2 /ph:')).toBeVisible()
    await control.setFaults(FAULT_BITS.silent)
    await expect(page.getByText('its status is offline')).toBeVisible()
    await control.setFaults(0)
    await expect(page.getByText('its status is offline')).toBeHidden()
    await expectAccessible(page)
  } finally {
    control.close()
    await standIns.close()
  }
})

journey(['WH-N-1'], 'a logger that was away fills its gap', async ({ page }) => {
  const silence = (faults: number) => post(page, 'extensions/demo/standins/WH-N-1', { faults })
  await page.goto('/rig')
  await hands(page).press('Connections')
  await page.getByRole('link', { name: 'Loggers' }).click()
  const there = async () =>
    Number(
      /the last \d+ minutes (\d+) have a reading/.exec(
        (await page.getByText('have a reading').textContent()) ?? '',
      )?.[1],
    )
  await expect.poll(there, { timeout: 60_000 }).toBeGreaterThan(1)
  await silence(FAULT_BITS.silent)
  await page.waitForTimeout(1000)
  const before = await there()
  // Three minutes of the site's clock without a network.
  await page.waitForTimeout((3 * 60_000) / RATE)
  expect(await there()).toBeLessThanOrEqual(before + 1)
  await silence(0)
  await expect.poll(there, { timeout: 60_000 }).toBeGreaterThanOrEqual(before + 3)
  await page.getByText(/The last \d+ exchanges/).click()
  await expect(page.getByText(/readings, \d+ new/).first()).toBeVisible()
  await expectAccessible(page)
})
