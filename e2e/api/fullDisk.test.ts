import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Worker } from 'node:worker_threads'
import { readConfig, type ServerExtension, startServer } from '@frustum/server'
import { expect, it, onTestFinished, vi } from 'vitest'
import { freePort } from '../support/freePort.ts'

/** Every instrument that is added finds no room, as PostgreSQL reports it. */
const fullDisk: ServerExtension = {
  name: 'full-disk',
  async prepare({ db }) {
    await db.$client.exec(`
      create function no_room() returns trigger language plpgsql as
        $$ begin raise exception 'no room' using errcode = '53100'; end $$;
      create trigger no_room before insert on instruments execute function no_room()`)
  },
}

it('a disk that fills up while running refuses writes with what to do, and ends the server when nothing can be kept', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'frustum-full-'))
  const threads = new Set<Worker>()
  const real = Worker.prototype.postMessage
  const seen = vi.spyOn(Worker.prototype, 'postMessage').mockImplementation(function (this: Worker, asked) {
    if (asked.sql) threads.add(this)
    return real.call(this, asked)
  })
  const config = readConfig({ FRUSTUM_DATA: folder, PORT: String(await freePort()) }, null)
  const server = await startServer(config, { extensions: [fullDisk] })
  onTestFinished(async () => {
    seen.mockRestore()
    await server.stop().catch(() => undefined)
    rmSync(folder, { recursive: true })
  })
  const ask = async (path: string, body?: object) => {
    const response = await fetch(`${server.url}/api/${path}`, {
      ...(body ? { method: 'POST', body: JSON.stringify(body) } : {}),
      headers: { 'content-type': 'application/json' },
    })
    return { status: response.status, body: await response.json() }
  }
  expect(await ask('instruments', { operator: 'A. Fenn', kind: 'thermometer', name: 'Glass 2' })).toMatchObject({
    status: 507,
    body: { code: 'disk-full', detail: expect.stringContaining('not recorded'), hint: expect.stringContaining('room') },
  })
  expect((await ask('site')).status).toBe(200)

  expect(threads.size).toBe(1)
  for (const thread of threads) thread.emit('message', { panic: 'could not write to file: No space left on device' })
  expect(await server.failed).toMatch(/All that was recorded is kept\. Make room on the disk and start again\.$/)
})
