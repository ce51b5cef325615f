import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type {
  MovesView,
  ProbeView,
  ProblemView,
  RigView,
  RoundsView,
  SiteView,
  StartingView,
  ThingView,
  VisitView,
} from '@frustum/contract'
import { type RunningServer, readConfig, startServer } from '@frustum/server'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { plain } from '../../lab/src/fixtures/plain.ts'
import { freePort } from '../support/freePort.ts'

/** A site made from nothing, and everything in it changed afterwards. */

const operator = 'A. Fenn'
const asker = { clientId: '0d2b9a52-6b0f-4f0e-9d83-4a8a8c1f2b10', operator }
const folder = mkdtempSync(join(tmpdir(), 'frustum-own-'))
let server: RunningServer
const open = async () => {
  server = await startServer(readConfig({ FRUSTUM_DATA: folder, PORT: String(await freePort()) }, null))
}
beforeAll(open)
afterAll(async () => {
  await server.stop()
  rmSync(folder, { recursive: true })
})

async function ask<T = ProblemView>(path: string, body?: object): Promise<{ status: number; body: T }> {
  const response = await fetch(`${server.url}/api/${path}`, {
    ...(body ? { method: 'POST', body: JSON.stringify(body) } : {}),
    headers: { 'content-type': 'application/json' },
  })
  return { status: response.status, body: (await response.json()) as T }
}

const SITE = { name: 'Reef cellar', person: operator, timeZone: 'Europe/Paris' }
const PH = {
  operator,
  kind: 'ph',
  water: 'seawater',
  placeName: 'Back room',
  values: {
    code: 'BR-pH-1',
    spot: 'sump',
    shows: 'value',
    adjustsBy: 'key',
    calibrationKey: 'CAL',
    whileCalibrating: 'value',
    processValue: '8.2',
    processTemperature: '25',
    tolerance: '0.1',
    startingDays: '90',
    floorDays: '14',
    ceilingDays: '120',
    reliability: '95',
    consequence: '3',
    spareLeadDays: '21',
    cautions: 'Mind the eel.\nIt bites.',
  },
}
const rig = async () => (await ask<RigView>('rig')).body
const thing = async (path: string) => (await ask<ThingView>(`rig/${path}`)).body
const edit = (path: string, values: object, seen: object, more: object = {}) =>
  ask<ThingView & ProblemView>(`rig/${path}`, { operator, values, seen, mode: 'wrong', ...more })

describe('from an empty folder', () => {
  it('every room answers, and the site is set up once', async () => {
    for (const path of ['site', 'rounds', 'probes', 'plan', 'shelf', 'ledger', 'rig', 'instruments', 'waits']) {
      expect([path, (await ask(path)).status]).toEqual([path, 200])
    }
    expect((await ask<SiteView>('site')).body.exists).toBe(false)
    const early = await ask('rig/positions', PH)
    expect([early.status, early.body.code]).toEqual([409, 'no-site'])
    for (const [change, field] of [
      [{ timeZone: 'Mars/Base' }, 'timeZone'],
      [{ name: ' ' }, 'name'],
      [{ person: 'x'.repeat(500) }, 'person'],
    ] as const) {
      const bad = await ask('site/set-up', { ...SITE, ...change })
      expect([bad.status, Object.keys(bad.body.fields ?? {})]).toEqual([400, [field]])
    }
    const made = await ask<SiteView>('site/set-up', SITE)
    expect([made.status, made.body.name, made.body.operators]).toEqual([201, 'Reef cellar', [operator]])
    expect((await ask('site/set-up', { name: 'Other', person: 'B', timeZone: 'UTC' })).body.code).toBe('site-exists')
  })

  it('refuses each field of a position that cannot be, and writes nothing of it', async () => {
    for (const [change, field] of [
      [{ tolerance: '0' }, 'tolerance'],
      [{ tolerance: '0.0000001' }, 'tolerance'],
      [{ processValue: '82' }, 'processValue'],
      [{ processTemperature: '77' }, 'processTemperature'],
      [{ floorDays: '200' }, 'ceilingDays'],
      [{ code: '' }, 'code'],
      [{ code: '<b>' }, 'code'],
      [{ adjustsBy: 'magic' }, 'adjustsBy'],
      [{ calibrationKey: '' }, 'calibrationKey'],
      [{ consequence: '9' }, 'consequence'],
      [{ reliability: 'sure' }, 'reliability'],
    ] as const) {
      const bad = await ask('rig/positions', { ...PH, values: { ...PH.values, ...change } })
      expect([field, bad.status, Object.keys(bad.body.fields ?? {})]).toEqual([field, 400, [field]])
    }
    for (const [change, field] of [
      [{ kind: 'dowsing' }, 'kind'],
      [{ water: 'lava' }, 'water'],
      [{ placeName: '' }, 'placeName'],
      [{ deviceId: 99 }, 'deviceId'],
    ] as const) {
      expect(Object.keys((await ask('rig/positions', { ...PH, ...change })).body.fields ?? {})).toEqual([field])
    }
    const { positions, places, devices } = await rig()
    expect([positions, places, devices]).toEqual([[], [], []])
  })

  it('a sensor that is at work already can be checked at once, by its own key', async () => {
    const made = await ask<{ position: string; id: number }>('rig/positions', { ...PH, inUse: true })
    expect([made.status, made.body.position]).toEqual([201, 'BR-pH-1'])
    const { rows, empty } = (await ask<RoundsView>('rounds')).body
    expect(empty).toEqual([])
    expect(rows[0]).toMatchObject({ position: 'BR-pH-1', linked: false, driftState: 'due' })
    expect(plain(rows[0]?.reason ?? '')).toMatch(
      /^Taken on as it was found, .*: check it before it is trusted again\.$/,
    )
    const begun = await ask<VisitView>('visits', {
      ...asker,
      position: 'br-ph-1',
      procedure: 'self-ph-two-point',
      standards: { first: 'pH7.00', second: 'pH10.01' },
    })
    expect(begun.status, JSON.stringify(begun.body)).toBe(201)
    expect(begun.body.cautions.slice(0, 2)).toEqual(['Mind the eel.', 'It bites.'])
    const open = await ask(`rig/position/${made.body.id}/archive`, { operator, archived: true })
    expect([open.status, open.body.message]).toEqual([409, 'A visit is open at BR-pH-1: A. Fenn has it in hand.'])
    await ask(`visits/${begun.body.id}/abandon`, { ...asker, reason: 'Testing' })
  })

  it('a second sensor on the same device needs no device again, and no code is given twice', async () => {
    const [device] = (await rig()).devices
    const values = { ...PH.values, code: 'br-PH-1' }
    const taken = await ask('rig/positions', { ...PH, values })
    expect([taken.status, taken.body.fields?.code]).toEqual([409, 'Taken. br-PH-2 is free.'])
    const second = await ask<{ id: number }>('rig/positions', {
      ...PH,
      placeId: (await rig()).places[0]?.id,
      deviceId: device?.id,
      values: { ...PH.values, code: 'BR-pH-2' },
    })
    expect(second.status).toBe(201)
    const { positions, devices } = await rig()
    expect(devices).toHaveLength(1)
    expect(new Set(positions.map((p) => p.deviceId)).size).toBe(1)
    expect((await ask<RoundsView>('rounds')).body.empty.map((e) => e.position)).toEqual(['BR-pH-2'])
  })
})

describe('what was set up can be changed', () => {
  it('a code may change: old labels and addresses still lead there', async () => {
    const [position] = (await rig()).positions
    const path = `position/${position?.id}`
    const { values } = await thing(path)
    const changed = await edit(path, { code: 'Sump pH' }, values)
    expect([changed.status, changed.body.title]).toEqual([200, 'Sump pH, Back room'])
    for (const code of ['BR-pH-1', 'br-ph-1', 'Sump pH']) {
      expect((await ask<ProbeView>(`probes/${code}`)).body.position).toBe('Sump pH')
    }
    const reused = await ask('rig/positions', PH)
    expect([reused.status, reused.body.message]).toEqual([409, 'BR-pH-1 was Sump pH before.'])
    const [line] = changed.body.changes
    expect(plain(line?.what ?? '')).toBe('Code on its label: BR-pH-1, now Sump pH')
    const undone = await ask<ThingView>(`rig/${path}/changes/${line?.id}/undo`, { operator })
    expect(undone.body.values.code).toBe('BR-pH-1')
  })

  it('numbers return as they were typed, in the unit of the display', async () => {
    const values = { ...PH.values, code: 'SG-1', display: 'specific gravity', compensation: 'seawater' }
    const made = await ask<{ id: number }>('rig/positions', {
      ...PH,
      kind: 'conductivity',
      values: { ...values, processValue: '1.0258', tolerance: '2' },
    })
    expect(made.status).toBe(201)
    const path = `position/${made.body.id}`
    expect((await thing(path)).values).toMatchObject({ processValue: '1.0258', tolerance: '2', reliability: '95' })
    const before = await thing(path)
    // Saved as it is, nothing has changed.
    await edit(path, before.values, before.values)
    expect((await thing(path)).changes).toHaveLength(before.changes.length)
    const { body } = await edit(path, { processValue: '1.0265' }, before.values)
    expect(body.values.processValue).toBe('1.0265')
  })

  it('two who change the same: the second sees what the first did, and decides', async () => {
    const [position] = (await rig()).positions
    const path = `position/${position?.id}`
    const { values: seen } = await thing(path)
    expect((await edit(path, { tolerance: '0.08' }, seen)).status).toBe(200)
    const second = await edit(path, { tolerance: '0.09', spot: 'filter' }, seen)
    expect([second.status, second.body.code, second.body.fields]).toEqual([
      409,
      'changed-meanwhile',
      { tolerance: 'A. Fenn changed this to 0.08 meanwhile.' },
    ])
    // Another field of the same form is no quarrel.
    expect((await edit(path, { spot: 'filter' }, seen)).body.values).toMatchObject({
      spot: 'filter',
      tolerance: '0.08',
    })
  })

  it('the day on which a spare was bought says how long it keeps', async () => {
    const values = { serialNumber: 'S-1', boughtOn: '2025-02-28', keepsDays: '365' }
    const made = (await ask<ThingView>('rig/sensor', { operator, values, kind: 'ph' })).body
    const spare = async () => (await rig()).spares.find((s) => s.serial === 'S-1')
    expect((await spare())?.goodUntil).toBe('2026-02-28')
    for (const boughtOn of ['2025-02-31', '31.02.2025', 'soon', '2999-01-01', '0000-00-00']) {
      const { status, body } = await edit(`sensor/${made.id}`, { boughtOn }, made.values)
      expect([boughtOn, status, Object.keys(body.fields ?? {})]).toEqual([boughtOn, 400, ['boughtOn']])
    }
    const { body } = await edit(`sensor/${made.id}`, { boughtOn: '' }, made.values)
    expect([body.values.boughtOn, (await spare())?.goodUntil]).toEqual(['', null])
    expect((await ask(`rig/sensor/${made.id}/delete`, { operator })).status).toBe(200)
  })

  it('a form that is saved as it stands changes nothing', async () => {
    const path = `position/${(await rig()).positions[0]?.id}`
    const { values, changes } = await thing(path)
    const { status, body } = await edit(path, values, values)
    expect([status, body.changes]).toEqual([200, changes])
  })

  it('loosening asks for a reason, and what moves is told before', async () => {
    const [position] = (await rig()).positions
    const path = `position/${position?.id}`
    const { values: seen } = await thing(path)
    const { moves } = (await ask<MovesView>(`rig/${path}/moves`, { values: { startingDays: '60' } })).body
    expect(moves.map((m) => [m.before?.usualDays, m.after.usualDays])).toEqual([[90, 60]])
    const bare = await edit(path, { tolerance: '0.2' }, seen)
    expect([bare.status, bare.body.code]).toEqual([400, 'why-needed'])
    const { body } = await edit(path, { tolerance: '0.2' }, seen, {
      why: 'Hardy fish',
      mode: 'changed',
      on: '2026-01-05',
    })
    expect(body.changes[0]?.why).toBe('Hardy fish')
    expect(JSON.stringify(body.changes[0]?.what)).toContain(String(Date.UTC(2026, 0, 4, 23)))
    expect((await edit(path, { spot: 'x' }, {}, { mode: 'changed', on: '2999-01-01' })).body.fields).toHaveProperty(
      'on',
    )
  })

  it('a device is changed for all that it reads, and says how it calibrates', async () => {
    const [device] = (await rig()).devices
    const path = `device/${device?.id}`
    const { values: seen } = await thing(path)
    const { body } = await edit(path, { name: 'Controller', calibrationKey: 'Cal pH', firmware: '2.1' }, seen)
    expect(body.values).toMatchObject({ name: 'Controller', calibrationKey: 'Cal pH', firmware: '2.1' })
    expect(body.changes).toHaveLength(4)
    const numbers = await edit(path, { adjustsBy: 'numbers' }, body.values)
    expect(numbers.body.values.adjustsBy).toBe('numbers')
  })

  it('people, places, spares and consumables are added, put away and taken out again', async () => {
    for (const [subject, more, wrong] of [
      ['person', { values: { name: 'B. Rook', initials: 'BR' } }, { values: { name: '' } }],
      ['place', { values: { name: 'Attic', sortOrder: '3' } }, { values: { name: 'ATTIC', sortOrder: '3' } }],
      ['sensor', { values: { serialNumber: '77', keepsDays: '365' }, kind: 'ph' }, { values: { serialNumber: '77' } }],
      [
        'consumable',
        { values: { name: 'UV lamp', everyDays: '270', leadDays: '10' }, placeId: 1 },
        { values: { name: 'UV lamp', everyDays: '0', leadDays: '10' }, placeId: 1 },
      ],
    ] as const) {
      const made = await ask<ThingView>(`rig/${subject}`, { operator, ...more })
      expect([subject, made.status]).toEqual([subject, 201])
      const bad = await ask(`rig/${subject}`, { operator, ...wrong })
      expect([subject, bad.status >= 400 && bad.status < 500, bad.body.fields]).toEqual([
        subject,
        true,
        expect.anything(),
      ])
      const path = `rig/${subject}/${made.body.id}`
      expect((await ask<ThingView>(`${path}/archive`, { operator, archived: true })).body.archived).toBe(true)
      const [line] = (await ask<ThingView>(path)).body.changes
      expect((await ask<ThingView>(`${path}/changes/${line?.id}/undo`, { operator })).body.archived).toBe(false)
      const gone = await ask(`${path}/delete`, { operator })
      expect([subject, gone.status]).toEqual([subject, subject === 'person' ? 409 : 200])
    }
    const [place] = (await rig()).places
    const kept = await ask(`rig/place/${place?.id}/delete`, { operator })
    expect([kept.status, kept.body.code]).toEqual([409, 'has-records'])
  })

  it('a spare in store is offered where a new sensor is commissioned, and is the one that goes in', async () => {
    const spare = { operator, kind: 'ph', values: { serialNumber: '0911', model: 'Gel pH', storage: 'Shelf 2' } }
    const made = await ask<ThingView>('rig/sensor', spare)
    const { body: starting } = await ask<StartingView>('probes/BR-pH-2/starting')
    const commission = starting.procedures.find((p) => p.id.startsWith('commission-'))
    expect(commission?.opening.find((f) => f.key === 'serial')?.suggestions).toEqual(['0911'])
    const begun = await ask<VisitView>('visits', {
      ...asker,
      position: 'BR-pH-2',
      procedure: commission?.id,
      standards: { first: 'pH7.00', second: 'pH10.01' },
      opening: { serial: '0911', model: 'Gel pH' },
    })
    expect(begun.status, JSON.stringify(begun.body)).toBe(201)
    const { positions, spares } = await rig()
    expect(positions.find((p) => p.code === 'BR-pH-2')?.sensor?.id).toBe(made.body.id)
    expect(spares.some((s) => s.serial === '0911')).toBe(false)
    const inUse = await ask(`rig/sensor/${made.body.id}/archive`, { operator, archived: true })
    expect([inUse.status, inUse.body.message]).toEqual([409, 'It is in use at BR-pH-2.'])
    await ask(`visits/${begun.body.id}/abandon`, { ...asker, reason: 'Testing' })
  })

  it('what was added by mistake is deleted, in use or not; what has anything recorded is put away', async () => {
    const add = (code: string) =>
      ask<{ id: number }>('rig/positions', { ...PH, inUse: true, values: { ...PH.values, code } })
    const { body: wrong } = await add('Typo-1')
    const inUse = await ask(`rig/position/${wrong.id}/archive`, { operator, archived: true })
    expect([inUse.status, inUse.body.message]).toEqual([409, 'A sensor is in use at Typo-1.'])
    expect((await ask(`rig/position/${wrong.id}/delete`, { operator })).status).toBe(200)
    expect((await ask<RoundsView>('rounds')).body.rows.some((r) => r.position === 'Typo-1')).toBe(false)
    const { body: known } = await add('Typo-2')
    await ask('probes/Typo-2/events', { operator, kind: 'upset', at: Date.now() })
    const kept = await ask(`rig/position/${known.id}/delete`, { operator })
    expect([kept.status, kept.body.code, kept.body.message]).toEqual([
      409,
      'has-records',
      'Something was recorded of Typo-2, Back room.',
    ])
    expect((await ask<ProbeView>('probes/Typo-2')).body.events).toHaveLength(2)
  })

  it('all of it is there after a start', async () => {
    const before = await rig()
    await server.stop()
    await open()
    expect(await rig()).toEqual(before)
  })
})

describe('a standard of its own', () => {
  const standard = {
    operator,
    values: { kind: 'orp', label: 'Redox 475', values: '20 478\n25 475', against: 'agcl-saturated', caution: 'Acid.' },
  }

  it('is entered as its bottle says, wrong values named', async () => {
    for (const [values, field] of [
      [{ ...standard.values, values: '25 4750' }, 'values'],
      [{ ...standard.values, values: 'high' }, 'values'],
      [{ ...standard.values, kind: 'temperature' }, 'kind'],
      [{ ...standard.values, label: '' }, 'label'],
      [{ ...standard.values, against: 'lead' }, 'against'],
      [{ ...standard.values, uncertainty: '0' }, 'uncertainty'],
    ] as const) {
      const refused = await ask('rig/standard', { operator, values })
      expect([refused.status, Object.keys(refused.body.fields ?? {})]).toEqual([400, [field]])
    }
    const made = await ask<ThingView>('rig/standard', standard)
    expect(made.status, JSON.stringify(made.body)).toBe(201)
    expect(plain(made.body.says ?? '')).toBe(
      'ORP: 478 mV at 20 °C, 475 mV at 25 °C, against Ag/AgCl, KCl saturated, good to ±10 mV. Records rest on it, so this stays: another value is another standard.',
    )
  })

  it('stands on the Shelf and is poured; put away it is offered no more, and its visit says what it was', async () => {
    const orp = { ...PH, kind: 'orp', values: { ...PH.values, code: 'BR-ORP-1', processValue: '350', tolerance: '30' } }
    const added = await ask('rig/positions', { ...orp, inUse: true })
    expect(added.status, JSON.stringify(added.body)).toBe(201)
    const [own] = (await ask<SiteView>('site')).body.ownStandards
    const code = own?.code ?? ''
    const lot = {
      operator,
      standard: code,
      lot: 'R1',
      expiresOn: '2030-01-01',
      keepsDays: 90,
      volume: 250,
      storage: 'Cool',
    }
    expect((await ask('shelf', lot)).status).toBe(201)
    const starting = (await ask<StartingView>('probes/BR-ORP-1/starting')).body
    expect(JSON.stringify(starting)).toContain(code)
    const start = { ...asker, position: 'BR-ORP-1', procedure: 'orp-check', standards: { first: code }, opening: {} }
    const visit = (await ask<VisitView>('visits', start)).body
    const id = (await ask<RigView>('rig')).body.standards[0]?.id
    const kept = await ask(`rig/standard/${id}/archive`, { operator, archived: true })
    expect([kept.status, kept.body.hint]).toEqual([409, 'Discard its bottles first.'])
    expect((await ask(`rig/standard/${id}/delete`, { operator })).status).toBe(409)
    const [bottle] = (await ask<{ lots: { id: number }[] }>('shelf')).body.lots
    expect((await ask(`shelf/${bottle?.id}`, { operator, action: 'discard' })).status).toBe(200)
    expect((await ask(`rig/standard/${id}/archive`, { operator, archived: true })).status).toBe(200)
    expect(JSON.stringify((await ask('probes/BR-ORP-1/starting')).body)).not.toContain(code)
    // The open visit goes on with it, through a restart.
    await server.stop()
    await open()
    const again = (await ask<VisitView>(`visits/${visit.id}`)).body
    expect(again.steps.map((s) => s.short)).toContain('As found, Redox 475')
    expect((await ask(`visits/${visit.id}/abandon`, { ...asker, reason: 'only to look' })).status).toBe(200)
  })
})

describe('sensors that go elsewhere', () => {
  const rigOf = async () => (await ask<RigView>('rig')).body
  const at = async (code: string) => (await rigOf()).positions.find((p) => p.code === code)

  it('two of one kind change places, each with its past, and are due at once', async () => {
    const ids = []
    for (const [code, serial] of [
      ['SW-1', 'A1'],
      ['SW-2', 'B2'],
    ] as const) {
      const added = await ask<{ id: number }>('rig/positions', { ...PH, values: { ...PH.values, code } })
      ids.push(added.body.id)
      expect((await ask(`rig/positions/${added.body.id}/in-use`, { operator, serial, model: '' })).status).toBe(200)
    }
    const [one, two] = ids
    const orp = (await at('BR-ORP-1'))?.id
    const wrong = await ask(`rig/positions/${one}/sensor`, { operator, swapWith: orp })
    expect([wrong.status, wrong.body.message]).toEqual([400, 'Only sensors of one kind change places.'])
    const start = {
      ...asker,
      position: 'SW-1',
      procedure: 'ph-check',
      standards: { first: 'pH7.00', second: 'pH4.01' },
    }
    const { body: visit } = await ask<VisitView>('visits', { ...start, opening: {} })
    const busy = await ask(`rig/positions/${one}/sensor`, { operator, swapWith: two })
    expect([busy.status, busy.body.code]).toEqual([409, 'visit-open'])
    await ask(`visits/${visit.id}/abandon`, { ...asker, reason: 'it has to go' })
    expect((await ask(`rig/positions/${one}/sensor`, { operator, swapWith: two })).status).toBe(200)
    expect([(await at('SW-1'))?.sensor?.serial, (await at('SW-2'))?.sensor?.serial]).toEqual(['B2', 'A1'])
    const probe = (await ask<ProbeView>('probes/SW-2')).body
    expect(probe.cameFrom.map((c) => c.position)).toEqual(['SW-1'])
    expect(probe.events.map((e) => e.kind)).toContain('moved')
    const rows = (await ask<RoundsView>('rounds')).body.rows.filter((r) => r.position.startsWith('SW-'))
    expect(rows.map((r) => r.state)).toEqual(['due', 'due'])
    // Taken back at one of the two it is taken back at both, as if it had not been.
    const undo = async (id: number | undefined) => {
      const { changes } = (await ask<ThingView>(`rig/position/${id}`)).body
      const line = changes.find((c) => c.undo && plain(c.what)?.startsWith('Its sensor'))
      expect(plain(line?.what)).toMatch(/^Its sensor: (A1|B2), now (A1|B2|none)$/)
      return ask(`rig/position/${id}/changes/${line?.id}/undo`, { operator })
    }
    expect((await undo(two)).status).toBe(200)
    expect([(await at('SW-1'))?.sensor?.serial, (await at('SW-2'))?.sensor?.serial]).toEqual(['A1', 'B2'])
    expect((await ask<ProbeView>('probes/SW-2')).body).toMatchObject({ cameFrom: [] })
    expect(
      (await ask<ThingView>(`rig/position/${one}`)).body.changes.some(
        (c) => c.undo && /sensor/.test(JSON.stringify(c.what)),
      ),
    ).toBe(false)
    // Out to store and back, and what was recorded since keeps a way from being taken back.
    expect((await ask(`rig/positions/${one}/sensor`, { operator, storage: 'drawer' })).status).toBe(200)
    expect((await undo(one)).status).toBe(200)
    expect((await at('SW-1'))?.sensor?.serial).toBe('A1')
    expect((await ask(`rig/positions/${one}/sensor`, { operator, swapWith: two })).status).toBe(200)
    const since = (await ask<VisitView>('visits', { ...start, opening: {} })).body
    await ask(`visits/${since.id}/abandon`, { ...asker, reason: 'only to see' })
    const late = await undo(two)
    expect([late.status, (late.body as ProblemView).code]).toEqual([409, 'rests-on-it'])
  })

  it('pages that are asked for while a sensor goes and comes have an answer', async () => {
    const { id } = (await at('SW-1')) as { id: number }
    const serial = (await at('SW-1'))?.sensor?.serial ?? ''
    const seen = new Set<number>()
    let going = true
    const looks = ['probes/SW-1', 'probes', 'rounds', 'plan', 'rig'].map(async (path) => {
      while (going) seen.add((await ask(path)).status)
    })
    for (let i = 0; i < 6; i++) {
      expect((await ask(`rig/positions/${id}/sensor`, { operator, storage: 'drawer' })).status).toBe(200)
      expect((await ask(`rig/positions/${id}/in-use`, { operator, serial, model: '' })).status).toBe(200)
    }
    going = false
    await Promise.all(looks)
    expect([...seen].filter((status) => status !== 200 && status !== 404)).toEqual([])
  })

  it('one is taken to store, and comes back by its number with its past', async () => {
    const { id } = (await at('SW-1')) as { id: number }
    expect((await ask(`rig/positions/${id}/sensor`, { operator, storage: 'KCl, drawer 2' })).status).toBe(200)
    expect((await ask(`rig/positions/${id}/sensor`, { operator, storage: '' })).body.code).toBe('empty')
    const rig = await rigOf()
    expect(rig.spares.find((s) => s.serial === 'B2')).toMatchObject({ storage: 'KCl, drawer 2', lastAt: 'SW-1' })
    expect((await at('SW-1'))?.sensor).toBeNull()
    expect((await ask<RoundsView>('rounds')).body.empty.map((e) => e.position)).toContain('SW-1')
    const body = { operator, serial: 'B2', model: '' }
    const back = await ask<{ position: string }>(`rig/positions/${id}/in-use`, body)
    expect([back.status, back.body.position]).toEqual([200, 'SW-1'])
    expect((await at('SW-1'))?.sensor?.serial).toBe('B2')
    expect((await rigOf()).spares.filter((s) => s.serial === 'B2')).toEqual([])
    const there = await ask(`rig/positions/${(await at('BR-pH-1'))?.id}/in-use`, body)
    expect(there.status).toBe(409)
  })
})

it('a renewal that was pressed by mistake is taken back', async () => {
  const rig = (await ask<RigView>('rig')).body
  const placeId = rig.places[0]?.id
  const values = { name: 'UV lamp', everyDays: '365', leadDays: '14' }
  const made = (await ask<ThingView>('rig/consumable', { operator, values, placeId })).body
  const due = async () =>
    (await ask<{ consumables: { id: number; due: number }[] }>('plan')).body.consumables.find((c) => c.id === made.id)
      ?.due
  const before = await due()
  expect((await ask(`plan/consumables/${made.id}/renew`, { operator })).status).toBe(200)
  expect(await due()).toBeGreaterThan(before ?? 0)
  const thing = (await ask<ThingView>(`rig/consumable/${made.id}`)).body
  expect(plain(thing.changes[0]?.what ?? '')).toMatch(/^Renewed: .*, now /)
  const undone = await ask(`rig/consumable/${made.id}/changes/${thing.changes[0]?.id}/undo`, { operator })
  expect(undone.status).toBe(200)
  expect(await due()).toBe(before)
  expect((await ask(`rig/consumable/${made.id}/archive`, { operator, archived: true })).status).toBe(200)
  expect(await due()).toBeUndefined()
})

it('a position is kept as a template, without what is its own alone', async () => {
  const rig = (await ask<RigView>('rig')).body
  const position = rig.positions.find((p) => p.code === 'SW-2')
  const nobody = await ask('rig/template', { operator, values: { name: 'Sump pH', position: '999999' } })
  expect(nobody.status).toBe(404)
  const made = await ask<ThingView>('rig/template', {
    operator,
    values: { name: 'Sump pH', position: `${position?.id}` },
  })
  expect(made.status, JSON.stringify(made.body)).toBe(201)
  const [template] = (await ask<RigView>('rig')).body.templates
  expect(template).toMatchObject({ name: 'Sump pH', kind: 'ph', water: 'seawater', archived: false })
  expect(template?.values).toMatchObject({ tolerance: '0.1', startingDays: '90', adjustsBy: 'key' })
  for (const key of ['code', 'spot', 'serial', 'name', 'note']) expect(template?.values).not.toHaveProperty(key)
  const id = template?.id
  expect(
    (await ask<ThingView>(`rig/template/${id}`, { operator, values: { name: 'Sump' }, seen: {}, mode: 'wrong' })).body
      .title,
  ).toBe('Sump')
  expect((await ask<RigView>(`rig/template/${id}/delete`, { operator })).body.templates).toEqual([])
})

it('a device is copied with all its sensors: only place and codes are new, and what the display shows is kept', async () => {
  const rigNow = async () => (await ask<RigView>('rig')).body
  const ec = {
    operator,
    kind: 'conductivity',
    water: 'nutrient',
    placeName: 'Grow room 1',
    values: {
      ...PH.values,
      code: 'G1-EC-1',
      spot: 'tank 1',
      display: 'CF',
      compensation: 'linear',
      coefficient: '2',
      referenceTemperature: '25',
      processValue: '18',
      processTemperature: '21',
      tolerance: '5',
    },
  }
  const cell = await ask<{ id: number }>('rig/positions', ec)
  expect(cell.status, JSON.stringify(cell.body)).toBe(201)
  const deviceId = (await rigNow()).positions.find((p) => p.code === 'G1-EC-1')?.deviceId
  const ph = { ...PH, water: 'nutrient', placeName: 'Grow room 1', deviceId }
  const probe = await ask<{ id: number }>('rig/positions', { ...ph, values: { ...PH.values, code: 'G1-pH-1' } })
  expect(probe.status, JSON.stringify(probe.body)).toBe(201)
  for (const { body } of [cell, probe]) {
    const edit = { operator, values: { body: 'probe 1', water: 'tank 1' }, seen: {}, mode: 'wrong' }
    expect((await ask(`rig/position/${body.id}`, edit)).status).toBe(200)
  }
  const sensors = [
    { id: cell.body.id, code: 'G2-EC-1', spot: 'tank 1' },
    { id: probe.body.id, code: 'g1-PH-1' },
  ]
  const refused = await ask('rig/copies', { operator, placeName: 'Grow room 2', sensors })
  expect([refused.status, refused.body.fields]).toEqual([
    409,
    { [`code-${probe.body.id}`]: expect.stringMatching(/^Taken\. /) },
  ])
  expect((await rigNow()).places.map((p) => p.name)).not.toContain('Grow room 2')
  const asked = { operator, placeName: 'Grow room 2', sensors: [sensors[0], { ...sensors[1], code: 'G2-pH-1' }] }
  const made = await ask<{ position: string; id: number }[]>('rig/copies', asked)
  expect(made.status, JSON.stringify(made.body)).toBe(201)
  const { positions, places } = await rigNow()
  const copies = made.body.map(({ id }) => positions.find((p) => p.id === id))
  expect(copies.map((p) => p?.code)).toEqual(['G2-EC-1', 'G2-pH-1'])
  expect(new Set(copies.map((p) => p?.deviceId)).size).toBe(1)
  expect(copies[0]?.deviceId).not.toBe(deviceId)
  expect(places.find((p) => p.id === copies[0]?.placeId)?.name).toBe('Grow room 2')
  // All that was set is the same, but for what tells the two apart; a group of sensors stays one, apart from the first.
  for (const [k, original] of [cell, probe].entries()) {
    const [was, is] = await Promise.all(
      [original.body.id, made.body[k]?.id].map(async (id) => (await ask<ThingView>(`rig/position/${id}`)).body.values),
    )
    const own = { code: '', placeId: '', deviceId: '', body: '', water: '' }
    expect({ ...is, ...own }).toEqual({ ...was, ...own })
    expect(is).toMatchObject({ body: 'probe 1, Grow room 2', water: 'tank 1, Grow room 2' })
  }
  const device = (await ask<ThingView>(`rig/device/${copies[0]?.deviceId}`)).body
  expect(device.values).toMatchObject({ display: 'CF', adjustsBy: 'key' })
  expect(device.title).toBe('Device of G2-EC-1')
  expect(copies.every((p) => p?.sensor === null)).toBe(true)
})

it('slips are judged by the channel that is typed, not by what else its device shows', async () => {
  const values = { ...PH.values, code: 'Mix-SG', display: 'specific gravity', compensation: 'seawater' }
  const cell = {
    ...PH,
    inUse: true,
    kind: 'conductivity',
    values: { ...values, processValue: '1.0258', tolerance: '2' },
  }
  expect((await ask('rig/positions', cell)).status).toBe(201)
  const { positions } = await rig()
  const { deviceId } = positions.find((p) => p.code === 'Mix-SG') as RigView['positions'][number]
  const beside = (kind: string, changed: object) =>
    ask('rig/positions', { ...PH, inUse: true, kind, deviceId, values: { ...PH.values, ...changed } })
  expect((await beside('ph', { code: 'Mix-pH' })).status).toBe(201)
  const warm = await beside('temperature', { code: 'Mix-T', processValue: '77 F', tolerance: '0.9 F' })
  expect([warm.status, warm.body.fields]).toEqual([201, undefined])
  const typed = async (position: string, value: string) => {
    const begun = await ask<VisitView>('visits', { ...asker, position, procedure: 'compare' })
    expect(begun.status, JSON.stringify(begun.body)).toBe(201)
    const at = `visits/${begun.body.id}`
    const { status, body } = await ask<VisitView>(`${at}/typed`, { ...asker, step: 'moment', value, temperature: '25' })
    await ask(`${at}/abandon`, { ...asker, reason: 'Testing' })
    return [status, status === 200 ? '' : JSON.stringify(body)]
  }
  // 8.05 and 34.5 would be salinities at the cell.
  expect(await typed('Mix-pH', '8.05')).toEqual([200, ''])
  expect(await typed('Mix-T', '34.5')).toEqual([200, ''])
  expect(await typed('Mix-SG', '34.5')).toEqual([400, expect.stringContaining('34.5 looks like a salinity')])
})

it('a temperature and its tolerance can be entered in °F, and are kept in °C', async () => {
  const position = (await rig()).positions.find((p) => p.code === 'Mix-T')
  const path = `position/${position?.id}`
  const { values } = await thing(path)
  expect(values).toMatchObject({ processValue: '25', tolerance: '0.5' })
  const { status, body } = await edit(path, { tolerance: '0.36 °F', processValue: '78.8F' }, values)
  expect([status, body.values.tolerance, body.values.processValue]).toEqual([200, '0.2', '26'])
})
