import type { Database } from '@frustum/server/extending'
import { getTableColumns, getTableName } from 'drizzle-orm'
import type { PgTable } from 'drizzle-orm/pg-core'
import Papa from 'papaparse'

/** How a missing value stands in the text. */
const NULL = '\\N'

/** Writes many rows of one table with a single COPY: ten times as fast as inserts. All rows have the same columns. */
export async function copyRows<T extends PgTable>(
  db: Database,
  table: T,
  rows: readonly T['$inferInsert'][],
): Promise<void> {
  const [first] = rows
  if (!first) return
  const columns = Object.entries(getTableColumns(table)).filter(([key]) => key in first)
  const text = Papa.unparse(
    rows.map((row) =>
      columns.map(([key, column]) => {
        const value = (row as Record<string, unknown>)[key]
        return value === null || value === undefined ? NULL : column.mapToDriverValue(value)
      }),
    ),
  )
  const names = columns.map(([, column]) => `"${column.name}"`).join(', ')
  await db.$client.query(
    `copy "${getTableName(table)}" (${names}) from '/dev/blob' with (format csv, null '${NULL}')`,
    [],
    { blob: new Blob([text]) },
  )
}
