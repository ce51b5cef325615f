import type { BringView, ImportReport, TakenFile } from '@frustum/contract'
import { desc, eq, isNotNull } from 'drizzle-orm'
import Papa from 'papaparse'
import type { Database } from '../database/open.ts'
import { imports } from '../database/schema.ts'
import { notFound } from '../problem.ts'

/** Files that were taken in, each with what became of it: kept for who asks later. */

type Import = typeof imports.$inferSelect
type Rows = BringView['rows']

const MOST_LISTED = 100

export async function takenFiles(db: Database): Promise<TakenFile[]> {
  const rows = await db
    .select()
    .from(imports)
    .where(isNotNull(imports.doneAt))
    .orderBy(desc(imports.id))
    .limit(MOST_LISTED)
  return rows.map((row) => ({
    id: row.id,
    at: row.at.getTime(),
    operator: row.operator,
    what: row.what,
    fileName: row.fileName,
    sha256: row.sha256,
    counts: countsOf(row),
  }))
}

/** What became of it as a table, its first row being the heading. @throws Problem 404 */
export async function reportOf(db: Database, id: string): Promise<string> {
  const [row] = /^\d{1,9}$/.test(id)
    ? await db
        .select()
        .from(imports)
        .where(eq(imports.id, Number(id)))
    : []
  if (!row || row.doneAt === null) throw notFound('report')
  const end = [{ row: '', code: '', state: 'SHA-256 of the file', what: row.sha256 }]
  return Papa.unparse([...linesOf(row), ...end], { escapeFormulae: true })
}

/** Of a log only the first rows that could not be read are kept: it may have a million. */
export interface LogReport {
  taken: number
  known: number
  wrong: number
  rows: { number: number; why: string }[]
}

function countsOf(row: Import): Record<string, number> {
  if (row.what === 'records') {
    const { added, known, refused } = row.report as ImportReport
    return { 'taken in': added, 'known already': known, refused: refused.length }
  }
  if (row.what === 'set-up') return row.report as Record<string, number>
  if (row.what === 'log') {
    const { taken, known, wrong } = row.report as LogReport
    return { 'taken in': taken, 'known already': known, 'left out': wrong }
  }
  const of = (state: Rows[number]['state']) => (row.report as Rows).filter((r) => r.state === state).length
  return { 'taken in': of('new'), 'known already': of('known'), 'left out': of('wrong') }
}

function linesOf(row: Import): object[] {
  switch (row.what) {
    case 'records':
      return (row.report as ImportReport).refused.map(({ visit, why }) => ({
        row: '',
        code: visit,
        state: 'refused',
        what: why,
      }))
    case 'set-up':
      return Object.entries(row.report as Record<string, number>).map(([part, count]) => ({
        row: '',
        code: part,
        state: 'taken in',
        what: count,
      }))
    case 'log':
      return (row.report as LogReport).rows.map(({ number, why }) => ({
        row: number,
        code: '',
        state: 'left out',
        what: why,
      }))
    default:
      return (row.report as Rows).map(({ number, code, state, what, wrong }) => ({
        row: number,
        code,
        state: state === 'wrong' ? 'left out' : state,
        what: what || Object.values(wrong).join(' '),
      }))
  }
}
