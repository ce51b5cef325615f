import { expect, type Page } from '@playwright/test'
import { expectAccessible, step } from '../support/bench.ts'
import { hands, STILL, twoPointsByKey } from '../support/hands.ts'
import { journey } from '../support/test.ts'

/** From an empty folder to a site of one's own. */

/** Site, person and a first pH sensor, up to the question whether it is in use. */
async function setUp(page: Page) {
  const at = hands(page)
  await page.goto('/')
  await at.follow('Set it up')
  await at.fill('Name of the site', 'Reef cellar')
  await at.fill('Your name', 'A. Fenn')
  await at.press('On to the first sensor')
  await at.choose('pH')
  await at.choose('Seawater aquarium')
  await at.fill('Place', 'Back room')
  await at.press('Next')
  await expect(page.getByRole('heading', { name: 'How do you read it?' })).toBeVisible()
  await at.press('Next')
  await expect(page.getByText('pH 8.20')).toBeVisible()
  await at.press('Save it')
  await expect(page.getByRole('heading', { name: 'BR-pH-1 is set up' })).toBeVisible()
  return at
}

journey('none', 'from an empty folder to a finished calibration: 50 actions at most', async ({ page }) => {
  const at = await setUp(page)
  await at.press('Already in use: check it')
  await expect(page.getByText('Taken on as it was found')).toBeVisible()
  await at.choose(
    'Two points, by its own key The device calibrates itself: as found in each cup, its key in each, as left in each. 4 cups · 12 min',
  )
  await at.press(/^Start/)
  await step(page, /outputs on hold/)
  await at.go()
  await twoPointsByKey(page, at)
  expect(at.counted.actions).toBeLessThanOrEqual(50)
  await page.goto('/')
  await expect(page.getByText('One is')).toHaveCount(0)
  await expect(page.getByText('in tolerance').first()).toBeVisible()

  // A second one, like the first: at most 6 actions to its start page.
  const again = hands(page)
  await again.follow(/^Rig/)
  await again.follow('Copy BR-pH-1')
  await expect(page.getByLabel('BR-pH-1: Code')).toHaveValue('BR-pH-2')
  await expect(page.getByLabel('Place')).toHaveValue('Back room')
  await again.press('Add sensor')
  await again.press('Already in use: check it')
  await expect(page.getByRole('heading', { name: 'BR-pH-2' })).toBeVisible()
  expect(again.counted.actions).toBeLessThanOrEqual(6)
})

journey(
  'none',
  'a controller with three sensors in one pass: 8 actions at most for each further one',
  async ({ page }) => {
    await setUp(page)
    for (const [kind, code] of [
      ['Conductivity', 'BR-EC-1'],
      ['Temperature', 'BR-T-1'],
    ] as const) {
      const at = hands(page)
      await at.follow('Another sensor on the same device')
      await at.choose(kind)
      await at.press('Next')
      const asked = page.getByRole('heading', { name: 'How do you read it?' })
      await expect(asked.or(page.getByRole('heading', { name: 'Is this right?' }))).toBeVisible()
      if (await asked.isVisible()) await at.press('Next')
      await at.press('Save it')
      await expect(page.getByRole('heading', { name: `${code} is set up` })).toBeVisible()
      expect(at.counted.actions).toBeLessThanOrEqual(8)
    }
    await page.getByRole('link', { name: /^Rig/ }).click()
    await page.getByRole('button', { name: 'Devices' }).click()
    await expect(page.getByText('BR-EC-1, BR-pH-1, BR-T-1')).toBeVisible()
  },
)

journey('none', 'no room of an empty site is a dead end, and none of it is hard to read', async ({ page }) => {
  await page.goto('/')
  await expect(page.getByRole('heading', { name: 'Nothing is here yet' })).toBeVisible()
  await expectAccessible(page)
  for (const [path, way] of [
    ['/bench', 'Set up your site'],
    ['/probes', 'Set up your site'],
    ['/plan', 'Set up your site'],
    ['/trips/new', 'Set up your site'],
    ['/rig', 'Add the first one'],
    ['/ledger', 'To the Bench'],
  ] as const) {
    await page.goto(path)
    await expect(page.getByRole('link', { name: way }), path).toBeVisible()
  }
  await page.goto('/shelf')
  await expect(page.getByRole('button', { name: /Add a|bottle/ }).first()).toBeVisible()
  // Wherever one begins, the site comes first.
  await page.goto('/rig/add')
  await expect(page.getByRole('heading', { name: 'Your site' })).toBeVisible()
  await page.getByRole('button', { name: 'On to the first sensor' }).click()
  await expect(page.getByText('Type the name of the site.')).toBeVisible()
  await expectAccessible(page)
  // What was typed is there after a reload.
  await page.getByLabel('Name of the site').fill('Mill')
  await page.reload()
  await expect(page.getByLabel('Name of the site')).toHaveValue('Mill')
})

journey(
  'none',
  'what was set up is changed on Rig: wrong values, a reason, an undo, and who was first',
  async ({ page, context }) => {
    await setUp(page)
    await page.getByRole('link', { name: /^Rig/ }).click()
    await page.getByRole('searchbox').fill('nothing like it')
    await expect(page.getByText('Nothing fits that word.')).toBeVisible()
    await page.getByRole('searchbox').fill('br-ph')
    await expectAccessible(page)
    await page
      .getByRole('link', { name: /BR-pH-1/ })
      .first()
      .click()
    await expectAccessible(page)
    const tolerance = page.getByLabel('Tolerance, ±')
    await tolerance.fill('0')
    await page.getByRole('button', { name: 'Save' }).click()
    await expect(page.getByText(/must lie within 0.01 to 2/)).toBeVisible()
    const other = await context.newPage()
    await other.goto(page.url())
    await other.getByLabel('Tolerance, ±').fill('0.09')
    await other.getByRole('button', { name: 'Save' }).click()
    await expect(other.getByText('Tolerance: 0.1 pH, now 0.09 pH')).toBeVisible()
    await tolerance.fill('0.08')
    await page.getByRole('button', { name: 'Save' }).click()
    await expect(page.getByText('A. Fenn changed this to 0.09 meanwhile.').first()).toBeVisible()
    await page.getByRole('button', { name: 'Save' }).click()
    await expect(page.getByText('Tolerance: 0.09 pH, now 0.08 pH')).toBeVisible()
    await tolerance.fill('0.3')
    await page.getByRole('button', { name: 'Save' }).click()
    await page.getByRole('button', { name: 'The process allows it' }).click()
    await page.getByRole('dialog').getByRole('button', { name: 'Save' }).click()
    await expect(page.getByText('Tolerance: 0.08 pH, now 0.3 pH')).toBeVisible()
    await page.getByRole('button', { name: 'Undo' }).first().click()
    await expect(tolerance).toHaveValue('0.08')
    // Another code: what was printed of the old one leads there.
    await page.getByLabel('Code on its label').fill('Sump')
    await page.getByRole('button', { name: 'Save' }).click()
    await expect(page.getByRole('heading', { name: /^Sump/ })).toBeVisible()
    await page.goto('/bench/start/BR-pH-1')
    await expect(page.getByRole('heading', { name: 'Sump' })).toBeVisible()
  },
)

journey(
  'none',
  'a list of sensors and one of past calibrations are looked at, put right, and taken in',
  async ({ page }) => {
    await page.goto('/')
    await page.getByRole('link', { name: 'Bring it in' }).click()
    await page.getByRole('link', { name: 'Set up your site' }).click()
    await page.getByLabel('Name of the site').fill('Mill')
    await page.getByLabel('Your name').fill('A. Fenn')
    await page.getByRole('button', { name: 'On to the first sensor' }).click()
    await page.goto('/bring')
    const list = (name: string, text: string, region = 'A list of sensors') =>
      page
        .getByRole('region', { name: region })
        .getByLabel(/(Choose the|Another) file/)
        .setInputFiles({ name, mimeType: 'text/csv', buffer: Buffer.from(text) })
    await list('picture.csv', 'a\0b')
    await expect(page.getByText('picture.csv cannot be read. It is no table.')).toBeVisible()
    await list('list.csv', 'Tag,Stuff,Room\nM-1,pH,Hall\nM-2,dowsing,Hall\n')
    await expect(page.getByText('0 new sensors')).toBeVisible()
    await page.getByLabel('What it measures').selectOption('Stuff')
    await page.getByLabel('Water').last().selectOption('Drinking water')
    await expect(page.getByText('1 new sensor', { exact: true })).toBeVisible()
    await expect(page.getByText('"dowsing" is no kind of sensor.')).toBeVisible()
    await expectAccessible(page)
    await page.getByLabel('Leave the wrong ones out').check()
    await page.getByRole('button', { name: 'Take in 1 sensor' }).click()
    await expect(page.getByText('1 sensor taken in.')).toBeVisible()
    const rows = ['Day,Tag,pH 7 found,pH 4 found,Slope', '03/04/2025,M-1,7.04,4.06,57.5', '05/06/2025,M-1,7.02,n/a,']
    await list('log.csv', rows.join('\n'), 'Past calibrations')
    await expect(page.getByText('Answer 3 questions to continue.')).toBeVisible()
    await expectAccessible(page)
    await page.getByLabel('Which comes first in a date?').selectOption('the day')
    await page.getByLabel('In what are the slopes?').selectOption('mV per pH')
    await page.getByLabel('A row with readings alone was').selectOption('a look: nothing was changed')
    await expect(page.getByText(/^3 Apr 2025: pH 7\.00 and pH 4\.01, slope 97\.2/)).toBeVisible()
    await expectAccessible(page)
    await page.getByRole('button', { name: 'Take in 2 rows' }).click()
    await expect(page.getByText('2 visits taken in.')).toBeVisible()
    await page.getByRole('link', { name: 'To Rounds' }).last().click()
    await expect(page.getByRole('link', { name: /^Check|^Calibrate/ })).toBeVisible()
    await page.goto('/ledger')
    await page.getByRole('link', { name: '5 Jun 2025' }).click()
    await expect(page.getByText('Taken in from a list: what is in it was noted elsewhere.')).toBeVisible()
    await expect(page.getByText(/file log\.csv, row 3/)).toBeVisible()
  },
)

/** A browser that is half a day away from the site, read in °F. */
journey(
  'none',
  'one controller with all its sensors, from an empty folder: pH, ORP with an own standard, a factory cell in SG, °F',
  async ({ browser, baseURL }) => {
    const page = await browser.newPage({ baseURL: baseURL as string, timezoneId: 'Pacific/Auckland', locale: 'en-US' })
    page.setDefaultTimeout(15_000)
    const at = await setUp(page)
    const another = async (kind: string, code: string, set: () => Promise<void> = async () => undefined) => {
      await at.follow('Another sensor on the same device')
      await at.choose(kind)
      await at.press('Next')
      const asked = page.getByRole('heading', { name: 'How do you read it?' })
      await expect(asked.or(page.getByRole('heading', { name: 'Is this right?' }))).toBeVisible()
      if (await asked.isVisible()) {
        await set()
        await at.press('Next')
      }
      await at.press('Save it')
      await expect(page.getByRole('heading', { name: `${code} is set up` })).toBeVisible()
    }
    await another('Conductivity', 'BR-EC-1', async () => {
      await page.getByLabel(/^It shows/).selectOption('specific gravity')
      await page.getByLabel(/^Factory-calibrated cell/).check()
    })
    await another('ORP', 'BR-ORP-1')
    await another('Temperature', 'BR-T-1')
    const check = async (code: string, procedure?: RegExp) => {
      await page.goto(`/bench/start/${code}`)
      await page.getByRole('button', { name: 'Already in use: check it' }).click()
      await expect(page.getByRole('button', { name: 'Already in use: check it' })).toHaveCount(0)
      if (procedure) await page.getByRole('radio', { name: procedure }).check()
    }
    const start = async () => {
      await page.getByRole('button', { name: /^Start/ }).click()
      await expect(page.getByRole('heading', { level: 2 }).first()).toBeVisible()
      if (await page.getByRole('heading', { name: /outputs on hold/ }).isVisible()) await at.go()
    }
    const read = async (title: RegExp, label: string, value: string, temperature?: string) => {
      await step(page, title)
      await at.type(label, value)
      if (temperature) await at.type('Temperature', temperature)
      await at.press(STILL)
    }
    const finish = async () => {
      await step(page, /Release/)
      await at.go()
      await expect(page.getByRole('heading', { name: 'Done' })).toBeVisible()
    }

    // pH in the check's buffer; a temperature in °F is typed with its unit.
    await check('BR-pH-1', /^Check only/)
    await start()
    await read(/read it as found/, 'pH shown', '8.15')
    await read(/into fresh pH 7.00/, 'pH shown', '7.02', '72.3 F')
    await step(page, 'What the check says')
    await at.press(/^Leave it alone|^Go on/)
    if (await page.getByRole('heading', { name: /Clean/ }).isVisible())
      throw new Error('A sound pH was sent to calibrate')

    // The factory cell in specific gravity: tested in seawater standard, never adjusted. A pH is no slip of its display.
    await check('BR-EC-1', /^Test only/)
    await start()
    await read(/read it as found/, 'Specific gravity shown', '1.0262')
    await read(/into fresh/, 'Specific gravity shown', '1.0264', '72.3 F')
    await step(page, 'Does it pass?')
    await at.press(/^Leave it alone/)
    await finish()

    // A solution that isn't listed is entered where the visit starts, and chosen at once.
    await check('BR-ORP-1', /^Check only/)
    await page.getByRole('button', { name: 'Not listed' }).first().click()
    await page.getByLabel('Name', { exact: true }).fill('Redox 475')
    await page.getByLabel('Value on its label').fill('475')
    await page.getByRole('button', { name: 'Save', exact: true }).click()
    await expect(page.getByRole('combobox', { name: /standard|solution/i }).first()).toContainText('Redox 475')
    await start()
    await read(/read it as found/, 'ORP shown', '345')
    await read(/into fresh Redox 475/, 'ORP shown', '471', '72.3 F')
    await step(page, 'What the check says')
    await at.press(/^Leave it alone|^Go on/)
    await finish()

    // The thermometer, against two others.
    await check('BR-T-1')
    await start()
    await step(page, /the others|two|thermometers/i)

    // What day it is, is a matter of the site: half a day away it reads the same.
    await page.goto('/shelf')
    await page.getByRole('button', { name: 'Add bottle' }).click()
    await page.getByLabel('Lot number').fill('R-1')
    await page.getByLabel('Expires on').fill('2031-10-31')
    await page.getByRole('button', { name: 'Save bottle' }).click()
    await expect(page.getByText(/lot\s+R-1/)).toBeVisible()
    const elsewhere = await browser.newPage({
      baseURL: baseURL as string,
      timezoneId: 'America/Los_Angeles',
      locale: 'en-US',
    })
    for (const path of ['/shelf', '/shelf/labels', '/ledger', '/plan']) {
      const texts = await Promise.all(
        [page, elsewhere].map(async (tab) => {
          await tab.goto(path)
          await expect(tab.getByRole('heading', { level: 1 }).first()).toBeVisible()
          await tab.waitForLoadState('networkidle')
          return tab.locator('main').textContent()
        }),
      )
      expect(texts[1], path).toBe(texts[0])
    }
  },
)
