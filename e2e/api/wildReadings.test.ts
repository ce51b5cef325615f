import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { RoundsView } from '@frustum/contract'
import { readConfig, type ServerExtension, startServer } from '@frustum/server'
import { expect, it, onTestFinished } from 'vitest'
import { freePort } from '../support/freePort.ts'

it('a device that shows nothing, or more than there can be, takes no room down', async () => {
  let shown = 0
  const folder = mkdtempSync(join(tmpdir(), 'frustum-wild-'))
  let live: Parameters<NonNullable<ServerExtension['start']>>[0]['live'] | undefined
  const extension: ServerExtension = {
    name: 'wild',
    async start(context) {
      live = context.live
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
  for (const code of ['EC-1', 'EC-2']) {
    live?.add(code, {
      read: async () => ({ at: Date.now(), shown, signal: shown, temperature: 21 }),
      close: () => undefined,
    } as never)
  }
  for (shown of [0, 3e38, -3e38]) {
    await expect
      .poll(async () => ((await (await ask('rounds')).json()) as Partial<RoundsView>).rows?.map((r) => r.live.shown))
      .toEqual([shown, shown])
    for (const path of ['rounds', 'probes', 'plan', 'rig', 'waits', 'probes/EC-1', 'probes/EC-1/starting']) {
      expect([path, (await ask(path)).status]).toEqual([path, 200])
    }
  }
})
