import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { ProblemView, RigView } from '@frustum/contract'
import { type RunningServer, readConfig, startServer } from '@frustum/server'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { freePort } from '../support/freePort.ts'
import { startTestServer, type TestServer } from '../support/testServer.ts'

/** The set-up of a site as a file: out, and in again without loss. */

type Document = Record<string, unknown> & Record<'positions' | 'devices' | 'people', Record<string, unknown>[]>

const folder = mkdtempSync(join(tmpdir(), 'frustum-set-up-'))
let demo: TestServer
let empty: RunningServer
let exported: Document
beforeAll(async () => {
  demo = await startTestServer()
  empty = await startServer(readConfig({ FRUSTUM_DATA: folder, PORT: String(await freePort()) }, null))
  // What a site has of its own goes with it.
  const operator = 'A. Fenn'
  const standard = { kind: 'orp', label: 'Redox 475', values: '20 478\n25 475', against: 'agcl-saturated' }
  expect((await demo.ask('/api/rig/standard', { operator, values: standard })).status).toBe(201)
  expect(
    (await demo.ask('/api/rig/template', { operator, values: { name: 'As the first', position: '1' } })).status,
  ).toBe(201)
  exported = await exportOf(demo.url)
})
afterAll(async () => {
  await demo.stop()
  await empty.stop()
  rmSync(folder, { recursive: true })
})

async function exportOf(url: string): Promise<Document> {
  const { exportedAt, ...document } = await (await fetch(`${url}/api/rig/set-up.json`)).json()
  expect(Date.parse(exportedAt)).toBeGreaterThan(0)
  return document
}
async function take(file: unknown) {
  const response = await fetch(`${empty.url}/api/bring/set-up?operator=A.%20Fenn`, {
    method: 'POST',
    body: JSON.stringify(file),
    headers: { 'content-type': 'application/json' },
  })
  return { status: response.status, body: (await response.json()) as { sensors: number } & ProblemView }
}
const changed = (part: 'positions' | 'devices' | 'people', change: object): Document => ({
  ...exported,
  [part]: exported[part].map((row, i) => (i === 2 ? { ...row, ...change } : row)),
})

it('refuses what is not whole with its place, and takes nothing of it in', async () => {
  const dangling = changed('positions', { deviceId: 999 })
  for (const [file, why] of [
    [[], 'The file is no set-up of Frustum.'],
    [{ ...exported, version: 7 }, 'The file was written by another version of Frustum.'],
    [{ ...exported, lots: 'many' }, 'lots is no list.'],
    [
      {
        ...exported,
        standards: (exported.standards as object[]).map((s) => ({
          ...s,
          printed: { temperatures: [25], values: [9e9] },
        })),
      },
      'standards[1] is not possible: Its values cannot be those of such a standard.',
    ],
    [dangling, 'positions[3].deviceId names none of the devices.'],
    [changed('positions', { tolerance: '0.1' }), 'positions[3].tolerance is no number.'],
    [changed('positions', { tolerance: undefined }), 'positions[3].tolerance is missing.'],
    [changed('positions', { kind: 'dowsing' }), 'positions[3].kind is no choice that is known.'],
    [changed('positions', { cautions: 'none' }), 'positions[3].cautions cannot be read.'],
    [changed('positions', { code: exported.positions[0]?.code }), 'positions[3] cannot be taken in as it stands.'],
    [changed('positions', { tolerance: 1e-300 }), /^positions\[3\] is not possible: .*tolerance/],
    [changed('devices', { adjustsBy: 'magic' }), /^devices\[3\] is not possible: Choose one/],
  ] as const) {
    const { status, body } = await take(file)
    expect([status, body.message]).toEqual([400, typeof why === 'string' ? why : expect.stringMatching(why)])
    expect(body.detail).toBe('Nothing was taken in.')
  }
  const rig = (await (await fetch(`${empty.url}/api/rig`)).json()) as RigView
  expect([rig.positions, rig.people, rig.devices]).toEqual([[], [], []])
})

it('comes in whole and goes out the same; where there are sensors it is refused', async () => {
  const { status, body } = await take(exported)
  expect([status, body]).toEqual([200, { sensors: exported.positions.length }])
  expect(await exportOf(empty.url)).toEqual(exported)
  const rig = async (url: string) => (await (await fetch(`${url}/api/rig`)).json()) as RigView
  const [here, there] = [await rig(empty.url), await rig(demo.url)]
  const told = ({ positions }: RigView) => positions.map((p) => [p.code, p.quantity, p.spot, p.sensor?.serial])
  expect(told(here)).toEqual(told(there))
  expect((await take(exported)).body.code).toBe('set-up-exists')
})
