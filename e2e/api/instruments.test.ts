import {
  addDays,
  dayAt,
  type InstrumentView,
  noonOf,
  type ProbeView,
  type ProblemView,
  type RecordView,
  type RigView,
  type ThingView,
  type VisitView,
} from '@frustum/contract'
import { DAY_MS } from '@frustum/core'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { plain } from '../../lab/src/fixtures/plain.ts'
import { ownSite } from '../support/ownSite.ts'
import { startTestServer, type TestServer } from '../support/testServer.ts'

/** What a sensor is compared with is chosen by name, and the record keeps it as it was then. */

let server: TestServer
beforeAll(async () => {
  server = await startTestServer({ sensors: ['CH-pH-4'] })
  // At noon, so that days are counted alike at every hour and on both sides of a daylight-saving change.
  const noon = noonOf(dayAt(Date.now(), ZONE), ZONE)
  server.pass(noon > Date.now() ? noon - Date.now() : noon + DAY_MS - Date.now())
})
afterAll(() => server.stop())

const ZONE = 'Europe/London'
const operator = 'S. Osk'
const asker = { clientId: '5b0f4f0e-9d83-4a8a-8c1f-2b107e6c2a1e', operator }
const daysAgo = (days: number) => addDays(dayAt(server.clock.now(), ZONE), -days)
const meter = (calibratedOn: string) => ({
  operator,
  kind: 'hand-meter',
  name: 'Pocket meter 3',
  serial: '1234',
  calibratedOn,
  uncertainty: 0.02,
  unit: 'pH',
})

it('a stale hand meter is warned about where it is used, and the record keeps what was known of it', async () => {
  const { body: known } = await server.ask<InstrumentView[]>('/api/instruments', meter(daysAgo(214)))
  expect(known).toMatchObject([{ name: 'Pocket meter 3', uncertainty: 0.02 }])
  const { body: begun } = await server.ask<VisitView>('/api/visits', {
    ...asker,
    position: 'CH-pH-4',
    procedure: 'compare',
  })
  const at = `/api/visits/${begun.id}`
  await server.ask(`${at}/typed`, { ...asker, step: 'moment', value: '8.02' })
  const fill = (instrument0: string) =>
    server.ask<VisitView & ProblemView>(`${at}/fill`, {
      ...asker,
      step: 'others',
      values: { value0: '8.05', uncertainty0: '0.02', instrument0 },
    })
  expect((await fill('99')).body.fields?.instrument0).toMatch(/Choose one of the list/)
  const { body: compared } = await fill(String(known[0]?.id))
  expect(compared.result?.findings.map((f) => plain(f.sentence))).toEqual([
    'Pocket meter 3 was calibrated 214 days ago.',
  ])
  expect(compared.result?.figures[1]?.label).toBe('Pocket meter 3')
  const visitsBefore = (await server.ask<ProbeView>('/api/probes/CH-pH-4')).body.visits.length
  await server.ask(`${at}/decide`, { ...asker, step: 'verdict', decision: 'leave-alone' })

  // A meter that nobody should believe says nothing of the sensor's drift.
  expect((await server.ask<ProbeView>('/api/probes/CH-pH-4')).body.visits).toHaveLength(visitsBefore)
  const record = async () => (await server.ask<RecordView>(`/api/ledger/${begun.id}`)).body
  const before = await record()
  expect(before.record.lines.map((l) => plain(l.sentence)).join()).toContain('read with Pocket meter 3, 1234')
  const { body: renewed } = await server.ask<InstrumentView[]>('/api/instruments', meter(daysAgo(0)))
  expect(renewed).toHaveLength(1)
  expect(await record()).toEqual(before)
})

it('an instrument needs a name, and a day that has been', async () => {
  const add = async (body: object) => (await server.ask<ProblemView>('/api/instruments', body)).body.fields ?? {}
  expect(await add({ ...meter(daysAgo(1)), name: ' ' })).toEqual({ name: 'Type its name.' })
  expect(await add(meter(daysAgo(-40)))).toEqual({ calibratedOn: 'Choose today or an earlier day.' })
})

it('a thermometer that the site knows to be stale is warned about beside a typed reading', async () => {
  const glass = { operator, kind: 'thermometer', name: 'Glass 2', calibratedOn: daysAgo(500) }
  expect((await server.ask('/api/instruments', glass)).status).toBe(201)
  const { body: begun } = await server.ask<VisitView>('/api/visits', {
    ...asker,
    position: 'CH-pH-4',
    procedure: 'ph-check',
    standards: { first: 'pH7.00', second: 'pH10.01' },
  })
  const at = `/api/visits/${begun.id}`
  await server.ask(`${at}/done`, { ...asker, step: 'hold' })
  await server.ask(`${at}/typed`, { ...asker, step: 'found-process', value: '8.1', still: true })
  const typed = (temperatureName: string) => ({
    ...asker,
    step: 'found-standard',
    value: '7.02',
    temperature: '22',
    temperatureFrom: 'thermometer',
    temperatureName,
    still: true,
  })
  const { body: checked } = await server.ask<VisitView>(`${at}/typed`, typed('glass 2'))
  const said = (view: VisitView) => view.result?.findings.map((f) => plain(f.sentence)).join(' ') ?? ''
  expect(said(checked)).toContain('glass 2 was calibrated 500 days ago.')
  // Of one that the site does not know nothing is said.
  await server.ask(`${at}/redo`, { ...asker, step: 'found-standard', reason: 'Another thermometer' })
  const { body: again } = await server.ask<VisitView>(`${at}/typed`, typed('Borrowed one'))
  expect(again.current).toBe('verdict')
  expect(said(again)).not.toContain('calibrated')
})

it('a sensor that is carried along is offered where another is compared, as good as its last calibration left it', async () => {
  const { ask, get, bring } = await ownSite(
    'Code;Type;Place;Water;Serial\nT1-pH;pH;Hall;nutrient;C-7\nT2-pH;pH;Hall;nutrient;',
  )
  const log = 'Date;Tag;pH 7 before;pH 10 before;pH 7 after;pH 10 after;Temp\n23.12.2025;T1-pH;7.02;9.97;7.00;10.01;25'
  expect((await bring(log, { take: true })).body.taken).toBe(1)
  const carried = (await get<RigView>('rig')).positions.find((p) => p.code === 'T1-pH')?.sensor?.id
  expect(await get('instruments')).toEqual([])
  const seen = (await get<ThingView>(`rig/sensor/${carried}`)).values
  await ask(`rig/sensor/${carried}`, { operator, values: { travels: true }, seen, mode: 'wrong' })
  const [offered] = await get<InstrumentView[]>('instruments')
  expect(offered).toMatchObject({ name: 'Travelling check, pH', serial: 'C-7', kind: 'hand-meter', sensorId: carried })
  expect(new Date(offered?.calibratedAt ?? 0).toISOString().slice(0, 10)).toBe('2025-12-23')

  const { body: begun } = await ask<VisitView>('visits', { ...asker, position: 'T2-pH', procedure: 'compare' })
  await ask(`visits/${begun.id}/typed`, { ...asker, step: 'moment', value: '5.92', temperature: '21' })
  const values = { value0: '5.9', uncertainty0: '0.02', instrument0: String(offered?.id) }
  const { body: compared } = await ask<VisitView>(`visits/${begun.id}/fill`, { ...asker, step: 'others', values })
  expect(compared.result?.figures[1]?.label).toBe('Travelling check, pH')
  expect(compared.result?.findings).toEqual([])
})
