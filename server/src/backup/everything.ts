import { getTableColumns, getTableName, sql } from 'drizzle-orm'
import { getTableConfig, type PgTable } from 'drizzle-orm/pg-core'
import type { Database } from '../database/open.ts'
import * as schema from '../database/schema.ts'
import { PROGRAM_VERSION } from '../version.ts'

/** What proves who somebody is, what was only asked and answered, and what is learned again: in no file but a backup. */
const LEFT_OUT: ReadonlySet<PgTable> = new Set<PgTable>([
  schema.credentials,
  schema.sessions,
  schema.actions,
  schema.connectionSecrets,
  schema.ingestTokens,
  schema.tellingSecrets,
  schema.learnedDays,
])
/** Columns that open something to whoever knows them. */
const SECRET = new Set(['calendar_token', 'passphrase'])

/** Many services take whoever knows a webhook's whole address for its owner: only its host leaves the site. */
const withoutUrlSecrets = (row: Record<string, unknown>): Record<string, unknown> =>
  row.by === 'webhook' && typeof row.address === 'string' && URL.canParse(row.address)
    ? { ...row, address: new URL(row.address).origin }
    : row

const ROWS_AT_ONCE = 500

/**
 * Everything that a site holds but its secrets, as JSON in parts: for whoever wants to read it with other programs. It is
 * of one moment only while nothing is written meanwhile; a backup is of one in any case.
 */
export async function* everything(db: Database, at: Date): AsyncGenerator<string> {
  const head = { format: 'frustum-everything', version: 1, program: PROGRAM_VERSION, exportedAt: at.toISOString() }
  yield `${JSON.stringify(head).slice(0, -1)},"tables":{`
  const tables = (Object.values(schema) as PgTable[]).filter((table) => !LEFT_OUT.has(table))
  for (const [i, table] of tables.entries()) {
    yield `${i > 0 ? ',' : ''}\n${JSON.stringify(getTableName(table))}:[`
    let before = '\n'
    for await (const rows of rowsOf(db, table)) {
      if (rows.length === 0) continue
      yield before + rows.map((row) => JSON.stringify(row)).join(',\n')
      before = ',\n'
    }
    yield ']'
  }
  yield '}}\n'
}

/** The rows of a table by its primary key, some at a time. */
async function* rowsOf(db: Database, table: PgTable): AsyncGenerator<Record<string, unknown>[]> {
  const [composite] = getTableConfig(table).primaryKeys
  const key = composite?.columns ?? Object.values(getTableColumns(table)).filter((column) => column.primary)
  const secret = getTableConfig(table)
    .columns.map((column) => column.name)
    .filter((name) => SECRET.has(name))
  const order = sql.join(key, sql`, `)
  for (let offset = 0; ; offset += ROWS_AT_ONCE) {
    const { rows } = await db.execute<{ row: Record<string, unknown> }>(
      sql`select to_jsonb(t) as row from (select * from ${table} order by ${order} limit ${ROWS_AT_ONCE} offset ${offset}) t`,
    )
    yield rows.map(({ row }) =>
      withoutUrlSecrets(Object.fromEntries(Object.entries(row).filter(([name]) => !secret.includes(name)))),
    )
    if (rows.length < ROWS_AT_ONCE) return
  }
}
