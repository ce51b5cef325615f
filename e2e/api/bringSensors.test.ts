import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { BringOptions, BringView, ProblemView, RigView, RoundsView, ThingView } from '@frustum/contract'
import { type RunningServer, readConfig, startServer } from '@frustum/server'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { freePort } from '../support/freePort.ts'

/** A list of sensors as people keep it, brought in. */

const folder = mkdtempSync(join(tmpdir(), 'frustum-list-'))
let server: RunningServer
beforeAll(async () => {
  server = await startServer(readConfig({ FRUSTUM_DATA: folder, PORT: String(await freePort()) }, null))
  const body = JSON.stringify({ name: 'Mill', person: 'A. Fenn', timeZone: 'UTC' })
  const made = await fetch(`${server.url}/api/site/set-up`, { method: 'POST', body, headers: JSON_TYPE })
  expect(made.status).toBe(201)
})
afterAll(async () => {
  await server.stop()
  rmSync(folder, { recursive: true })
})
const JSON_TYPE = { 'content-type': 'application/json' }

async function bring(file: string | Uint8Array<ArrayBuffer>, options: Partial<BringOptions> = {}, name = 'list.csv') {
  const query = new URLSearchParams({ name, operator: 'A. Fenn', options: JSON.stringify(options) })
  const response = await fetch(`${server.url}/api/bring/sensors?${query}`, {
    method: 'POST',
    body: file,
    headers: { 'content-type': 'application/octet-stream' },
  })
  return { status: response.status, body: (await response.json()) as BringView & ProblemView }
}
const get = async <T>(path: string) => (await (await fetch(`${server.url}/api/${path}`)).json()) as T
const rig = () => get<RigView>('rig')
const xlsx = new Uint8Array(readFileSync(new URL('../fixtures/sensors.xlsx', import.meta.url)))

it('titles above the headings are passed over', async () => {
  const { body } = await bring('Sensors of the mill\n\nCode;Type;Place;Water\nM-pH-1;pH;Hall;nutrient')
  expect(body.headers).toEqual(['Code', 'Type', 'Place', 'Water'])
  expect(body.rows.map((r) => [r.number, r.state, r.code])).toEqual([[4, 'new', 'M-pH-1']])
})

it('is looked at first: columns by their names, what is missing by the water, and nothing is written', async () => {
  const { status, body } = await bring(xlsx, { place: 'Attic' }, 'sensors.xlsx')
  expect(status, JSON.stringify(body)).toBe(200)
  expect(body.sheets).toEqual(['Sensors'])
  expect(body.columns).toMatchObject({ code: 0, kind: 1, place: 2, water: 4, device: 5, serial: 6, processValue: 7 })
  expect(body.rows.map((r) => [r.code, r.state, r.wrong])).toEqual([
    ['FR-pH-1', 'new', {}],
    ['FR-EC-9', 'new', {}],
    ['FR-T-9', 'new', {}],
  ])
  expect(body.rows[2]?.what).toBe('Temperature in Attic, seawater aquarium: usually 25, ±0.5, at first every 180 days')
  expect(body.taken).toBeNull()
  expect((await rig()).positions).toEqual([])
})

it('a row that is wrong stops all of it, until it is put right or left out', async () => {
  const list = [
    '\ufeffPosition;Type;Area;Water;Usual value;Tolerance',
    'A-1;pH;Hall;drinking;7,6;0,1',
    'a-1;pH;Hall;drinking;7,6;0,1',
    'A-2;dowsing;Hall;drinking;;',
    'A-3;pH;Hall;drinking;7600;0,1',
    'A-4;ORP;Hall;lava;;',
    'A-5;pH;;drinking;;',
    ';;;;;',
    '<b>;pH;Hall;drinking;;0',
  ].join('\r\n')
  const looked = await bring(list)
  expect(looked.body.rows.map((r) => [r.number, r.state, Object.keys(r.wrong)])).toEqual([
    [2, 'new', []],
    [3, 'known', []],
    [4, 'wrong', ['kind']],
    [5, 'wrong', ['processValue']],
    [6, 'wrong', ['water']],
    [7, 'wrong', ['place']],
    [9, 'wrong', ['tolerance']],
  ])
  expect(looked.body.rows[3]?.wrong.processValue).toMatch(/Was it 7.60\?/)
  const refused = await bring(list, { take: true })
  expect([refused.status, refused.body.message]).toEqual([409, '5 of 7 rows cannot be taken in.'])
  expect((await rig()).positions).toEqual([])
  const taken = await bring(list, { take: true, leaveOut: true })
  expect(taken.body.taken).toBe(1)
  expect((await rig()).positions.map((p) => p.code)).toEqual(['A-1'])
})

it('is taken in once, however often: one device for those that share it, units and °F of the headings understood', async () => {
  const first = await bring(xlsx, { place: 'Attic', take: true }, 'sensors.xlsx')
  expect(first.body.taken).toBe(3)
  const again = await bring(xlsx, { place: 'Attic', take: true, columns: first.body.columns }, 'sensors.xlsx')
  // A row without a code is known by the file and its place in it.
  expect(again.body.rows.map((r) => r.state)).toEqual(['known', 'known', 'known'])
  const { positions, devices } = await rig()
  expect(positions.map((p) => p.code)).toEqual(['A-1', 'FR-EC-9', 'FR-pH-1', 'FR-T-9'])
  const [ec, ph] = [positions[1], positions[2]]
  expect(ec?.deviceId).toBe(ph?.deviceId)
  expect(devices.filter((d) => d.name === 'Box A')).toHaveLength(1)
  expect(ph?.sensor).toMatchObject({ serial: '0417' })
  const rules = (await get<ThingView>(`rig/position/${ph?.id}`)).values
  expect(rules).toMatchObject({ processValue: '8.15', processTemperature: '25', startingDays: '60', spot: 'tank 1' })
  expect((await get<ThingView>(`rig/position/${ec?.id}`)).values.processValue).toBe('1.9')
  // What was at work before is to be checked first.
  const { rows } = await get<RoundsView>('rounds')
  expect(new Set(rows.map((r) => r.driftState))).toEqual(new Set(['due']))
})

it('what is no table is said so, and columns are chosen by hand where their names say nothing', async () => {
  for (const [file, name] of [
    [new Uint8Array([0x50, 0x4b, 3, 4, 1, 2, 3]), 'broken.xlsx'],
    [new Uint8Array([0, 1, 2, 0, 0]), 'picture.csv'],
    ['', 'empty.csv'],
    ['a\n'.repeat(20_100), 'long.csv'],
  ] as const) {
    const { status, body } = await bring(file, {}, name)
    expect([name, status, body.code]).toEqual([name, 400, file.length === 0 ? 'no-file' : 'unreadable-file'])
  }
  const odd = 'x,y,z\nB-1,redox,cooling'
  expect((await bring(odd)).body.rows[0]?.state).toBe('wrong')
  const chosen = await bring(odd, { columns: { code: 0, kind: 1, water: 2 }, place: 'Roof' })
  expect(chosen.body.rows[0]).toMatchObject({ code: 'B-1', state: 'new' })
  for (const options of ['nonsense', JSON.stringify({ columns: { code: 'x' } }), JSON.stringify({ evil: 1 })]) {
    const query = new URLSearchParams({ name: 'a.csv', operator: 'A', options })
    const response = await fetch(`${server.url}/api/bring/sensors?${query}`, { method: 'POST', body: odd })
    expect([options, response.status]).toEqual([options, 400])
  }
})
