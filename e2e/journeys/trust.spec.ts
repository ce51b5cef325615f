import { createHash, X509Certificate } from 'node:crypto'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { leadAtServer } from '@frustum/server/owner'
import { type Browser, chromium, expect, type Page, test } from '@playwright/test'
import { CHROMIUM_FLAGS, chromiumPath } from '../../scripts/chromium.ts'
import { startApp } from '../support/app.ts'
import { expectAccessible } from '../support/bench.ts'
import { hands } from '../support/hands.ts'
import { journey } from '../support/test.ts'

/** Who may do what, on a shared tablet and on the local network; what is lost comes back; what has to be shown is shown. */

const PASSWORD = 'slow tide at noon'
const header = (page: Page) => page.getByRole('banner')

async function signIn(page: Page, name: string, password = PASSWORD) {
  const at = hands(page)
  await at.fill('Name', name)
  await at.fill('Password', password)
  await at.press('Sign in')
}

/** A page in a browser of its own, as on another device. */
async function otherDevice(browser: Browser, baseURL: string | undefined, path: string): Promise<Page> {
  const page = await (await browser.newContext({ ...(baseURL ? { baseURL } : {}) })).newPage()
  await page.goto(path)
  return page
}

const post = (page: Page, path: string, data: object) => page.request.post(`/api/${path}`, { data })

journey(
  'none',
  'people sign in, a tablet changes hands by PIN, and roles bound what each may do',
  async ({ page, browser, baseURL }) => {
    await post(page, 'site/set-up', { name: 'Mill', person: 'A. Fenn', timeZone: 'Europe/Berlin' })
    await page.goto('/site')
    const at = hands(page)
    await at.press('Switch on')
    await at.fill('Password', 'short')
    await at.press('Switch on')
    await expect(page.getByText('At least 10 characters.')).toBeVisible()
    await at.fill('Password', PASSWORD)
    await at.press('Switch on')
    await expect(header(page).getByRole('button', { name: 'A. Fenn' })).toBeVisible()
    for (const [name, role] of [
      ['B. Reed', 'operator'],
      ['C. Holm', 'viewer'],
    ]) {
      const { id } = (await (
        await post(page, 'rig/person', { operator: 'A. Fenn', values: { name, role } })
      ).json()) as { id: number }
      // The first password is a lead's to give, on the person's page.
      await page.goto(`/rig/person/${id}`)
      await at.fill('New password', PASSWORD)
      await at.press('Set password')
      await expect(page.getByText('Password set.')).toBeVisible()
    }

    const phone = await otherDevice(browser, baseURL, '/plan')
    await expect(phone.getByRole('heading', { name: 'Sign in' })).toBeVisible()
    await expectAccessible(phone)
    await signIn(phone, 'b. reed', 'not that one')
    await expect(phone.getByText('Wrong name or password.')).toBeVisible()
    await signIn(phone, 'b. reed')
    await expect(header(phone).getByRole('button', { name: 'B. Reed' })).toBeVisible()
    await phone.goto('/me')
    const own = phone.getByRole('form', { name: 'PIN' })
    await own.getByLabel('Password').fill(PASSWORD)
    await own.getByLabel('New PIN').fill('1234')
    await own.getByRole('button', { name: 'Set PIN' }).click()
    await expect(phone.getByText('Too easy to guess.')).toBeVisible()
    await own.getByLabel('New PIN').fill('4071')
    await own.getByRole('button', { name: 'Set PIN' }).click()
    await expect(phone.getByText('You have one.')).toBeVisible()
    await expectAccessible(phone)

    // The lead's tablet is handed over: B. Reed is there now, and is no lead.
    await page.goto('/rig')
    await expect(page.getByRole('link', { name: 'Add a sensor' }).first()).toBeVisible()
    await header(page).getByRole('button', { name: 'A. Fenn' }).click()
    await page.getByRole('dialog').getByRole('button', { name: 'B. Reed' }).click()
    await page.getByLabel('PIN of B. Reed').last().fill('4072')
    await at.press('Take over')
    await expect(page.getByText('Wrong PIN.')).toBeVisible()
    await expectAccessible(page)
    await page.getByLabel('PIN of B. Reed').last().fill('4071')
    await at.press('Take over')
    await expect(header(page).getByRole('button', { name: 'B. Reed' })).toBeVisible()
    await page.goto('/rig/add')
    await expect(page.getByRole('heading', { name: 'This is for leads' })).toBeVisible()
    expect((await post(page, 'rig/person', { values: { name: 'D. Kay' } })).status()).toBe(403)

    // Who looks on only is told so before typing anything.
    const viewer = await otherDevice(browser, baseURL, '/')
    await signIn(viewer, 'C. Holm')
    await expect(header(viewer).getByRole('button', { name: 'C. Holm' })).toBeVisible()
    await expect(viewer.getByText('View only.')).toBeVisible()
    await expect(
      viewer.getByRole('link', { name: /^(Check|Calibrate|Sample|Plan a trip|Check or commission)/ }),
    ).toHaveCount(0)
    await viewer.goto('/trips/new')
    await expect(viewer.getByRole('heading', { name: 'This is for operators' })).toBeVisible()

    // Out everywhere: the phone asks for the password at its next step.
    await phone.getByRole('button', { name: 'Sign out everywhere' }).click()
    await expect(phone.getByRole('heading', { name: 'Sign in' })).toBeVisible()
    await signIn(phone, 'A. Fenn')
    await expect(header(phone).getByRole('button', { name: 'A. Fenn' })).toBeVisible()
    await phone.goto('/site/changes')
    await expect(phone.getByText('Signed out everywhere')).toBeVisible()
    await expect(phone.getByText('Took over a tablet by PIN')).toBeVisible()
    await expectAccessible(phone)
  },
)

test('a backup is made, put back in the app, and brought to another machine through the first run’s door', async ({
  page,
}) => {
  const app = await startApp({ own: [] })
  const at = hands(page)
  try {
    await page.request.post(`${app.url}/api/site/set-up`, {
      data: { name: 'Mill', person: 'A. Fenn', timeZone: 'UTC' },
    })
    await page.goto(`${app.url}/site/backup`)
    await expect(page.getByText('There is none yet.')).toBeVisible()
    await at.fill('Passphrase (optional)', 'three wet otters')
    await at.press('Save')
    await expect(page.getByText('Saved.')).toBeVisible()
    await at.press('Back up now')
    // It is packed, read back and opened once: on a busy machine that takes minutes.
    await expect(page.getByText('Last good one:')).toBeVisible({ timeout: 240_000 })
    await expectAccessible(page)
    const [download] = await Promise.all([page.waitForEvent('download'), at.follow('Download')])
    const file = join(app.folder, '..', download.suggestedFilename())
    await download.saveAs(file)
    await page.request.post(`${app.url}/api/rig/person`, { data: { operator: 'A. Fenn', values: { name: 'D. Kay' } } })

    await at.press('Put back')
    await at.fill('Passphrase', 'three dry otters')
    await page.getByRole('button', { name: 'Put it back' }).first().click()
    await expect(page.getByText('Not the right one, or the file is damaged.')).toBeVisible()
    await at.fill('Passphrase', 'three wet otters')
    await page.getByRole('button', { name: 'Put it back' }).first().click()
    // The server starts again, and the page goes on by itself.
    await expect(page).toHaveURL(`${app.url}/`)
    await page.goto(`${app.url}/rig`)
    await at.press('People and rest')
    await expect(page.getByRole('link', { name: 'A. Fenn', exact: true })).toBeVisible()
    await expect(page.getByText('D. Kay')).toHaveCount(0)

    const other = await startApp({ own: [] })
    try {
      await page.goto(other.url)
      await at.follow('Put it back')
      await page.getByLabel('Backup file').setInputFiles(file)
      await at.fill('Passphrase', 'three wet otters')
      await at.press('Put it back')
      await expect(page).toHaveURL(`${other.url}/`)
      await expect(header(page).getByText('Mill')).toBeVisible()
    } finally {
      await other.stop()
      rmSync(file, { force: true })
    }
  } finally {
    await app.stop()
  }
})

test('a phone on the local network: from the plain address to the encrypted one, signed in', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'frustum-lan-'))
  await leadAtServer(folder, { name: 'A. Fenn', password: PASSWORD, site: 'Mill', timeZone: 'UTC' })
  const app = await startApp({ folder, own: ['--lan'] })
  // What the authority in the phone's settings does, for this one certificate.
  const { publicKey } = new X509Certificate(readFileSync(join(folder, 'network', 'server.crt')))
  const known = createHash('sha256')
    .update(publicKey.export({ type: 'spki', format: 'der' }))
    .digest('base64')
  const browser = await chromium.launch({
    executablePath: chromiumPath() ?? 'chromium',
    args: [...CHROMIUM_FLAGS, `--ignore-certificate-errors-spki-list=${known}`],
  })
  try {
    const page = await browser.newPage({ viewport: { width: 390, height: 844 } })
    await page.goto(app.url)
    await expect(page.getByRole('heading', { name: 'Frustum of Mill' })).toBeVisible()
    await expectAccessible(page)
    await hands(page).follow('Go on, encrypted')
    await expect(page).toHaveURL(app.url.replace('http', 'https'))
    await signIn(page, 'A. Fenn')
    await expect(header(page).getByRole('button', { name: 'A. Fenn' })).toBeVisible()
    expect(await page.evaluate(() => window.isSecureContext)).toBe(true)
    const [cookie] = await page.context().cookies()
    expect(cookie).toMatchObject({ httpOnly: true, secure: true, sameSite: 'Strict' })
  } finally {
    await browser.close()
    await app.stop()
    rmSync(folder, { recursive: true, force: true })
  }
})

journey(['CH-pH-2', 'BR-FC-1'], 'a report for an inspector: on the page, as PDF and as a table', async ({ page }) => {
  await page.goto('/ledger')
  await hands(page).follow('Report')
  await expect(page.getByRole('heading', { name: /^All sensors on/ })).toBeVisible()
  await page.getByLabel('Span from').fill('2025-12-01')
  const outside = page.getByRole('region', { name: 'Found out of tolerance' })
  await expect(outside.getByText('CH-pH-2').first()).toBeVisible()
  await expect(page.getByRole('region', { name: 'Missed dates' }).getByText(', by the authority').first()).toBeVisible()
  await expectAccessible(page)
  const saved = async (name: string) => {
    const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name }).click()])
    return readFileSync(await download.path())
  }
  expect((await saved('PDF')).subarray(0, 5).toString()).toBe('%PDF-')
  expect((await saved('CSV')).toString()).toContain('Found out of tolerance')
})
