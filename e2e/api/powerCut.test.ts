import { mkdtempSync, readFileSync, rmSync, statSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import type { LedgerRow } from '@frustum/contract'
import { randomStream } from '@frustum/core'
import { beginDatabase } from '@frustum/server/begin'
import { openDatabase } from '@frustum/server/database'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { heavy } from '../../lab/src/fixtures/heavy.ts'
import { DiskReplay } from '../support/diskReplay.ts'
import { StationHost } from '../support/stationHost.ts'

const RECORDER = fileURLToPath(new URL('../support/recordDisk.mjs', import.meta.url))
const CUTS = heavy(20, 200)
/** Who write at the same time, and how often each. */
const WRITERS = 4
const WRITES = heavy(15, 60)

const work = mkdtempSync(join(tmpdir(), 'frustum-cut-'))
const folder = join(work, 'data')
const record = join(work, 'disk-record')
afterAll(() => rmSync(work, { recursive: true, force: true }))

interface Acknowledged {
  text: string
  /** How much had been done to the disk when the answer was there, in bytes of its record. */
  by: number
}
const acknowledged: Acknowledged[] = []
let [started, loaded, stopped] = [0, 0, 0]

const recorded = () => statSync(record).size

beforeAll(async () => {
  const host = new StationHost({
    NODE_OPTIONS: `--import ${RECORDER}`,
    RECORDED_FOLDER: folder,
    DISK_RECORD: record,
  })
  const app = await host.open({ folder, sensors: ['CH-pH-4'] })
  started = recorded()
  const post = async (path: string, body: object) => {
    const response = await fetch(app.url + path, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ operator: 'I. Marrow', ...body }),
    })
    expect(response.ok, await response.clone().text()).toBe(true)
    await response.arrayBuffer()
    return recorded()
  }
  const [closed] = (await (await fetch(`${app.url}/api/ledger`)).json()) as LedgerRow[]
  const writer = async (name: number) => {
    for (let i = 0; i < WRITES; i++) {
      const text = `Note ${i} of writer ${name}`
      const by = await post(`/api/ledger/${closed?.id}/corrections`, { text })
      acknowledged.push({ text, by })
    }
  }
  await Promise.all(Array.from({ length: WRITERS }, (_, i) => writer(i)))
  loaded = recorded()
  await app.close()
  host.stop()
  stopped = recorded()
})

it('what was acknowledged is there after a power cut at any instant, and the database always opens', async () => {
  expect(acknowledged).toHaveLength(WRITERS * WRITES)
  const random = randomStream(20261126)
  const spans = [
    [0, started, 0.25],
    [started, loaded, 0.6],
    [loaded, stopped, 0.15],
  ] as const
  const written = readFileSync(record)
  const ends = DiskReplay.ends(written)
  const cuts = spans
    .flatMap(([from, to, share]) => {
      const within = ends.filter((end) => end > from && end <= to)
      return Array.from(
        { length: Math.round(share * CUTS) },
        () => within[Math.floor(random.uniform() * within.length)] as number,
      )
    })
    .toSorted((a, b) => a - b)
  const disk = new DiskReplay(written, folder)
  const lost: string[] = []
  const leftBy = (n: number) => {
    const left = join(work, `left-${n}`)
    disk.playTo(cuts[n] as number)
    disk.cut(left, n % 2 === 0 ? null : random)
    return left
  }
  let left = leftBy(0)
  for (const [n, at] of cuts.entries()) {
    const opened = left
    const begun = beginDatabase(opened)
    await begun
    // While its engine starts in its thread, the next one is written.
    if (n + 1 < cuts.length) left = leftBy(n + 1)
    const { db, close } = await openDatabase(begun)
    const { rows } = await db.$client.query<{ text: string }>('select text from corrections')
    const there = new Set(rows.map((r) => r.text))
    for (const { text, by } of acknowledged) if (by <= at && !there.has(text)) lost.push(`${text}, cut ${n} at ${at}`)
    await close()
    rmSync(opened, { recursive: true })
  }
  expect(lost).toEqual([])
})
