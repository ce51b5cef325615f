import { randomUUID } from 'node:crypto'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type {
  Clock,
  FleetView,
  ImportReport,
  LedgerRow,
  PlanView,
  ProbeView,
  RecordView,
  RoundsView,
  ShelfView,
  StartingView,
  VisitView,
} from '@frustum/contract'
import { dayAt } from '@frustum/contract'
import { DAY_MS, registerKind } from '@frustum/core'
import { type RunningServer, type ServerExtension, startServer } from '@frustum/server'
import { tables as table } from '@frustum/server/extending'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { TURBIDITY } from '../../lab/src/fixtures/turbidity.ts'
import { freePort } from '../support/freePort.ts'

/** A kind that no other file knows goes the whole way: start, a visit typed by hand, record, forecast, plan, shelf, files. */

const asker = { clientId: randomUUID(), operator: 'S. Osk' }
const SITE = { name: 'Mill pond', timeZone: 'UTC' }
/** A clock that is put forward by hand: months pass between two visits. */
let time = Date.UTC(2026, 2, 2, 9)
const clock: Clock = { now: () => time, rate: 1 }
let forget: () => void
const servers: { server: RunningServer; folder: string }[] = []

const pond: ServerExtension = {
  name: 'pond',
  async prepare({ db }) {
    const first = async <R>(rows: Promise<R[]>) => (await rows)[0] as R
    const site = await first(db.insert(table.sites).values(SITE).returning())
    const place = await first(
      db.insert(table.places).values({ siteId: site.id, name: 'Pond', water: 'Rain' }).returning(),
    )
    const device = await first(db.insert(table.devices).values({ name: 'Display', shows: 'value' }).returning())
    const position = await first(
      db
        .insert(table.positions)
        .values({
          placeId: place.id,
          deviceId: device.id,
          code: 'TU-1',
          spot: 'Outlet',
          kind: TURBIDITY.id,
          processValue: 6,
          processTemperature: 14,
          tolerance: 1,
          floorDays: 7,
          ceilingDays: 90,
          cautions: ['Wet stones are slippery.'],
        })
        .returning(),
    )
    const sensor = await first(
      db.insert(table.sensors).values({ serialNumber: 'T-9', kind: TURBIDITY.id, model: 'Window' }).returning(),
    )
    await db.insert(table.installations).values({
      sensorId: sensor.id,
      positionId: position.id,
      deviceId: device.id,
      installedAt: new Date(time - 10 * DAY_MS),
    })
    await db.insert(table.solutionLots).values({
      standard: 'formazin-10',
      lot: 'F-1',
      expiresOn: dayAt(time + 400 * DAY_MS, 'UTC'),
      openedOn: null,
      lifeAfterOpeningDays: 300,
      ownTable: null,
      volume: 500,
      storage: 'Dark',
    })
  },
}

async function open(extensions: ServerExtension[]) {
  const folder = mkdtempSync(join(tmpdir(), 'frustum-kind-'))
  const config = { host: '127.0.0.1', port: await freePort(), dataFolder: folder, pollMs: 500, webFolder: null }
  const server = await startServer(config, { clock, extensions })
  servers.push({ server, folder })
  return async <T>(path: string, body?: unknown): Promise<T> => {
    const answer = await fetch(
      server.url + path,
      body === undefined
        ? {}
        : { method: 'POST', body: JSON.stringify(body), headers: { 'content-type': 'application/json' } },
    )
    const got = await answer.json()
    expect([path, answer.ok, got.message]).toEqual([path, true, got.message])
    return got as T
  }
}

beforeAll(() => {
  forget = registerKind(TURBIDITY)
})
afterAll(async () => {
  for (const { server, folder } of servers) {
    await server.stop()
    rmSync(folder, { recursive: true, force: true })
  }
  forget()
})

it('is started, walked by hand, recorded, forecast, planned, poured from the Shelf, exported and imported', async () => {
  const ask = await open([pond])
  const walk = async (shownInStandard: string) => {
    let visit = await ask<VisitView>('/api/visits', {
      ...asker,
      position: 'TU-1',
      procedure: 'turbidity-one-point',
      standards: { first: 'formazin-10' },
      opening: {},
    })
    const act = async (action: string, body: object) => {
      visit = await ask<VisitView>(`/api/visits/${visit.id}/${action}`, { ...asker, ...body })
    }
    const read = async (step: string, value: string) => {
      await act('typed', { step, value, temperature: '14' })
      await act('capture', { step, earlyReason: 'Testing' })
    }
    await act('done', { step: 'hold' })
    await read('found-process', '6.2')
    await read('found-standard', shownInStandard)
    await act('done', { step: 'clean' })
    await read('point-1', shownInStandard)
    expect(visit.now?.key).toBe('result')
    const decision = visit.result?.proposal.decision ?? ''
    await act('decide', { step: 'result', decision })
    if (decision === 'adjust') {
      await act('apply', { way: 'keyed', shownAfter: '10.0' })
      await act('skip', { step: 'verify', reason: 'No time' })
    }
    await read('back', '6.0')
    await act('done', { step: 'release' })
    return visit
  }

  const starting = await ask<StartingView>('/api/probes/TU-1/starting')
  expect(starting).toMatchObject({ quantity: 'Turbidity', process: { value: 6, unit: 'FNU' }, occupied: true })
  expect(starting.procedures.map((p) => p.id)).toContain('turbidity-check')
  expect(starting.lots['formazin-10']).toMatchObject({ lot: 'F-1', left: 500 })

  const visits: VisitView[] = []
  // It loses a twentieth of its slope from month to month, and is adjusted each time.
  for (let month = 0; month < 5; month++) {
    visits.push(await walk('8.6'))
    time += 30 * DAY_MS
  }
  expect(visits.every((v) => v.outcome === 'done')).toBe(true)

  const [newest] = await ask<LedgerRow[]>('/api/ledger')
  expect(newest).toMatchObject({ position: 'TU-1', name: 'One formazin', asFound: { unit: 'FNU', signed: true } })
  const record = await ask<RecordView>(`/api/ledger/${newest?.id}`)
  expect(record.record.points.map((p) => p.standard?.value.unit)).toContain('FNU')

  const probe = await ask<ProbeView>('/api/probes/TU-1')
  expect(probe).toMatchObject({ kind: 'turbidity', processUnit: 'FNU' })
  expect(probe.visits).toHaveLength(5)
  expect(probe.calibrations.length).toBeGreaterThan(0)
  expect(probe.health.ranked.length).toBeGreaterThan(0)
  expect(probe.figure.cone.every((p) => Number.isFinite(p.mean))).toBe(true)
  const { rows } = await ask<RoundsView>('/api/rounds')
  expect(rows[0]).toMatchObject({ position: 'TU-1', quantity: 'Turbidity', scale: { unit: 'FNU' } })
  const fleet = await ask<FleetView>('/api/probes')
  expect(fleet.rows[0]).toMatchObject({ position: 'TU-1', slope: null, reference: null })
  const plan = await ask<PlanView>('/api/plan')
  expect(plan.trips.flatMap((t) => t.visits.map((v) => v.position))).toContain('TU-1')
  const shelf = await ask<ShelfView>('/api/shelf')
  // Two or three cups a visit, 20 mL each.
  expect(shelf.lots[0]).toMatchObject({ standard: 'formazin-10', kind: 'turbidity' })
  expect(shelf.lots[0]?.left).toBeLessThanOrEqual(500 - 5 * 2 * 20)

  const file = await ask<{ visits: unknown[] }>('/api/ledger/export.json')
  expect(file.visits).toHaveLength(5)
  const elsewhere = await open([])
  expect(await elsewhere<ImportReport>('/api/ledger/import', file)).toEqual({ added: 5, known: 0, refused: [] })
  const again = await elsewhere<{ visits: unknown[] }>('/api/ledger/export.json')
  expect(again.visits).toEqual(file.visits)
})
