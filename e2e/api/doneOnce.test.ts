import { randomUUID } from 'node:crypto'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { ACTION_HEADER, type LedgerRow, type ProblemView, type RecordView, type ShelfView } from '@frustum/contract'
import { openDatabaseIn } from '@frustum/server/database'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { openStation, type Station } from '../support/station.ts'

const folder = mkdtempSync(join(tmpdir(), 'frustum-once-'))
const options = { folder, sensors: ['CH-pH-4', 'CH-pH-3'] }
let station: Station
beforeAll(async () => {
  station = await openStation(options)
})
afterAll(async () => {
  await station.stop()
  rmSync(folder, { recursive: true, force: true })
})

const get = async <T>(path: string) => (await (await fetch(station.url + path)).json()) as T
async function send<T>(path: string, id: string, body: object): Promise<{ status: number; body: T }> {
  const response = await fetch(station.url + path, {
    method: 'POST',
    headers: { 'content-type': 'application/json', [ACTION_HEADER]: id },
    body: JSON.stringify(body),
  })
  return { status: response.status, body: (await response.json()) as T }
}

const operator = 'I. Marrow'
const note = 'The thermometer was read in °F.'
async function correction() {
  const [row] = await get<LedgerRow[]>('/api/ledger')
  return {
    path: `/api/ledger/${row?.id}/corrections`,
    body: { operator, text: note },
    made: async () => (await get<RecordView>(`/api/ledger/${row?.id}`)).corrections.length,
  }
}

it('a note, a pouring, a trip: sent five times at once and once more, each is done once and answered each time', async () => {
  const { path, body, made } = await correction()
  const [lot] = (await get<ShelfView>('/api/shelf')).lots
  const left = async () => (await get<ShelfView>('/api/shelf')).lots.find((l) => l.id === lot?.id)?.left
  const trips = async () => (await get<{ trips: unknown[] }>('/api/rounds')).trips.length
  const cases = [
    { path, body, count: made, by: 1 },
    {
      path: `/api/shelf/${lot?.id}`,
      body: { operator, action: 'use', milliliters: 20, reason: 'spilt' },
      count: left,
      by: -20,
    },
    {
      path: '/api/trips',
      body: { operator, clientId: randomUUID(), name: 'Round', positions: ['CH-pH-3', 'CH-pH-4'] },
      count: trips,
      by: 1,
    },
  ]
  for (const { path, body, count, by } of cases) {
    const before = (await count()) ?? 0
    const id = randomUUID()
    const all = await Promise.all(Array.from({ length: 5 }, () => send(path, id, body)))
    const again = await send(path, id, body)
    expect(all[0]?.status, JSON.stringify(all[0]?.body)).toBeLessThan(300)
    for (const answer of [...all, again]) expect(answer).toEqual(all[0])
    expect(((await count()) ?? 0) - before, path).toBeCloseTo(by, 6)
  }
})

it('is remembered through a restart; what was done and never answered is not done again', async () => {
  const { path, body, made } = await correction()
  const before = await made()
  const id = randomUUID()
  const first = await send(path, id, body)
  await station.stop()
  const { db, close } = await openDatabaseIn(folder)
  // As a power cut between doing and answering leaves it.
  const cut = randomUUID()
  const old = randomUUID()
  await db.$client.query('insert into actions (id, at) values ($1, now())', [cut])
  await db.$client.query("insert into actions (id, at) values ($1, now() - interval '61 days')", [old])
  await close()
  station = await openStation(options)
  expect(await send(path, id, body)).toEqual(first)
  const lost = await send<ProblemView>(path, cut, body)
  expect([lost.status, lost.body.code]).toEqual([409, 'done-already'])
  expect(await made()).toBe(before + 1)
  // Two months later nobody waits for an answer any more.
  expect((await send(path, old, body)).status).toBe(201)
})

it('what was refused may be sent again under its id when it is right', async () => {
  const { path, body, made } = await correction()
  const before = await made()
  const id = randomUUID()
  expect((await send(path, id, { ...body, text: '' })).status).toBe(400)
  expect((await send(path, id, body)).status).toBe(201)
  expect(await made()).toBe(before + 1)
  expect((await send(path, 'not an id', body)).status).toBe(400)
  expect(await made()).toBe(before + 1)
})
