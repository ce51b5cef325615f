import { createHash } from 'node:crypto'
import fs, { cpSync, mkdtempSync, readdirSync, readFileSync, rmSync, truncateSync, writeFileSync } from 'node:fs'
import { syncBuiltinESMExports } from 'node:module'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { sql } from 'drizzle-orm'
import { afterAll, beforeAll, expect, it, vi } from 'vitest'
import { StartProblem } from '../problem.ts'
import { OLDEST_MIGRATION } from './migrations.ts'
import { openDatabaseIn } from './open.ts'

const work = mkdtempSync(join(tmpdir(), 'frustum-whole-'))
const sound = join(work, 'sound')
let tableFile = ''
beforeAll(async () => {
  const { db, close } = await openDatabaseIn(sound)
  const { rows } = await db.execute<{ file: string }>(sql`select pg_relation_filepath('visits') as file`)
  tableFile = rows[0]?.file as string
  await close()
})
afterAll(() => rmSync(work, { recursive: true }))

let copies = 0
function damaged(how: (database: string) => void): string {
  const folder = join(work, `copy-${++copies}`)
  cpSync(sound, folder, { recursive: true })
  how(join(folder, 'database'))
  return folder
}

function contents(folder: string): string {
  const hash = createHash('sha256')
  for (const entry of readdirSync(folder, { recursive: true, withFileTypes: true })) {
    hash.update(join(entry.parentPath, entry.name))
    if (entry.isFile()) hash.update(readFileSync(join(entry.parentPath, entry.name)))
  }
  return hash.digest('hex')
}

async function refusal(folder: string): Promise<string> {
  const error = await openDatabaseIn(folder).then(
    ({ close }) => close(),
    (e) => e,
  )
  expect(error).toBeInstanceOf(StartProblem)
  expect(error.message).not.toContain('\n')
  return error.message
}

it.each([['PG_VERSION'], ['global/pg_control'], ['pg_notify'], ['base/5'], ['pg_wal']])(
  'a folder that was copied without %s is refused before anything opens it, and is not touched',
  async (name) => {
    const folder = damaged((database) => rmSync(join(database, name), { recursive: true }))
    const before = contents(folder)
    expect(await refusal(folder)).toContain(`is not whole. Missing or cut short: ${name}`)
    expect(contents(folder)).toBe(before)
  },
)

it('an empty folder where the database should be is no new site', async () => {
  const folder = damaged((database) => {
    rmSync(database, { recursive: true })
    cpSync(join(sound, 'database', 'base', '1'), join(database, 'base', '1'), { recursive: true })
  })
  expect(await refusal(folder)).toContain('and 20 more')
})

it('a table whose file is missing or cut short is named, a missing one before anything is changed', async () => {
  const gone = damaged((database) => rmSync(join(database, tableFile)))
  const before = contents(gone)
  expect(await refusal(gone)).toContain(`Missing or cut short: ${tableFile}.`)
  expect(contents(gone)).toBe(before)
  // A folder of a version that kept no inventory, or one that was lost.
  rmSync(join(gone, 'database', 'frustum.json'))
  expect(await refusal(gone)).toContain(`Missing or cut short: ${tableFile}.`)
  const short = damaged((database) => {
    writeFileSync(join(database, tableFile), Buffer.alloc(8192))
    truncateSync(join(database, tableFile), 5000)
  })
  const cut = contents(short)
  expect(await refusal(short)).toContain(`Missing or cut short: ${tableFile}.`)
  expect(contents(short)).toBe(cut)
})

it('what the engine cannot read is said with its reason', async () => {
  const folder = damaged((database) => writeFileSync(join(database, 'global', 'pg_control'), Buffer.alloc(8192, 90)))
  const before = contents(folder)
  expect(await refusal(folder)).toMatch(/cannot be opened \(.+\)\. Nothing was changed\. Put the whole folder back/)
  expect(contents(folder)).toBe(before)
})

it('a database that a newer version has changed is left to that version', async () => {
  const folder = damaged(() => undefined)
  const { db, close } = await openDatabaseIn(folder)
  await db.execute(
    sql`insert into drizzle.__drizzle_migrations (hash, created_at) values ('of tomorrow', ${Date.UTC(2099, 0, 1)})`,
  )
  await close()
  expect(await refusal(folder)).toContain('was written by a newer version of Frustum than this one')
  // That version notes it in the folder, too, and this one then leaves every byte as it is.
  const inventory = join(folder, 'database', 'frustum.json')
  const { files } = JSON.parse(readFileSync(inventory, 'utf8'))
  writeFileSync(inventory, JSON.stringify({ migration: Date.UTC(2099, 0, 1), files }))
  const before = contents(folder)
  expect(await refusal(folder)).toContain('was written by a newer version of Frustum than this one')
  expect(contents(folder)).toBe(before)
})

it('a database between the oldest schema and the baseline is left as it is', async () => {
  const folder = damaged(() => undefined)
  const { db, close } = await openDatabaseIn(folder)
  await db.execute(sql`update drizzle.__drizzle_migrations set created_at = ${OLDEST_MIGRATION + 1}`)
  await close()
  const message = await refusal(folder)
  expect(message).toContain("written by a test version of Frustum that this one can't upgrade. Nothing was changed.")
})

it('a full disk is said as such, and a copy that did not fit leaves nothing behind', async () => {
  const full = (() => {
    throw Object.assign(new Error('no space left on device'), { code: 'ENOSPC' })
  }) as never
  const folder = join(work, 'full')
  const lock = vi.spyOn(fs, 'writeSync').mockImplementationOnce(full)
  syncBuiltinESMExports()
  expect(await refusal(folder)).toContain(`There is no room on the disk of the data folder ${folder}.`)
  lock.mockRestore()
  rmSync(join(folder, 'owner.lock'), { force: true })
  const rename = vi.spyOn(fs, 'renameSync').mockImplementationOnce(full)
  syncBuiltinESMExports()
  expect(await refusal(folder)).toContain('could not be made')
  rename.mockRestore()
  syncBuiltinESMExports()
  expect(readdirSync(folder)).toEqual([])
})

it.each([['global/pg_control'], ['PG_VERSION'], ['base/5/pg_filenode.map']])(
  'an empty %s is refused before anything opens it, and no byte is changed',
  async (name) => {
    const folder = damaged((database) => truncateSync(join(database, name), 0))
    const before = contents(folder)
    expect(await refusal(folder)).toContain(`is not whole. Missing or cut short: ${name}`)
    expect(contents(folder)).toBe(before)
  },
)
