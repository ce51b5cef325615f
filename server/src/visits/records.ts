import { type Procedure, type Progress, procedureOf, type RecordLine, reduceVisit, type Setup } from '@frustum/core'
import { asc, eq } from 'drizzle-orm'
import type { Database, Transaction } from '../database/open.ts'
import { visitEntries, visits } from '../database/schema.ts'
import type { LiveValues } from '../links/liveValues.ts'
import { notFound } from '../problem.ts'
import { type Installed, installedById } from '../sensors.ts'
import { setupOf } from './setup.ts'

type VisitRow = typeof visits.$inferSelect

/** A visit as read from disk, with all that its judgement needs. */
export interface OpenedVisit {
  row: VisitRow
  installed: Installed
  procedure: Procedure
  setup: Setup
  progress: Progress
  /** How many lines its record has. */
  revision: number
}

/** The lines of a visit's record, in order. */
export async function visitLines(db: Database | Transaction, id: string): Promise<RecordLine[]> {
  const rows = await db.select().from(visitEntries).where(eq(visitEntries.visitId, id)).orderBy(asc(visitEntries.seq))
  return rows.map((r) => ({ at: r.at.getTime(), entry: r.entry }))
}

export const foldLines = (opened: Pick<OpenedVisit, 'procedure' | 'setup' | 'row'>, lines: readonly RecordLine[]) =>
  reduceVisit(opened.procedure, opened.setup, opened.row.startedAt.getTime(), lines)

/** @throws Problem 404 */
export async function openVisit(db: Database, live: LiveValues | null, id: string, now: number): Promise<OpenedVisit> {
  const [row] = await db.select().from(visits).where(eq(visits.id, id))
  if (!row) throw notFound('visit')
  const installed = await installedById(db, row.installationId)
  const procedure = procedureOf(row.procedure)
  const setup = await setupOf(db, live, installed, row.settings, {
    startedAt: row.startedAt,
    now: row.closedAt?.getTime() ?? now,
  })
  const opened = { row, installed, procedure, setup }
  const lines = await visitLines(db, id)
  return { ...opened, progress: foldLines(opened, lines), revision: lines.length }
}
