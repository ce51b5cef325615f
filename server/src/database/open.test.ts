import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { sql } from 'drizzle-orm'
import { expect, it } from 'vitest'
import { openDatabaseIn } from './open.ts'

it('many queries in a row, or a long one, leave the rest of the process its turns', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'frustum-test-'))
  const { db, close } = await openDatabaseIn(folder)
  let turns = 0
  let counting = true
  const count = () => {
    turns++
    if (counting) setImmediate(count)
  }
  setImmediate(count)
  await db.execute(sql`select 1`)
  const before = turns
  const began = performance.now()
  for (let i = 0; i < 400; i++) await db.execute(sql`select ${i}::int as i, repeat('x', 2000) as filling`)
  const took = performance.now() - began
  // A turn at least every so often, however fast the machine: in one thread with the database there would be none at all.
  expect(turns - before).toBeGreaterThan(Math.max(2, took / 60))
  const beforeLong = turns
  await db.execute(sql`select sum(i) from generate_series(1, 1000000) as i`)
  counting = false
  // One long query would be one long pause.
  expect(turns - beforeLong).toBeGreaterThan(20)
  await close()
  rmSync(folder, { recursive: true })
})
