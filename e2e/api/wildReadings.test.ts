import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { RoundsView } from '@frustum/contract'
import { readConfig, type ServerExtension, startServer } from '@frustum/server'
import { expect, it, onTestFinished } from 'vitest'
import { plain } from '../../lab/src/fixtures/plain.ts'
import { freePort } from '../support/freePort.ts'

it('a device that shows nothing, or more than there can be, takes no room down', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'frustum-wild-'))
  let links: Parameters<NonNullable<ServerExtension['start']>>[0]['links'] | undefined
  const extension: ServerExtension = {
    name: 'wild',
    async start(context) {
      links = context.links
    },
  }
  const config = readConfig({ FRUSTUM_DATA: folder, PORT: String(await freePort()) }, null)
  const server = await startServer(config, { extensions: [extension] })
  onTestFinished(async () => {
    await server.stop()
    rmSync(folder, { recursive: true })
  })
  const ask = async (path: string, body?: object) =>
    fetch(`${server.url}/api/${path}`, {
      ...(body ? { method: 'POST', body: JSON.stringify(body) } : {}),
      headers: { 'content-type': 'application/json' },
    })
  await ask('site/set-up', { name: 'Mill', person: 'A. Fenn', timeZone: 'UTC' })
  for (const code of ['EC-1', 'EC-2']) {
    const query = new URLSearchParams({
      name: 'list.csv',
      operator: 'A. Fenn',
      options: JSON.stringify({ take: true, place: 'Hall', water: 'nutrient' }),
    })
    const list = `code,kind\n${code},EC`
    expect((await fetch(`${server.url}/api/bring/sensors?${query}`, { method: 'POST', body: list })).status).toBe(200)
  }
  for (const id of [1, 2]) {
    const edited = await ask(`rig/position/${id}`, {
      operator: 'A. Fenn',
      values: { water: 'pond' },
      seen: {},
      mode: 'wrong',
    })
    expect(edited.status).toBe(200)
  }
  // What was added and changed before is followed first: these lines are in no database.
  await links?.follow()
  const live = links?.live
  live?.follow(['EC-1', 'EC-2'].map((code, i) => ({ id: i + 1, code, anew: true })))
  for (const shown of [0, 3e38, -3e38]) {
    for (const id of [1, 2]) live?.reading(id, { at: Date.now(), shown, signal: shown, temperature: 21 })
    await expect
      .poll(async () => ((await (await ask('rounds')).json()) as Partial<RoundsView>).rows?.map((r) => r.live.shown))
      .toEqual([shown, shown])
    for (const path of ['rounds', 'probes', 'plan', 'rig', 'waits', 'probes/EC-1', 'probes/EC-1/starting']) {
      expect([path, (await ask(path)).status]).toEqual([path, 200])
    }
  }
})

it('what cannot be computed of one sensor takes no room and no other sensor down, and can be set right', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'frustum-unfit-'))
  let db: Parameters<NonNullable<ServerExtension['start']>>[0]['db'] | undefined
  const extension: ServerExtension = {
    name: 'old database',
    async start(context) {
      db = context.db
    },
  }
  const config = readConfig({ FRUSTUM_DATA: folder, PORT: String(await freePort()) }, null)
  const server = await startServer(config, { extensions: [extension] })
  onTestFinished(async () => {
    await server.stop()
    rmSync(folder, { recursive: true })
  })
  const ask = async <T>(path: string, body?: object) => {
    const answer = await fetch(`${server.url}/api/${path}`, {
      ...(body ? { method: 'POST', body: JSON.stringify(body) } : {}),
      headers: { 'content-type': 'application/json' },
    })
    return { status: answer.status, body: (await answer.json()) as T }
  }
  await ask('site/set-up', { name: 'Mill', person: 'A. Fenn', timeZone: 'UTC' })
  const query = new URLSearchParams({
    name: 'list.csv',
    operator: 'A. Fenn',
    options: JSON.stringify({ take: true, place: 'Hall', water: 'nutrient' }),
  })
  await fetch(`${server.url}/api/bring/sensors?${query}`, {
    method: 'POST',
    body: 'code,kind\nEC-1,EC\npH-1,pH\npH-2,pH',
  })
  const rooms = ['rounds', 'probes', 'plan', 'rig', 'waits', 'probes/pH-2', 'probes/EC-1']
  const rules: [string, string][] = [
    ['tolerance', '1e-300'],
    ['tolerance', '0'],
    ['reliability', '7'],
  ]
  for (const [column, value] of rules) {
    const was = (await db?.execute(`select ${column} as v from positions where code = 'pH-1'`))?.rows[0]?.v
    await db?.execute(`update positions set ${column} = ${value} where code = 'pH-1'`)
    for (const path of rooms) expect([value, path, (await ask(path)).status]).toEqual([value, path, 200])
    const { body } = await ask<RoundsView>('rounds')
    expect(body.rows.map((r) => r.position).toSorted()).toEqual(['EC-1', 'pH-2'])
    expect(body.unfit.map((u) => u.position)).toEqual(['pH-1'])
    expect(plain(body.unfit[0]?.why ?? '')).toMatch(/holds what cannot be for pH\.$/)
    expect((await ask('probes/pH-1')).status).toBe(409)
    await db?.execute(`update positions set ${column} = ${was} where code = 'pH-1'`)
  }
  await db?.execute(`insert into drift_observations (installation_id, at, as_left, uncertainty, adjusted)
    values ((select i.id from installations i join positions p on p.id = i.position_id where p.code = 'pH-1'), now(), 1e300, 0.01, true)`)
  for (const path of rooms) expect([path, (await ask(path)).status]).toEqual([path, 200])
  expect((await ask<RoundsView>('rounds')).body.unfit.map((u) => u.position)).toEqual(['pH-1'])
  await db?.execute('delete from drift_observations')
  await db?.execute(`update positions set tolerance = 1e-300 where code = 'pH-1'`)
  const { body: thing } = await ask<{ values: Record<string, string> }>('rig/position/2')
  const mend = {
    operator: 'A. Fenn',
    values: { tolerance: '0.1' },
    seen: thing.values,
    mode: 'wrong',
    why: 'Typed wrong',
  }
  expect((await ask('rig/position/2/moves', { values: { tolerance: '0.1' } })).body).toMatchObject({
    moves: [{ position: 'pH-1', before: null }],
  })
  expect((await ask('rig/position/2', mend)).status).toBe(200)
  expect((await ask<RoundsView>('rounds')).body).toMatchObject({ unfit: [] })
})
