import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { CalendarDay } from '@frustum/contract'
import { sql } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { type OpenDatabase, openDatabaseIn } from './open.ts'
import { isNumber, listOf, orMissing, orNull, recordOf, shapeOf } from './parsedJson.ts'
import { solutionLots, trips } from './schema.ts'

const folder = mkdtempSync(join(tmpdir(), 'frustum-columns-'))
let database: OpenDatabase
beforeAll(async () => {
  database = await openDatabaseIn(folder)
})
afterAll(async () => {
  await database.close()
  rmSync(folder, { recursive: true, force: true })
})

describe('structured values', () => {
  const ownTable = { temperatures: [15, 25], values: [7.1, 7] }
  const lot = {
    standard: 'pH7.00',
    lot: 'A-1',
    expiresOn: '2026-03-31' as CalendarDay,
    openedOn: null,
    lifeAfterOpeningDays: 90,
    volume: 500,
    storage: 'Dark',
  }

  it('come back as they were written, nothing included', async () => {
    await database.db.insert(solutionLots).values([
      { ...lot, ownTable },
      { ...lot, lot: 'A-2', ownTable: null },
    ])
    const rows = await database.db.select().from(solutionLots)
    expect(rows.map((r) => r.ownTable)).toEqual([ownTable, null])
  })

  it('that are none are named when they are read, and never passed on', async () => {
    await database.db.execute(sql`update solution_lots set own_table = '{"temperatures": "warm"}' where lot = 'A-1'`)
    await expect(database.db.select().from(solutionLots)).rejects.toThrow('The database holds no table of a lot')
    await database.db.execute(sql`
      insert into trips (id, name, operator, positions, started_at)
      values (gen_random_uuid(), 'Round', 'S. Osk', '["CH-1", 7]', now())`)
    await expect(database.db.select().from(trips)).rejects.toThrow('no list of texts')
  })
})

it('checks say where a value is wrong, and what is wrong there', () => {
  const point = shapeOf({ at: isNumber, note: orMissing(orNull(isNumber)) })
  expect([{ at: 1 }, { at: 1, note: null, more: 'kept' }].map(point)).toEqual([null, null])
  expect([null, [], {}, { at: '1' }, { at: Number.NaN }, { at: 1, note: 'x' }].map(point)).toEqual([
    ' is no set of values',
    ' is no set of values',
    'at is missing',
    'at is no number',
    'at is no number',
    'note is no number',
  ])
  expect([{}, { zero: -3 }, { zero: null }].map(recordOf(isNumber))).toEqual([null, null, 'zero is no number'])
  const course = shapeOf({ course: listOf(point) })
  expect(course({ course: [{ at: 1 }, { at: null }] })).toBe('course[2].at is no number')
  expect(course({ course: 7 })).toBe('course is no list')
})
