import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { type BringLogView, LOG_AS_IT_LOOKS } from '@frustum/contract'
import { quantile } from '@frustum/core'
import { readConfig, startServer } from '@frustum/server'
import type { Browser } from '@playwright/test'
import { freePort } from '../../../e2e/support/freePort.ts'
import { openDatabaseIn } from '../../../server/src/database/open.ts'

const MINUTE = 60_000
const DAY = 1440 * MINUTE
const YEAR = 365 * DAY
const BEGIN = Date.UTC(2016, 0, 1)
const ROWS = 1_000_000
const FILES = 5
const NOW = BEGIN + FILES * ROWS * MINUTE
const LOOKS = 40
const operator = 'S. Osk'
const WEB = fileURLToPath(new URL('../../../web/dist', import.meta.url))
/** The line of its means. */
const LINE = 'svg[aria-label*="over time"] path[stroke-width="1.8"]'
const SENSORS = 'code,kind,place,water\nT1-pH,pH,Hall,seawater'
const TAKE = { ...LOG_AS_IT_LOOKS, take: true }

const shownAt = (at: number): string => (8.1 + 0.2 * Math.sin((2 * Math.PI * at) / DAY)).toFixed(2)

/** A file of a million rows, one a minute, each written by `line`. */
function file(number: number, line: (at: number) => string): string[] {
  const from = BEGIN + number * ROWS * MINUTE
  return Array.from({ length: ROWS }, (_, i) => line(from + i * MINUTE))
}

/** The same readings in a plain table: copied into it, and looked through. */
async function plainTable() {
  const folder = mkdtempSync(join(tmpdir(), 'frustum-bench-'))
  const { db, close } = await openDatabaseIn(folder)
  const engine = db.$client
  await engine.exec(`
    create table plain (id serial primary key, installation_id integer not null, at timestamptz not null,
      shown double precision, signal double precision, temperature double precision, state smallint not null default 0);
    create index plain_by_time on plain (installation_id, at)`)
  const took = async (work: () => Promise<unknown>) => {
    const began = performance.now()
    await work()
    return performance.now() - began
  }
  return {
    copy: (number: number) => {
      const lines = file(number, (at) => `1,${new Date(at).toISOString()},${shownAt(at)},,,6`)
      const blob = new Blob([lines.join('\n')])
      const columns = 'installation_id, at, shown, signal, temperature, state'
      return took(() => engine.query(`copy plain (${columns}) from '/dev/blob' with (format csv)`, [], { blob }))
    },
    scan: (from: number) =>
      took(() =>
        engine.query(
          `select floor(extract(epoch from at) / 86400) as day, min(shown), max(shown), avg(shown), stddev_samp(shown),
            count(*) from plain where installation_id = 1 and at >= $1 and at < $2 group by 1 order by 1`,
          [new Date(from).toISOString(), new Date(from + YEAR).toISOString()],
        ),
      ),
    end: async () => {
      await close()
      rmSync(folder, { recursive: true, force: true })
    },
  }
}

/** A site whose sensor is given the same readings as files of a logger. */
async function site() {
  const folder = mkdtempSync(join(tmpdir(), 'frustum-bench-'))
  const config = readConfig({ FRUSTUM_DATA: folder, PORT: String(await freePort()) }, WEB)
  const server = await startServer(config, { clock: { now: () => NOW, rate: 1 } })
  const post = async <T>(path: string, body: string) => {
    const headers = { 'content-type': 'application/json' }
    const answer = await fetch(`${server.url}/api/${path}`, { method: 'POST', body, headers })
    if (!answer.ok) throw new Error(await answer.text())
    return (await answer.json()) as T
  }
  const brought = <T>(what: string, text: string, options: object) =>
    post<T>(
      `bring/${what}?${new URLSearchParams({ name: 'log.csv', operator, options: JSON.stringify(options) })}`,
      text,
    )
  await post('site/set-up', JSON.stringify({ name: 'Mill', person: operator, timeZone: 'Europe/Berlin' }))
  await brought('sensors', SENSORS, { take: true, adjustsBy: 'key' })
  return {
    url: server.url,
    take: async (number: number) => {
      const text = ['time,T1-pH', ...file(number, (at) => `${new Date(at).toISOString()},${shownAt(at)}`)].join('\n')
      const began = performance.now()
      const { taken } = await brought<BringLogView>('log', text, TAKE)
      if (taken !== ROWS) throw new Error(`${taken} of ${ROWS} rows were taken in`)
      return performance.now() - began
    },
    look: async (from: number) => {
      const began = performance.now()
      await (await fetch(`${server.url}/api/probes/T1-pH/series?from=${from}&to=${from + YEAR}&most=600`)).text()
      return performance.now() - began
    },
    end: async () => {
      await server.stop()
      rmSync(folder, { recursive: true, force: true })
    },
  }
}

/** From the answer to the year on the screen, ms. */
async function drawn(browser: Browser, url: string): Promise<number[]> {
  const page = await browser.newPage()
  const waits: number[] = []
  for (let i = 0; i < 7; i++) {
    const [from, to] = [BEGIN + i * 120 * DAY, BEGIN + i * 120 * DAY + YEAR]
    await page.goto(`${url}/probes/T1-pH/readings?from=${from}&to=${from + DAY}`)
    await page.locator(LINE).first().waitFor()
    const before = await page.locator(LINE).first().getAttribute('d')
    waits.push(
      await page.evaluate(
        async ([old, address, of]) => {
          performance.clearResourceTimings()
          history.pushState(null, '', address)
          dispatchEvent(new PopStateEvent('popstate'))
          for (;;) {
            await new Promise(requestAnimationFrame)
            const answered = performance.getEntriesByType('resource').find((r) => r.name.includes('/series?'))
            const line = document.querySelector(of)?.getAttribute('d')
            if (!answered || !line || line === old) continue
            await new Promise(requestAnimationFrame)
            return performance.now() - (answered as PerformanceResourceTiming).responseEnd
          }
        },
        [before, `/probes/T1-pH/readings?from=${from}&to=${to}`, LINE] as const,
      ),
    )
  }
  await page.close()
  return waits
}

/** Five million readings of a sensor: taken in, kept, looked at, and drawn, beside a plain table of the same rows. */
export async function readingRows(browser: Browser) {
  const [plain, own] = [await plainTable(), await site()]
  try {
    const paces: { copy: number; take: number }[] = []
    for (let i = 0; i < FILES; i++) paces.push({ copy: await plain.copy(i), take: await own.take(i) })
    const [scans, looks]: [number[], number[]] = [[], []]
    for (let i = 0; i < 5; i++) await own.look(BEGIN)
    for (let i = 0; i < LOOKS; i++) {
      const from = BEGIN + i * 60 * DAY
      looks.push(await own.look(from))
      if (i % 8 === 0) scans.push(await plain.scan(from))
    }
    const pace = quantile(
      paces.map(({ copy, take }) => copy / take),
      0.5,
    )
    const look = quantile(looks, 0.5)
    const p95 = quantile(looks, 0.95)
    const scan = quantile(scans, 0.5)
    const draw = quantile(await drawn(browser, own.url), 0.5)
    const seconds = (ms: number) => (ms / 1000).toFixed(1)
    return [
      {
        what: 'log of 1,000,000 rows, parsed, deduplicated, rolled up: pace / bare COPY',
        measured: `${pace.toFixed(2)} (${paces.map((p) => `${seconds(p.take)} s and ${seconds(p.copy)} s`).join(', ')})`,
        wanted: 'at least 0.6',
        ok: pace >= 0.6,
      },
      {
        what: 'a year out of 5,000,000 readings, answered',
        measured: `p95 ${p95.toFixed(0)} ms, median ${look.toFixed(0)} ms`,
        wanted: 'within 150 ms',
        ok: p95 <= 150,
      },
      {
        what: '  / scan of its raw rows',
        measured: `1/${(scan / look).toFixed(0)} (${scan.toFixed(0)} ms)`,
        wanted: 'at most 1/50',
        ok: look <= scan / 50,
      },
      { what: '  drawn', measured: `${draw.toFixed(0)} ms more`, wanted: 'within 300 ms', ok: draw <= 300 },
    ]
  } finally {
    await plain.end()
    await own.end()
  }
}
