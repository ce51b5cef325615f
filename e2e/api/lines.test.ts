import type {
  Channel,
  ConnectionPageView,
  ConnectionView,
  FinderView,
  HoldView,
  LineView,
  Mapping,
  RigView,
  TriedView,
  VisitView,
} from '@frustum/contract'
import { CONTROLLER_UNIT, type FleetSensor, fleet, standInUnits } from '@frustum/demo'
import { StandInControl, startStandIns } from '@frustum/lab/stand-ins'
import { expect, it, onTestFinished } from 'vitest'
import { followed } from '../../lab/src/fixtures/followed.ts'
import { sensorAt } from '../../lab/src/fixtures/sensorAt.ts'
import { protocolOf, registerProtocol } from '../../server/src/devices/protocols/registry.ts'
import { operator, ownSite } from '../support/ownSite.ts'

/** The channel of a controller whose words are swapped and whose addresses are printed from 1. */
const CONTROLLER = fleet().find((s) => s.code === 'CH-pH-3') as FleetSensor
const MAPPING = CONTROLLER.via?.mapping as Mapping
const asker = { clientId: '4ef56a4d-db29-4d02-ba8b-47561f3ae86d', operator }

/** A site of one pH sensor, by eye, and a controller on loopback that could read it. */
async function siteAndController() {
  const standIns = await startStandIns(standInUnits([CONTROLLER]))
  onTestFinished(standIns.close)
  const address = { host: '127.0.0.1', port: standIns.port }
  const control = new StandInControl({ ...address, unit: CONTROLLER.unit as number })
  onTestFinished(() => control.close())
  // What its display says: the transmitter in it, by a map of its own.
  const display = followed({ protocol: 'modbus-tcp', settings: address })
  display.driver.follow([sensorAt(CONTROLLER.unit as number)])
  const site = await ownSite('code,kind,place,water\nT1-pH,pH,Hall,seawater', { adjustsBy: 'numbers' })
  const line = { operator, protocol: 'modbus-tcp', settings: address, address: { unit: CONTROLLER_UNIT } }
  const live = async () => (await site.get<RigView>('rig')).positions[0]?.live
  return { site, control, line, live, shows: () => display.next(CONTROLLER.unit as number) }
}

it('a controller is found by what its display says, and read by what was found', { timeout: 120_000 }, async () => {
  const { site, control, line, live, shows } = await siteAndController()
  const says = async () => ({ value: ((await shows()).shown as number).toFixed(2) })
  const found = await site.ask<FinderView>('finders', { ...line, shown: await says() })
  expect(found.status).toBe(201)
  const finder = () => site.get<FinderView>(`finders/${found.body.id}`)
  await expect.poll(async () => (await finder()).found.value?.left ?? 0, { timeout: 40_000 }).toBeGreaterThan(0)
  expect((await finder()).found.value?.certain).toBe(false)
  await control.putInto('pH4.01')
  await expect.poll(async () => (await shows()).shown, { timeout: 40_000 }).toBeLessThan(4.2)
  await site.ask(`finders/${found.body.id}/look`, { operator, shown: await says() })
  const left = async () => (await finder()).found.value?.first ?? []
  await expect.poll(async () => (await left())[0]?.read.length, { timeout: 20_000 }).toBe(2)
  // Printed 101, counted from 1: 100 on the wire. Beside it may be what shares its high word; a further look tells.
  const right = { table: 'holding', address: 100, type: 'float32', order: 'CDAB' }
  const first = (await left()).find(({ channel }) => JSON.stringify(channel.at) === JSON.stringify(right))
  expect(first).toBeDefined()
  await site.ask(`finders/${found.body.id}/stop`, { operator })
  expect((await finder()).phase).toBe('stopped')

  const mapping: Mapping = { countsFrom: 0, value: first?.channel as Channel }
  const tried = await site.ask<TriedView>('lines/1/try', { ...line, mapping })
  expect(tried.body).toMatchObject({ why: null, reading: { shown: expect.closeTo(4, 0), signal: null } })
  expect((await live())?.at).toBeNull()
  const kept = await site.ask<LineView>('lines/1', { ...line, mapping })
  expect(kept.body).toMatchObject({ connectionId: 1, address: { unit: 41 }, mapping })
  await expect.poll(async () => (await live())?.shown ?? 0).toBeGreaterThan(3.5)
  const page = await site.get<ConnectionPageView>('connections/1')
  expect(page).toMatchObject({ state: 'up', devices: [{ sensors: [{ code: 'T1-pH' }] }] })
  expect(page.exchanges[0]?.sent).toMatch(/29 03 00 64 00 02$/)

  // A device that is put on another unit is blind and says why, and taken back it reads again.
  await site.ask('lines/1', { operator, connectionId: 1, address: { unit: 77 }, mapping })
  await expect.poll(async () => (await live())?.why, { timeout: 8000 }).toContain('does not answer')
  const { changes } = await site.get<{ changes: { id: number; what: unknown; undo: boolean }[] }>('rig/device/1')
  await site.ask(`rig/device/1/changes/${changes.find((c) => c.undo)?.id}/undo`, { operator })
  await expect.poll(async () => (await live())?.blindSince ?? null, { timeout: 8000 }).toBeNull()
  expect((await site.ask('connections/1/delete', { operator })).body).toMatchObject({ code: 'in-use' })
  await site.ask('lines/1/remove', { operator })
  await expect.poll(async () => (await live())?.at).toBeNull()
})

it('outputs that are held stay so through a restart, in everybody’s sight, until they are let go', async () => {
  const { site, line, live } = await siteAndController()
  await site.ask('lines/1', { ...line, mapping: MAPPING })
  await expect.poll(async () => (await live())?.shown ?? 0).toBeGreaterThan(0)
  const standards = { first: 'pH7.00', second: 'pH10.01' }
  const begun = { ...asker, position: 'T1-pH', procedure: 'ph-two-point', standards, opening: {} }
  const { body: visit } = await site.ask<VisitView>('visits', begun)
  expect(visit).toMatchObject({ linked: true, readsBack: true, writable: true })
  await site.ask(`visits/${visit.id}/done`, { ...asker, step: 'hold' })
  const held = () => site.get<HoldView[]>('holds')
  expect(await held()).toMatchObject([{ position: 'T1-pH', by: operator, problem: null }])
  const bit = { at: { table: 'holding', address: 141, type: 'uint16', order: 'ABCD' }, unit: '', scale: 1, offset: 0 }
  const output = async () => {
    const mapping = { countsFrom: 1, value: bit }
    const { body } = await site.ask<TriedView>('lines/1/try', {
      operator,
      connectionId: 1,
      address: { unit: 41 },
      mapping,
    })
    return body.raw[0]?.value
  }
  expect(await output()).toBe(1)

  // Another register is its value from now on: the visit says so, and what was read before is to be read again.
  await expect.poll(async () => (await live())?.shown ?? 0).toBeGreaterThan(0)
  const early = { ...asker, step: 'found-process', earlyReason: 'No time' }
  await expect.poll(async () => (await site.ask(`visits/${visit.id}/capture`, early)).status).toBe(200)
  site.clock.set(site.clock.now() + 1000)
  const { value, temperature, hold } = MAPPING
  await site.ask('lines/1', {
    operator,
    connectionId: 1,
    address: { unit: 41 },
    mapping: { countsFrom: 1, value, temperature, hold },
  })
  const { body: after } = await site.ask<VisitView>(`visits/${visit.id}`)
  expect(after.lineChanged?.steps.map((s) => s.key)).toEqual(['found-process'])

  await site.restart()
  expect(await held()).toHaveLength(1)
  await expect.poll(async () => (await live())?.shown ?? 0).toBeGreaterThan(0)
  const [{ id } = { id: 0 }] = await held()
  expect((await site.ask(`holds/${id}/release`, { operator })).body).toEqual([])
  expect(await output()).toBe(0)
  expect((await site.ask(`holds/${id}/release`, { operator })).status).toBe(404)
})

it('a line that gives no temperature is asked for it, and the record says what came over the line', async () => {
  const { site, control, line, live } = await siteAndController()
  const { value } = MAPPING
  await site.ask('lines/1', { ...line, mapping: { countsFrom: 1, value } })
  await expect.poll(async () => (await live())?.shown ?? 0).toBeGreaterThan(0)
  expect((await live())?.temperature).toBeNull()
  const standards = { first: 'pH7.00', second: 'pH10.01' }
  const begun = { ...asker, position: 'T1-pH', procedure: 'ph-two-point', standards, opening: {} }
  const { body: visit } = await site.ask<VisitView>('visits', begun)
  const at = (action: string, body: object) =>
    site.ask<VisitView>(`visits/${visit.id}/${action}`, { ...asker, ...body })
  const early = { earlyReason: 'No time' }
  await at('done', { step: 'hold' })
  await expect.poll(async () => (await at('capture', { step: 'found-process', ...early })).status).toBe(200)
  const { body: next } = await site.ask<VisitView>(`visits/${visit.id}`)
  const step = next.steps.find((s) => s.key.startsWith('found-') && s.key !== 'found-process')?.key ?? 'point-1'
  for (let now = next.current; now !== step && now; ) {
    const { body } = await at('done', { step: now })
    if (body.current === now) await at('skip', { step: now, reason: 'Testing' })
    now = (await site.ask<VisitView>(`visits/${visit.id}`)).body.current
  }
  await control.putInto('pH7.00')
  await expect
    .poll(async () => (await at('capture', { step, ...early })).body.code, { timeout: 8000 })
    .toBe('temperature-needed')
  expect((await at('capture', { step, ...early, temperature: 'warm' })).body.fields?.temperature).toContain('number')
  expect((await at('capture', { step, ...early, temperature: '22.4' })).status).toBe(200)
  await at('abandon', { reason: 'Testing' })
  const record = JSON.stringify(await site.get(`ledger/${visit.id}`))
  expect(record).toContain('line-display')
})

it('a connection whose protocol is unknown is left out, and the others are read', { timeout: 60_000 }, async () => {
  const { site, line, live } = await siteAndController()
  const { key, ...modbus } = protocolOf('modbus-tcp')
  const remove = registerProtocol({ ...modbus, key: 'made-up' })
  const mapping = { ...MAPPING }
  await site.ask('lines/1', { ...line, mapping, protocol: 'made-up', name: 'Gone soon' })
  await site.ask('lines/1', { ...line, mapping, protocol: key, name: 'Stays' })
  remove()
  const connections = await site.get<ConnectionView[]>('connections')
  expect(connections.map(({ name }) => name)).toEqual(['Stays'])
  expect((await site.ask('connections/1', { operator, name: 'Changed', settings: {} })).status).toBe(400)
  expect((await site.ask('lines/1', { ...line, mapping, connectionId: 1 })).body).toMatchObject({
    fields: { connectionId: expect.stringContaining('no longer exists') },
  })
  await site.ask('lines/1/remove', { operator })
  await site.ask('lines/1', { ...line, mapping, connectionId: 2 })
  await expect.poll(async () => (await live())?.shown ?? 0, { timeout: 20_000 }).toBeGreaterThan(3.5)
})
