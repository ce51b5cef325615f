import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Worker } from 'node:worker_threads'
import { afterAll, beforeAll, expect, it, onTestFinished, vi } from 'vitest'
import { type OpenDatabase, openDatabaseIn } from '../open.ts'
import type { Engine } from './engine.ts'

const folder = mkdtempSync(join(tmpdir(), 'frustum-engine-'))
let database: OpenDatabase
let engine: Engine
beforeAll(async () => {
  database = await openDatabaseIn(folder)
  engine = database.db.$client
  await engine.exec('create table kept (what text not null)')
})
afterAll(async () => {
  await database.close()
  rmSync(folder, { recursive: true })
})

const keep = (what: string) =>
  engine.transaction(async (tx) => {
    await tx.query('insert into kept values ($1)', [what])
  })
const kept = async () =>
  (await engine.query<{ what: string }>('select what from kept order by what')).rows.map((r) => r.what)

it('what a transaction wrote is on the disk when it has ended, alone or among others', async () => {
  const unsynced = async () => {
    const { rows } = await engine.query<{ left: boolean }>(
      'select pg_current_wal_insert_lsn() > pg_current_wal_flush_lsn() as left',
    )
    return rows[0]?.left
  }
  await keep('a')
  expect(await unsynced()).toBe(false)
  await Promise.all(['b', 'c', 'd'].map(keep))
  expect(await unsynced()).toBe(false)
  expect(await kept()).toEqual(['a', 'b', 'c', 'd'])
})

it('transactions that end close together share a sync, as far as waiting for each other costs less', async () => {
  let syncs = 0
  const real = Worker.prototype.postMessage
  const slow = vi.spyOn(Worker.prototype, 'postMessage').mockImplementation(function (this: Worker, asked) {
    const isSync = String(asked.sql).includes('pg_logical_emit_message')
    if (!isSync) return real.call(this, asked)
    syncs++
    setTimeout(() => real.call(this, asked), 200)
  })
  onTestFinished(() => slow.mockRestore())
  await keep('one, to know how long a sync takes')
  expect(syncs).toBe(1)
  await Promise.all(Array.from({ length: 10 }, (_, i) => keep(`shared ${i}`)))
  expect(syncs).toBeLessThan(5)
})

it('a transaction that fails leaves nothing behind, also when its work does not tell', async () => {
  const before = await kept()
  await expect(
    engine.transaction(async (tx) => {
      await tx.query("insert into kept values ('half')")
      throw new Error('changed my mind')
    }),
  ).rejects.toThrow('changed my mind')
  await expect(
    engine.transaction(async (tx) => {
      await tx.query("insert into kept values ('half')")
      await tx.query('insert into nowhere values (1)').catch(() => undefined)
    }),
  ).rejects.toThrow('nothing of it was kept')
  expect(await kept()).toEqual(before)
})

it('nobody looks into an open transaction, and what may have been written is counted', async () => {
  const before = engine.writes
  let open = () => {}
  const opened = new Promise<void>((resolve) => {
    open = resolve
  })
  const writing = engine.transaction(async (tx) => {
    open()
    await tx.query("insert into kept values ('zz first')")
    await tx.query("insert into kept values ('zz second')")
  })
  await opened
  expect((await kept()).filter((what) => what.startsWith('zz'))).toHaveLength(2)
  await writing
  const after = engine.writes
  expect(after).toBeGreaterThan(before)
  await kept()
  expect(engine.writes).toBe(after)
})

it('an error of the database keeps its code and says what was wrong', async () => {
  await expect(engine.query('insert into kept values (null)')).rejects.toMatchObject({
    code: '23502',
    message: expect.stringContaining('null value in column "what"'),
  })
})
