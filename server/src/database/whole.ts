import { readdirSync, readFileSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { StartProblem } from '../problem.ts'
import type { Engine } from './engine/engine.ts'
import { syncFolder } from './lasting.ts'
import { baselineMigration, newestMigration, OLDEST_MIGRATION } from './migrations.ts'

/** What every database of the engine has from the first day on; an empty folder is easily lost when copying. */
const ALWAYS_THERE = [
  'PG_VERSION',
  'base/1/PG_VERSION',
  'base/5/PG_VERSION',
  'base/5/pg_filenode.map',
  'global/pg_control',
  'global/pg_filenode.map',
  'pg_commit_ts',
  'pg_dynshmem',
  'pg_logical/mappings',
  'pg_logical/snapshots',
  'pg_multixact/members',
  'pg_multixact/offsets',
  'pg_notify',
  'pg_replslot',
  'pg_serial',
  'pg_snapshots',
  'pg_stat',
  'pg_stat_tmp',
  'pg_subtrans',
  'pg_tblspc',
  'pg_twophase',
  'pg_wal',
  'pg_xact',
  'postgresql.conf',
]

/** Bytes; a table's file consists of such pages. */
const PAGE = 8192
const MOST_NAMED = 3

const WHAT_TO_DO = 'Nothing was changed. Put the whole folder back from a copy, or set FRUSTUM_DATA to another folder.'

const notWhole = (path: string, missing: readonly string[]) => {
  const more = missing.length > MOST_NAMED ? ` and ${missing.length - MOST_NAMED} more` : ''
  return new StartProblem(
    `The database in ${path} is not whole. Missing or cut short: ${missing.slice(0, MOST_NAMED).join(', ')}${more}. ${WHAT_TO_DO}`,
  )
}

/**
 * Looks at a database's folder before anything opens it: the engine would take one without its first file for a new one.
 * @throws StartProblem where a part is missing, as in a copy that was cut short, or a newer version has changed it
 */
export function checkFolder(path: string): void {
  const missing = ALWAYS_THERE.filter((name) => {
    const known = statSync(join(path, name), { throwIfNoEntry: false })
    return !known || (known.isFile() && known.size < (name === 'global/pg_control' ? PAGE : 1))
  })
  if (missing.length === 0 && !readdirSync(join(path, 'pg_wal')).some((name) => /^[0-9A-F]{24}$/.test(name))) {
    missing.push('pg_wal/*')
  }
  if (missing.length > 0) throw notWhole(path, missing)
  const inventory = readInventory(path)
  if (!inventory) return
  if (inventory.migration > newestMigration()) throw isNewer(path)
  // After a power cut a file may end within a page: the engine completes it when it opens.
  const isAtRest = wasShutDown(path)
  const gone = inventory.files.filter((file) => {
    const known = statSync(join(path, file), { throwIfNoEntry: false })
    return !known || (isAtRest && known.size % PAGE !== 0)
  })
  if (gone.length > 0) throw notWhole(path, gone)
}

/** Whether the engine was shut down in order, by the state in PostgreSQL's control file (catalog/pg_control.h). */
function wasShutDown(path: string): boolean {
  const [STATE_AT, SHUT_DOWN] = [16, 1]
  return readFileSync(join(path, 'global', 'pg_control')).readUInt32LE(STATE_AT) === SHUT_DOWN
}

/** Looks for the file of each table and index. @throws StartProblem where one is missing or cut short */
export async function checkTables(engine: Engine, path: string): Promise<void> {
  const whole = (file: string) => {
    const known = statSync(join(path, file), { throwIfNoEntry: false })
    return known !== undefined && known.size % PAGE === 0
  }
  const missing = (await tableFiles(engine)).filter((file) => !whole(file))
  if (missing.length > 0) throw notWhole(path, missing)
}

async function tableFiles(engine: Engine): Promise<string[]> {
  const { rows } = await engine.query<{ file: string }>(
    "select pg_relation_filepath(oid) as file from pg_class where relkind in ('r', 'i', 't', 'm', 'S')",
  )
  return rows.map(({ file }) => file)
}

/**
 * Checks that this program can read the tables or upgrade them.
 * @returns the time of their last migration, epoch ms; 0 in a new database
 * @throws StartProblem where a newer version has changed the tables already, or the version is too old to upgrade
 */
export async function checkVersion(engine: Engine, path: string): Promise<number> {
  const { rows } = await engine.query<{ known: string | null }>(
    "select to_regclass('drizzle.__drizzle_migrations')::text as known",
  )
  if (!rows[0]?.known) return 0
  const { rows: made } = await engine.query<{ last: string | null }>(
    'select max(created_at) as last from drizzle.__drizzle_migrations',
  )
  const last = Number(made[0]?.last ?? 0)
  if (last > newestMigration()) throw isNewer(path)
  if (last > 0 && last !== OLDEST_MIGRATION && last < baselineMigration()) throw isTestVersion(path)
  return last
}

const isNewer = (path: string) =>
  new StartProblem(
    `The database in ${path} was written by a newer version of Frustum than this one. Nothing was changed. Start that version, or set FRUSTUM_DATA to another folder.`,
  )

const isTestVersion = (path: string) =>
  new StartProblem(
    `The database in ${path} was written by a test version of Frustum that this one can't upgrade. Nothing was changed. Start the last version from before 2 December 2026 once, then this one again.`,
  )

/** What a database's folder has to hold, stored in it as JSON, to be checked before the engine changes any file. */
interface Inventory {
  migration: number
  files: string[]
  /** Whether there was a lead with a password. */
  lead: boolean
}

const inventoryIn = (path: string) => join(path, 'frustum.json')

export function readInventory(path: string): Inventory | null {
  try {
    return JSON.parse(readFileSync(inventoryIn(path), 'utf8')) as Inventory
  } catch {
    return null
  }
}

/** Stores the inventory for `checkFolder` at the next start. If it can't be written, that start does without. */
export async function writeInventory(engine: Engine, path: string): Promise<void> {
  const inventory: Inventory = {
    migration: newestMigration(),
    files: (await tableFiles(engine)).sort(),
    lead: await hasLead(engine),
  }
  const text = JSON.stringify(inventory)
  if (JSON.stringify(readInventory(path)) === text) return
  const draft = `${inventoryIn(path)}.new`
  try {
    writeFileSync(draft, text, { flush: true })
    renameSync(draft, inventoryIn(path))
    await syncFolder(path)
  } catch {
    rmSync(draft, { force: true })
  }
}

/** Whether there is a lead with a password. As `leadsWithPassword`, for the time before the schema is loaded. */
export async function hasLead(engine: Engine): Promise<boolean> {
  const { rows } = await engine.query(
    `select 1 from operators o join credentials c on c.operator_id = o.id
     where o.role = 'lead' and o.archived_at is null and c.password is not null limit 1`,
  )
  return rows.length > 0
}

/** Deletes the inventory before the tables change: after a power cut it would name files that are gone. */
export async function dropInventory(path: string): Promise<void> {
  rmSync(inventoryIn(path), { force: true })
  await syncFolder(path)
}

const IS_FULL = /space|ENOSPC/i

/** What is said when the engine ends while it runs, most likely for want of room. */
export const hasEnded = (path: string, why: string): string =>
  `Frustum has ended: the database in ${path} cannot write any more (${why}). All that was recorded is kept. ${
    IS_FULL.test(why) ? 'Make room on the disk and start again.' : 'Look at the disk, then start again.'
  }`

/** What is said when the engine itself cannot open a database. */
export const cannotOpen = (path: string, why: string): StartProblem =>
  new StartProblem(
    `The database in ${path} cannot be opened${why ? ` (${why})` : ''}. ${
      IS_FULL.test(why) ? 'Make room on the disk and start again; nothing is lost.' : WHAT_TO_DO
    }`,
  )
