import { randomUUID } from 'node:crypto'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import {
  ACTION_HEADER,
  type LedgerRow,
  type ProblemView,
  type RecordView,
  type ShelfView,
  type VisitView,
} from '@frustum/contract'
import { openDatabaseIn } from '@frustum/server/database'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { fingerprintOf } from '../../server/src/http/doneOnce.ts'
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

it('an id is bound to its person, address and content', async () => {
  const { path, body, made } = await correction()
  const before = await made()
  const id = randomUUID()
  expect((await send(path, id, body)).status).toBe(201)
  const lot = (await get<ShelfView>('/api/shelf')).lots[0]
  const others = [
    [path, { ...body, text: 'Something else.' }],
    [path, { ...body, operator: 'T. Quillan' }],
    [`/api/shelf/${lot?.id}`, { operator, action: 'use', milliliters: 20, reason: 'spilt' }],
  ] as const
  for (const [address, content] of others) {
    const answer = await send<ProblemView>(address, id, content)
    expect([answer.status, answer.body.code]).toEqual([409, 'action-id-reused'])
  }
  expect(await made()).toBe(before + 1)
  expect(fingerprintOf(1, path, body)).not.toBe(fingerprintOf(2, path, body))
  // The same in a visit, whose lines carry the id themselves.
  const asker = { clientId: randomUUID(), operator }
  const buffers = { first: 'pH7.00', second: 'pH10.01' }
  const opened = { position: 'CH-pH-4', procedure: 'ph-two-point', standards: buffers, opening: {} }
  const { body: visit } = await send<VisitView>('/api/visits', randomUUID(), { ...asker, ...opened })
  const act = (action: string, content: object) =>
    send<VisitView & ProblemView>(`/api/visits/${visit.id}/${action}`, randomUUID(), { ...asker, ...content })
  const actionId = randomUUID()
  expect((await act('done', { step: 'hold', actionId, madeAt: 1 })).status).toBe(200)
  expect((await act('done', { step: 'hold', actionId, madeAt: 2 })).status).toBe(200)
  const dropped = await act('typed', { step: 'found-process', value: '8.05', temperature: '24.6', actionId })
  expect([dropped.status, dropped.body.code]).toEqual([409, 'action-id-reused'])
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
