import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { LedgerRow, ProblemView } from '@frustum/contract'
import { openDatabaseIn } from '@frustum/server/database'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { openStation, type Station } from '../support/station.ts'

const folder = mkdtempSync(join(tmpdir(), 'frustum-unreadable-'))
const options = { folder, sensors: ['CH-pH-4'] }
let station: Station
beforeAll(async () => {
  station = await openStation(options)
})
afterAll(async () => {
  await station.stop()
  rmSync(folder, { recursive: true, force: true })
})

const ask = (path: string, body?: object) =>
  fetch(station.url + path, {
    ...(body && {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(body),
    }),
  })
interface Line {
  seq: number
  entry: { type: string; reading?: { signal?: number } }
}
interface Exported {
  visits: { id: string; entries: Line[]; snapshot: object; record: object; observations: object[] }[]
}
const exported = async () => (await (await ask('/api/ledger/export.json')).json()) as Exported

it('a file with a part missing is refused whole, with the place and the reason', async () => {
  const cases: [(file: Exported) => void, RegExp][] = [
    [(f) => delete capturedIn(f).entry.reading, /visits\[1\]\.entries\[\d+\]\.entry\.reading is missing\./],
    [(f) => delete capturedIn(f).entry.reading?.signal, /entry\.reading\.signal is missing\./],
    [(f) => Object.assign(capturedIn(f).entry, { type: 'dreamt' }), /entry\.type is none that is known\./],
    [
      (f) => Object.assign(f.visits[0]?.snapshot ?? {}, { settings: {} }),
      /visits\[1\]\.snapshot\.settings\.standards is missing\./,
    ],
    [
      (f) => Object.assign(f.visits[0]?.record ?? {}, { points: [{}] }),
      /visits\[1\]\.record\.points\[1\]\.step is missing\./,
    ],
    [(f) => Object.assign(capturedIn(f).entry, { version: 99 }), /entry\.version is newer than this program reads\./],
    [
      (f) => Object.assign(f.visits[1]?.observations[0] ?? {}, { asLeft: 'well' }),
      /visits\[2\]\.observations\[1\]\.asLeft is no number\./,
    ],
  ]
  for (const [spoil, reason] of cases) {
    const file = await exported()
    for (const visit of file.visits) visit.id = visit.id.replace(/^.{8}/, 'ffffffff')
    spoil(file)
    const answer = await ask('/api/ledger/import', file)
    expect(answer.status).toBe(400)
    const problem = (await answer.json()) as ProblemView
    expect(problem.message).toMatch(reason)
    expect(problem.detail).toBe('Nothing was taken in.')
  }
  expect((await exported()).visits.some((v) => v.id.startsWith('ffffffff'))).toBe(false)
})

const capturedIn = ({ visits }: Exported) => visits[0]?.entries.find((e) => e.entry.type === 'captured') as Line

it('a record that cannot be read stands as such in its list and takes nothing else down', async () => {
  const before = await exported()
  const [spoilt] = before.visits.slice(-1)
  const line = spoilt?.entries.find((e) => e.entry.type === 'captured') as Line
  await station.stop()
  const { db, close } = await openDatabaseIn(folder)
  await db.$client.query(`update visit_entries set entry = entry - 'reading' where visit_id = $1 and seq = $2`, [
    spoilt?.id,
    line.seq,
  ])
  await db.$client.query('update visits set findings = null where id = $1', [spoilt?.id])
  await close()
  station = await openStation(options)

  const rows = (await (await ask('/api/ledger')).json()) as LedgerRow[]
  expect(rows.filter((r) => r.unreadable).map((r) => r.id)).toEqual([spoilt?.id])
  const record = await ask(`/api/ledger/${spoilt?.id}`)
  expect(record.status).toBe(409)
  expect(((await record.json()) as ProblemView).message).toBe(
    `Line ${line.seq} of this record cannot be read: reading is missing.`,
  )
  for (const path of ['rounds', 'plan', 'probes', 'probes/CH-pH-4', `ledger/${rows[1]?.id}`, 'ledger/export.csv']) {
    const answer = await ask(`/api/${path}`)
    expect(answer.status, `${path}: ${await answer.clone().text()}`).toBe(200)
  }
  const after = await exported()
  expect(after.visits.slice(0, -1)).toEqual(before.visits.slice(0, -1))
  const kept = after.visits.at(-1)?.entries.find((e) => e.seq === line.seq)
  expect(kept?.entry).toEqual({ version: 3, type: 'captured', step: (line.entry as { step?: string }).step })
})

it('one of before snapshots were kept that cannot be read or judged keeps its gap; the server starts, and exports it', async () => {
  const before = await exported()
  const [unjudged, spoilt] = before.visits.slice(-2)
  await station.stop()
  const { db, close } = await openDatabaseIn(folder)
  // One whose line is spoilt already, and one with a standard that nobody knows.
  await db.$client.query('update visits set snapshot = null, record = null where id = any($1)', [
    [unjudged?.id, spoilt?.id],
  ])
  await db.$client.query(
    `update visits set settings = jsonb_set(settings, '{standards,first}', '"dreamt"') where id = $1`,
    [unjudged?.id],
  )
  await close()
  station = await openStation(options)
  const after = await exported()
  expect(after.visits.map((v) => v.id)).toEqual(before.visits.map((v) => v.id))
  expect(after.visits.slice(-2).map((v) => v.record)).toEqual([null, null])
  expect(after.visits.slice(0, -2)).toEqual(before.visits.slice(0, -2))
  expect((await ask('/api/ledger')).status).toBe(200)
  expect((await ask('/api/rounds')).status).toBe(200)
})
