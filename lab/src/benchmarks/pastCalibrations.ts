import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { BringPastView } from '@frustum/contract'
import { DAY_MS, median, quantile } from '@frustum/core'
import { readConfig, startServer } from '@frustum/server'
import { openDatabaseIn } from '@frustum/server/database'
import { tables } from '@frustum/server/extending'
import { freePort } from '../../../e2e/support/freePort.ts'
import type { BenchRow } from './ageing.ts'

const SENSORS = 60
const VISITS = 5000

const list = () =>
  ['Code;Type;Place;Water', ...Array.from({ length: SENSORS }, (_, i) => `S-${i};pH;Hall ${i % 6};seawater`)].join('\n')

const past = () =>
  [
    'Date;Code;pH 7 before;pH 10 before;Temp;By',
    ...Array.from({ length: VISITS }, (_, k) => {
      const at = Date.UTC(2019, 0, 1) + Math.floor(k / SENSORS) * 25 * DAY_MS
      const [seven, ten] = [7 + 0.06 * Math.sin(k), 9.95 + 0.05 * Math.cos(k)].map((v) => v.toFixed(2))
      return `${new Date(at).toISOString().slice(0, 10)};S-${k % SENSORS};${seven};${ten};22;AF`
    }),
  ].join('\n')

/** A server with the sensors in a folder of its own. */
async function site(folder: string) {
  const server = await startServer(readConfig({ FRUSTUM_DATA: folder, PORT: String(await freePort()) }, null))
  const send = async <T>(path: string, body: string, query: Record<string, string> = {}): Promise<T> => {
    const response = await fetch(`${server.url}/api/${path}?${new URLSearchParams(query)}`, {
      method: 'POST',
      body,
      headers: path.startsWith('site') ? { 'content-type': 'application/json' } : {},
    })
    if (!response.ok) throw new Error(await response.text())
    return (await response.json()) as T
  }
  const bring = <T>(what: string, text: string, options: object) =>
    send<T>(`bring/${what}`, text, { name: `${what}.csv`, operator: 'A. Fenn', options: JSON.stringify(options) })
  await send('site/set-up', JSON.stringify({ name: 'Mill', person: 'A. Fenn', timeZone: 'UTC' }))
  await bring('sensors', list(), { take: true })
  return { server, bring }
}

/** The same rows, put into a database that has the same sensors, with nothing else to do: ms. */
async function bareInsert(from: string, to: string): Promise<number> {
  const [source, target] = [await openDatabaseIn(from), await openDatabaseIn(to)]
  try {
    const { imports, visits, visitEntries, calibrations, driftObservations } = tables
    const rows: { table: typeof imports; all: unknown[] }[] = []
    for (const table of [imports, visits, visitEntries, calibrations, driftObservations]) {
      const all = await source.db.select().from(table)
      rows.push({
        table: table as typeof imports,
        all: all.filter((r) => table !== imports || (r as { what: string }).what === 'past'),
      })
    }
    const began = performance.now()
    await target.db.transaction(async (tx) => {
      for (const { table, all } of rows) {
        for (let i = 0; i < all.length; i += 100) await tx.insert(table).values(all.slice(i, i + 100) as never)
      }
    })
    return performance.now() - began
  } finally {
    await source.close()
    await target.close()
  }
}

/** Past calibrations of a whole site: against a bare insert of the same rows, and what else is asked beside it. */
export async function pastCalibrations(): Promise<BenchRow[]> {
  const [folder, other] = [0, 1].map(() => mkdtempSync(join(tmpdir(), 'frustum-bench-'))) as [string, string]
  try {
    await (await site(other)).server.stop()
    const { server, bring } = await site(folder)
    const ask = async () => {
      const began = performance.now()
      await (await fetch(`${server.url}/api/rounds`)).text()
      return performance.now() - began
    }
    const alone: number[] = []
    for (let i = 0; i < 40; i++) alone.push(await ask())
    // Looked at before, as everybody does: the thread is warm.
    await bring('past', past(), { without: 'calibrated' })
    const began = performance.now()
    let taken: BringPastView | null = null
    const taking = bring<BringPastView>('past', past(), { without: 'calibrated', take: true }).then((view) => {
      taken = view
    })
    const beside: number[] = []
    while (taken === null) {
      beside.push(await ask())
      await new Promise((resolve) => setTimeout(resolve, 250))
    }
    await taking
    const took = performance.now() - began
    await server.stop()
    const bare = await bareInsert(folder, other)
    const waits = median(beside) / median(alone)
    const worst = quantile(beside, 0.95) / quantile(alone, 0.95)
    return [
      {
        what: `list of ${VISITS} past calibrations of ${SENSORS} sensors, beside a bare insert of the same rows`,
        measured: `${(took / 1000).toFixed(1)} s and ${(bare / 1000).toFixed(1)} s (${(took / bare).toFixed(2)} times)`,
        wanted: 'at most 5 times',
        ok: took <= 5 * bare,
      },
      {
        what: 'Rounds asked beside it, against Rounds alone',
        measured: `${waits.toFixed(2)} times at the median, ${worst.toFixed(2)} at p95, ${(Math.max(...beside) / 1000).toFixed(2)} s at worst`,
        wanted: 'at most 2 times',
        ok: waits <= 2 && worst <= 2,
      },
    ]
  } finally {
    for (const f of [folder, other]) rmSync(f, { recursive: true, force: true })
  }
}
