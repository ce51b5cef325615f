import { randomUUID } from 'node:crypto'
import type { FleetView, PlanView, ProblemView, ShelfView } from '@frustum/contract'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { startTestServer, type TestServer } from '../support/testServer.ts'

/** Whatever is sent to whatever address: a clear answer, nothing written, and the server goes on. */

const asker = { clientId: randomUUID(), operator: 'S. Osk' }
let server: TestServer
beforeAll(async () => {
  server = await startTestServer()
})
afterAll(() => server.stop())

async function send(path: string, body?: string): Promise<{ status: number; text: string }> {
  const response = await fetch(server.url + path, {
    ...(body === undefined ? {} : { method: 'POST', body }),
    headers: { 'content-type': 'application/json' },
  })
  return { status: response.status, text: await response.text() }
}
const get = async <T>(path: string): Promise<T> => JSON.parse((await send(path)).text) as T

/** All that anything recorded would show in. */
async function recorded(): Promise<unknown> {
  const [fleetNow, plan, shelf, ledger] = await Promise.all([
    get<FleetView>('/api/probes'),
    get<PlanView>('/api/plan'),
    get<ShelfView>('/api/shelf'),
    get<unknown>('/api/ledger'),
  ])
  const dates = fleetNow.rows.map((r) => [r.position, Math.round(r.figure.next.at / 1000), r.trouble?.cause ?? null])
  const days = plan.trips.map((t) => [t.id, t.visits.map((v) => v.position)])
  return { dates, days, lots: shelf.lots, ledger, confirmed: fleetNow.confirmed }
}

const NOBODY = '0b9f8a52-6a53-4a55-9b8e-2f0f5a1b7c11'
const ADDRESSES = [
  '/api/site/schools',
  '/api/site/set-up',
  '/api/rig/positions',
  '/api/rig/positions/1/in-use',
  '/api/rig/place',
  '/api/rig/nothing',
  '/api/rig/position/1',
  '/api/rig/device/1/moves',
  '/api/rig/person/1/archive',
  '/api/rig/position/999999999999/delete',
  '/api/rig/position/1/changes/1/undo',
  '/api/bring/sensors',
  '/api/bring/set-up?operator=S.+Osk',
  '/api/visits',
  ...[
    'done',
    'skip',
    'redo',
    'capture',
    'typed',
    'wait',
    'fill',
    'decide',
    'apply',
    'take-over',
    'abandon',
    'exclusion',
  ].map((action) => `/api/visits/${NOBODY}/${action}`),
  '/api/trips',
  `/api/trips/${NOBODY}/end`,
  '/api/shelf',
  '/api/shelf/1',
  '/api/ledger/import',
  `/api/ledger/${NOBODY}/corrections`,
  '/api/plan/move',
  ...['what-if', 'rules', 'tests', 'cause', 'hours', 'numbers'].map((what) => `/api/probes/CH-pH-1/${what}`),
]
/** As a slip, an old client or somebody with a grudge would send it. */
const JUNK: [string, string][] = [
  ['nothing', ''],
  ['no JSON', '{"operator":'],
  ['null', 'null'],
  ['a number', '42'],
  ['a list', '[1,2,3]'],
  ['an empty object', '{}'],
  ['other fields', JSON.stringify({ ...asker, evil: true, __proto__: null })],
  [
    'the right fields of the wrong kind',
    JSON.stringify({ ...asker, position: 7, tolerance: 'wide', hours: [], to: {} }),
  ],
  ['numbers that are none', '{"operator":"S. Osk","hours":1e999,"tolerance":-1e999,"to":1e308}'],
  ['a name as long as a book', JSON.stringify({ ...asker, operator: 'x'.repeat(50_000), reason: 'y'.repeat(50_000) })],
  ['a query in the place of a name', JSON.stringify({ ...asker, operator: "'; drop table visits; --", reason: '' })],
]

describe('what is sent wrongly', () => {
  it.each(ADDRESSES)('to %s is answered in words, without a trace of the inside', async (address) => {
    for (const [name, body] of JUNK) {
      const { status, text } = await send(address, body)
      const what = `${name}: ${status} ${text.slice(0, 200)}`
      expect(status, what).toBeGreaterThanOrEqual(400)
      expect(status, what).toBeLessThan(500)
      const problem = JSON.parse(text) as ProblemView
      expect(problem.message, what).toMatch(/^[A-Z“"'].*\.$/s)
      expect(problem.code, what).toMatch(/^[a-z-]+$/)
      expect(text, what).not.toMatch(/NaN|undefined|\bat .*\.ts|node_modules|select .* from/i)
    }
  })

  it('leaves everything as it was', async () => {
    const before = await recorded()
    for (const address of ADDRESSES) for (const [, body] of JUNK) await send(address, body)
    expect(await recorded()).toEqual(before)
  })

  it.each([
    '/api/probes/%E0%A4%A',
    '/api/probes/..%2F..%2Fetc',
    '/api/probes/CH-pH-1/past/none',
    '/api/probes/CH-pH-1/past/none.csv',
    '/api/ledger/export.csv?visit=none',
    '/api/calendar/.ics',
    '/api/trips/none',
    '/api/extensions/demo/standins/CH-pH-1',
    '/api/ledger/1e3',
  ])('asking for %s is answered with what there is not', async (address) => {
    const { status, text } = await send(address)
    expect([400, 404]).toContain(status)
    expect(text).not.toMatch(/\bat .*\.ts|node_modules/)
  })
})
