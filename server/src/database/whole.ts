import { readdirSync, readFileSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { StartProblem } from '../problem.ts'
import type { Engine } from './engine/engine.ts'
import { MIGRATIONS } from './template.ts'

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
 * @throws StartProblem where a part is missing, as in a copy that was cut short
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
}

/** Looks for the file of each table and index. @throws StartProblem where one is missing or cut short */
export async function checkTables(engine: Engine, path: string): Promise<void> {
  const { rows } = await engine.query<{ file: string }>(
    "select pg_relation_filepath(oid) as file from pg_class where relkind in ('r', 'i', 't', 'm', 'S')",
  )
  const whole = (file: string) => {
    const known = statSync(join(path, file), { throwIfNoEntry: false })
    return known !== undefined && known.size % PAGE === 0
  }
  const missing = rows.map(({ file }) => file).filter((file) => !whole(file))
  if (missing.length > 0) throw notWhole(path, missing)
}

/** @throws StartProblem when a newer version of Frustum has changed the tables already */
export async function checkVersion(engine: Engine, path: string): Promise<void> {
  const { rows } = await engine.query<{ known: string | null }>(
    "select to_regclass('drizzle.__drizzle_migrations')::text as known",
  )
  if (!rows[0]?.known) return
  const { rows: made } = await engine.query<{ last: string | null }>(
    'select max(created_at) as last from drizzle.__drizzle_migrations',
  )
  const journal = JSON.parse(readFileSync(join(MIGRATIONS, 'meta', '_journal.json'), 'utf8')) as {
    entries: readonly { when: number }[]
  }
  if (Number(made[0]?.last ?? 0) > (journal.entries.at(-1)?.when ?? 0)) {
    throw new StartProblem(
      `The database in ${path} was written by a newer version of Frustum than this one. Nothing was changed. Start that version, or set FRUSTUM_DATA to another folder.`,
    )
  }
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
