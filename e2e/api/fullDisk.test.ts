import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Worker } from 'node:worker_threads'
import { readConfig, type ServerExtension, startServer } from '@frustum/server'
import { sql } from 'drizzle-orm'
import { Router } from 'express'
import { expect, it, onTestFinished, vi } from 'vitest'
import { freePort } from '../support/freePort.ts'

/** A write that finds no room, as PostgreSQL reports it. */
const fullDisk: ServerExtension = {
  name: 'full-disk',
  routes: ({ db }) =>
    Router().get('/', async (_req, res) => {
      await db.execute(sql.raw("do $$ begin raise exception 'no room' using errcode = '53100'; end $$"))
      res.json({})
    }),
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
  const ask = async (path: string) => {
    const response = await fetch(`${server.url}/api/${path}`)
    return { status: response.status, body: await response.json() }
  }
  expect(await ask('extensions/full-disk')).toMatchObject({
    status: 507,
    body: { code: 'disk-full', detail: expect.stringContaining('not recorded'), hint: expect.stringContaining('room') },
  })
  expect((await ask('site')).status).toBe(200)

  expect(threads.size).toBe(1)
  for (const thread of threads) thread.emit('message', { panic: 'could not write to file: No space left on device' })
  expect(await server.failed).toMatch(/All that was recorded is kept\. Make room on the disk and start again\.$/)
})
