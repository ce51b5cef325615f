import { readdirSync, readFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { gzipSync } from 'node:zlib'
import {
  median,
  PH_MILLIVOLTS,
  procedureOf,
  randomStream,
  reduceVisit,
  type Setup,
  stabilityJudge,
  USUAL_PRACTICES,
} from '@frustum/core'
import { compareSchools, SCHOOL_SUBJECTS, type SchoolSummary, summarise } from '@frustum/lab/simulation'
import { type Browser, chromium, type Page } from '@playwright/test'
import ModbusRTU from 'modbus-serial'
import { startApp } from '../../../e2e/support/app.ts'
import { CHROMIUM_FLAGS, ensureChromium } from '../../../scripts/chromium.ts'
import { diagnosisRows, forecastSpeed, policyRows, theilSenSpeed } from './ageing.ts'
import { coreSpeed } from './core.ts'
import { finderRows } from './finderFamilies.ts'
import { fleetTable } from './fleetTable.ts'
import { lineRows } from './lines.ts'
import { memoryRows } from './memory.ts'
import { otherDiagnosisRows } from './otherDiagnosis.ts'
import { groupRows, otherFleetRows, pairRows } from './otherFleet.ts'
import { otherLifeRows } from './otherLives.ts'
import { otherKindRows, otherSettlingRows } from './otherSettling.ts'
import { pastCalibrations } from './pastCalibrations.ts'
import { readingRows } from './readings.ts'
import { alarmRows } from './soundSensors.ts'

const rows: { what: string; measured: string; wanted: string; ok: boolean | null }[] = []
const row = (what: string, measured: string, wanted = '', ok: boolean | null = null) =>
  rows.push({ what, measured, wanted, ok })

/** Samples a second, against an empty loop that only reads and adds them: how much of that pace is left. */
function judgeSpeed(): void {
  const random = randomStream(3)
  const count = 1_000_000
  const values = Float64Array.from({ length: count }, (_, i) => -180 + 100 * Math.exp(-i / 40) + 0.1 * random.normal())
  const began = performance.now()
  let sum = 0
  for (let i = 0; i < count; i++) sum += { t: i / 2, value: values[i] as number }.value
  const empty = count / (performance.now() - began)
  if (!Number.isFinite(sum)) throw new Error('unreachable')
  const judge = stabilityJudge(PH_MILLIVOLTS)
  for (let i = 0; i < 100_000; i++) judge.push({ t: i / 2, value: values[i] as number, temperature: 25 })
  global.gc?.()
  const heapBefore = process.memoryUsage().heapUsed
  const start = performance.now()
  for (let i = 100_000; i < count; i++) judge.push({ t: i / 2, value: values[i] as number, temperature: 25 })
  const perSecond = (count - 100_000) / ((performance.now() - start) / 1000)
  global.gc?.()
  const grown = (process.memoryUsage().heapUsed - heapBefore) / 1024
  row(
    'judge, samples/s on one core',
    `${Math.round(perSecond).toLocaleString('en')} (${((100 * perSecond) / (1000 * empty)).toFixed(2)} % of an empty loop)`,
    'at least 200,000',
    perSecond >= 200_000,
  )
  row('judge, heap grown over 900,000 samples', `${grown.toFixed(0)} KiB`, 'constant', grown < 1024)
}

/** The judge against the two stopwatch schools on the same traces, by kind: times and errors as ratios of the flat wait. */
function practices(): void {
  for (const [kind, subject] of Object.entries(SCHOOL_SUBJECTS)) {
    for (const withPast of [true, false]) {
      const contests = compareSchools(20, 40, withPast, subject)
      const flat = summarise(contests, 'flat')
      const name = `${kind}, ${withPast ? 'with its own past' : 'unknown sensor'}`
      const line = (s: SchoolSummary) =>
        `t ${s.medianSeconds.toFixed(0)} s (p90 ${s.p90Seconds.toFixed(0)}), error ${s.medianError.toFixed(2)} ${subject.unit} (p95 ${s.p95Error.toFixed(2)}), accepted ${(100 * s.accepted).toFixed(0)} %`
      const judge = summarise(contests, 'judge')
      const known = summarise(contests, 'known')
      row(`settling, ${name}: flat ${subject.flatWait} s`, line(flat))
      row(`settling, ${name}: 15 s still`, line(summarise(contests, 'still')))
      row(`settling, ${name}: judge, end known`, line(known))
      row(`settling, ${name}: judge, rest known too`, line(judge))
      // With its past a pH electrode is wanted at three quarters of the flat wait; all others must be sooner than it.
      const wanted = kind === 'ph' && withPast ? 0.75 : 1
      const time = known.medianSeconds / flat.medianSeconds
      row('  time / flat wait', time.toFixed(2), `at most ${wanted.toFixed(2)}`, time <= wanted)
      const error = known.p95Error / flat.p95Error
      const most = kind === 'ph' ? 0.6 : 1
      row('  p95 error / flat wait', error.toFixed(2), `at most ${most.toFixed(2)}`, error <= most)
      row(
        '  stated 95 % holds in',
        `${(100 * known.coverage).toFixed(1)} and ${(100 * judge.coverage).toFixed(1)} %`,
        kind === 'ph' ? 'at least 93 %' : '',
        kind === 'ph' ? Math.min(known.coverage, judge.coverage) >= 0.93 : null,
      )
      const creeping = contests.filter((c) => c.kind === 'creeping')
      const isFooled = (c: (typeof creeping)[number], school: 'judge' | 'still' | 'flat') =>
        school === 'judge' ? c.judge?.state === 'stable' : c[school] !== null
      const fooled = (school: 'judge' | 'still' | 'flat') =>
        creeping.filter((c) => isFooled(c, school)).length / creeping.length
      row(
        '  creeping for ever, yet called stable',
        `judge ${(100 * fooled('judge')).toFixed(0)} %, 15 s still ${(100 * fooled('still')).toFixed(0)} %, flat ${(100 * fooled('flat')).toFixed(0)} %`,
      )
    }
  }
}

/** What a clean two-point pH asks of the hands on a linked device: one tap for Rounds, one to start, one a step. */
function effort(): void {
  const setup = { kind: 'ph', practices: USUAL_PRACTICES, standards: {}, writable: true } as unknown as Setup
  const { steps } = reduceVisit(procedureOf('ph-two-point'), setup, 0, [])
  const typed = steps.filter((s) => s.step.kind === 'form').length
  row(
    'two-point pH, actions from Rounds to done',
    `${steps.length + 2}, typed numbers ${typed}`,
    'at most 14, none',
    steps.length + 2 <= 14 && typed === 0,
  )
}

/** Begins a visit by hand; each call of what it returns captures a reading and says how long the answer took, ms. */
async function captures(url: string): Promise<{ capture: () => Promise<number>; end: () => Promise<unknown> }> {
  const asker = { clientId: crypto.randomUUID(), operator: 'S. Osk' }
  const post = async (path: string, body: object) => {
    const response = await fetch(url + path, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ ...asker, ...body }),
    })
    if (!response.ok) throw new Error(await response.text())
    return (await response.json()) as { id: string }
  }
  const standards = { first: 'pH7.00', second: 'pH10.01' }
  const { id } = await post('/api/visits', { position: 'CH-pH-4', procedure: 'ph-two-point', standards, opening: {} })
  await post(`/api/visits/${id}/done`, { step: 'hold' })
  return {
    capture: async () => {
      await post(`/api/visits/${id}/typed`, { step: 'found-process', value: '8.05', temperature: '24.6' })
      const began = performance.now()
      await post(`/api/visits/${id}/capture`, { step: 'found-process', earlyReason: 'Bench' })
      const waited = performance.now() - began
      await post(`/api/visits/${id}/redo`, { step: 'found-process', reason: 'Bench' })
      return waited
    },
    end: () => post(`/api/visits/${id}/abandon`, { reason: 'Bench' }),
  }
}

const SLOW_SYNC_MS = 40
const SLOW_DISK = fileURLToPath(new URL('../../../e2e/support/slowDisk.mjs', import.meta.url))

/** What a captured step waits for the disk: beside one whose syncs take a known time longer, in turn. */
async function captureToDisk(url: string): Promise<void> {
  const slow = await startApp({ env: { NODE_OPTIONS: `--import ${SLOW_DISK}`, SYNC_MS: String(SLOW_SYNC_MS) } })
  try {
    const [here, there] = [await captures(url), await captures(slow.url)]
    const waits: [number, number][] = []
    for (let i = 0; i < 21; i++) waits.push([await here.capture(), await there.capture()])
    await here.end()
    const quick = median(waits.map(([wait]) => wait))
    row('captured step on disk, median', `${quick.toFixed(0)} ms`, 'under 150 ms', quick < 150)
    const syncs = median(waits.map(([wait, slower]) => (slower - wait) / SLOW_SYNC_MS))
    row('  syncs of the disk that it waits for', syncs.toFixed(1), 'at most 3', syncs <= 3)
  } finally {
    await slow.stop()
  }
}

/** What a small request waits while the site is computed anew, because something was recorded, for those who look at it. */
async function othersWait(url: string): Promise<void> {
  const small = async () => {
    const began = performance.now()
    await (await fetch(`${url}/api/waits`)).text()
    return performance.now() - began
  }
  const looks = ['/api/probes', '/api/rounds', '/api/plan', '/api/probes/CH-pH-2']
  for (const path of looks) await (await fetch(url + path)).text()
  const quiet = Math.max(...(await inTurn(20, small)))
  const waits: number[] = []
  for (let i = 0; i < 5; i++) {
    const body = JSON.stringify({ operator: 'S. Osk', feature: 'hysteresis', answer: 'returns' })
    const headers = { 'content-type': 'application/json' }
    let looking = true
    const looked = fetch(`${url}/api/probes/CH-pH-4/tests`, { method: 'POST', headers, body })
      .then(() => Promise.all(looks.map(async (path) => (await fetch(url + path)).text())))
      .finally(() => {
        looking = false
      })
    while (looking) waits.push(await small())
    await looked
  }
  const longest = Math.max(...waits)
  row(
    'a small request while the site is computed anew',
    `at most ${longest.toFixed(0)} ms, in quiet ${quiet.toFixed(0)} ms`,
    'under 900 ms, a device’s time to answer',
    longest < 900,
  )
}

async function inTurn<T>(times: number, ask: () => Promise<T>): Promise<T[]> {
  const answers: T[] = []
  for (let i = 0; i < times; i++) answers.push(await ask())
  return answers
}

/** From a key pressed in a field to the results that follow, painted. */
async function keystroke(page: Page, url: string): Promise<void> {
  await page.goto(`${url}/reckoner/seawater`)
  await page.getByRole('textbox', { name: 'Practical salinity', exact: true }).waitFor()
  const waits = await page.evaluate(async () => {
    const labels = Array.from(document.querySelectorAll('label'))
    const entered = labels.find((l) => l.textContent === 'Practical salinity')?.control as HTMLInputElement
    const follows = labels.find((l) => l.textContent === 'Conductivity at 25 °C')?.control as HTMLInputElement
    const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value')?.set
    const waits: number[] = []
    for (let i = 0; i < 41; i++) {
      const before = follows.value
      const began = performance.now()
      set?.call(entered, (30 + i / 10).toFixed(1))
      entered.dispatchEvent(new Event('input', { bubbles: true }))
      while (follows.value === before) await new Promise(requestAnimationFrame)
      await new Promise(requestAnimationFrame)
      waits.push(performance.now() - began)
      await new Promise((resolve) => setTimeout(resolve, 60))
    }
    return waits
  })
  row('Reckoner, key to painted results, median', `${median(waits).toFixed(0)} ms`, 'under 50 ms', median(waits) < 50)
}

function residentMegabytes(pid: number): number {
  const status = readFileSync(`/proc/${pid}/status`, 'utf8')
  return Number(/VmRSS:\s+(\d+)/.exec(status)?.[1] ?? Number.NaN) / 1024
}

/** From a register that changes in the device to other pixels: the stand-in's probe is moved, the page is watched. */
async function registerToPixels(page: Page, url: string, port: number): Promise<void> {
  await page.goto(`${url}/bench/start/CH-pH-1`)
  await page.getByRole('button', { name: /^Start/ }).click()
  await page.getByTestId('main').click()
  await page.getByTestId('live-value').waitFor()
  const device = new ModbusRTU()
  await device.connectTCP('127.0.0.1', { port })
  device.setID(1)
  const waits: number[] = []
  for (let i = 0; i < 21; i++) {
    await page.waitForTimeout(1500 + 137 * (i % 5))
    const before = Number(((await page.getByTestId('live-value').textContent()) ?? '').replace('−', '-'))
    const began = Date.now()
    // Out of one solution into another far away: the first reading after it is another number by many millivolts.
    await device.writeRegister(100, i % 2 === 0 ? 3 : 6)
    await page.waitForFunction(
      (old) =>
        Math.abs(
          Number(
            (document.querySelector<HTMLElement>('[data-testid=live-value]')?.textContent ?? '').replace('−', '-'),
          ) - old,
        ) > 5,
      before,
      { polling: 'raf' },
    )
    waits.push(Date.now() - began)
  }
  device.close(() => undefined)
  row(
    'device register to pixels, median',
    `${median(waits).toFixed(0)} ms (${(median(waits) / 500).toFixed(2)} of a 2 Hz poll)`,
    'under 700 ms',
    median(waits) < 700,
  )
}

async function firstScreen(browser: Browser, url: string): Promise<void> {
  const paints: number[] = []
  let transferred = 0
  for (let i = 0; i < 5; i++) {
    const context = await browser.newContext()
    const page = await context.newPage()
    const scripts: Promise<number>[] = []
    page.on('response', (response) => {
      if (response.url().endsWith('.js')) scripts.push(response.body().then((body) => gzipSync(body).length))
    })
    await page.goto(url)
    await page.getByRole('heading', { level: 1 }).waitFor()
    paints.push(
      await page.evaluate(
        () =>
          new Promise<number>((resolve) => {
            new PerformanceObserver((list) => resolve(list.getEntries().at(-1)?.startTime ?? Number.NaN)).observe({
              type: 'largest-contentful-paint',
              buffered: true,
            })
          }),
      ),
    )
    transferred = (await Promise.all(scripts)).reduce((a, b) => a + b, 0) / 1024
    await context.close()
  }
  row(
    'Rounds, largest contentful paint, cold',
    `${median(paints).toFixed(0)} ms`,
    'under 1,500 ms',
    median(paints) < 1500,
  )
  const all = new URL('../../../web/dist/assets/', import.meta.url)
  const total =
    readdirSync(fileURLToPath(all))
      .filter((f) => f.endsWith('.js'))
      .reduce((sum, f) => sum + gzipSync(readFileSync(new URL(f, all))).length, 0) / 1024
  row(
    'JavaScript for the first screen, gzipped',
    `${transferred.toFixed(0)} kB (${((100 * transferred) / total).toFixed(0)} % of all)`,
    'at most 190 kB',
    transferred <= 190,
  )
}

for (const { what, perSecond, ratio } of coreSpeed()) {
  const pace = `${Math.round(perSecond).toLocaleString('en')} a second`
  row(what, `${pace}, ${ratio.toFixed(2)} of a plain loop`, 'at least 0.5', ratio >= 0.5)
}
for (const r of [
  ...policyRows(),
  ...diagnosisRows(),
  ...otherSettlingRows(),
  ...otherKindRows(),
  ...otherFleetRows(),
  ...groupRows(),
  ...pairRows(),
  ...otherLifeRows(),
  ...otherDiagnosisRows(),
  ...alarmRows(),
  forecastSpeed(),
  theilSenSpeed(),
])
  rows.push(r)
for (const r of await pastCalibrations()) rows.push(r)
for (const r of await lineRows()) rows.push(r)
for (const r of await finderRows(40)) rows.push(r)
for (const r of await memoryRows()) rows.push(r)
judgeSpeed()
practices()
effort()
const browser = await chromium.launch({ executablePath: ensureChromium(), args: [...CHROMIUM_FLAGS] })
for (const r of await readingRows(browser)) rows.push(r)
const app = await startApp({ env: { FRUSTUM_POLL_MS: '500' } })
try {
  row(
    'npm run demo, built, until it answers',
    `${(app.startedIn / 1000).toFixed(1)} s`,
    'within 20 s',
    app.startedIn < 20_000,
  )
  await firstScreen(browser, app.url)
  await keystroke(await browser.newPage(), app.url)
  rows.push(await fleetTable(await browser.newPage(), app.url))
  await registerToPixels(await browser.newPage(), app.url, app.standInPort)
  await captureToDisk(app.url)
  await othersWait(app.url)
  const resident = residentMegabytes(app.process.pid ?? 0)
  row('server resident memory, demo running', `${resident.toFixed(0)} MB`, 'under 600 MB', resident < 600)
} finally {
  await browser.close()
  await app.stop()
}
console.table(rows.map(({ ok, ...r }) => ({ ...r, '': ok === null ? '' : ok ? 'ok' : 'MISSED' })))
