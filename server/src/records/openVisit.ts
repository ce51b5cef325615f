import { type Progress, procedureOf, type RecordLine, reduceVisit, type VisitSnapshot } from '@frustum/core'
import { asc, eq } from 'drizzle-orm'
import type { Database } from '../database/open.ts'
import { visitEntries, visits } from '../database/schema.ts'
import type { LiveValues } from '../links/liveValues.ts'
import { notFound } from '../problem.ts'
import { type Installed, installedById } from '../sensors.ts'
import { readable } from './readable.ts'
import { setupOf } from './setup.ts'

type VisitRow = typeof visits.$inferSelect

/** A visit as read from disk, with all that its judgement needs. */
export interface OpenedVisit extends VisitSnapshot {
  row: VisitRow
  installed: Installed
  lines: readonly RecordLine[]
  /** What the record's lines make of it. */
  progress: Progress
  /** Ids of the actions that its lines came from: one that is sent twice is known by it. */
  actions: ReadonlySet<string>
  /** How many lines its record has. */
  revision: number
}

/**
 * @param at where its sensor is installed, when that is known already
 * @throws Problem 404; UnreadableRecord
 */
export async function openVisit(
  db: Database,
  live: LiveValues | null,
  id: string,
  now: number,
  at?: Installed,
): Promise<OpenedVisit> {
  const [row] = await db.select().from(visits).where(eq(visits.id, id))
  if (!row) throw notFound('visit')
  const installed = at ?? (await installedById(db, row.installationId))
  const setup = await setupOf(db, live, installed, row.settings, {
    startedAt: row.startedAt,
    now: row.closedAt?.getTime() ?? now,
  })
  const entries = await db
    .select()
    .from(visitEntries)
    .where(eq(visitEntries.visitId, id))
    .orderBy(asc(visitEntries.seq))
  const snapshot = { procedure: procedureOf(row.procedure), setup, startedAt: row.startedAt.getTime() }
  return withLines(
    { ...snapshot, row, installed, actions: new Set(entries.flatMap((e) => e.actionId ?? [])) },
    entries.map((e) => ({ at: e.at.getTime(), entry: readable(e) })),
  )
}

/** The same visit with these lines in its record. */
export const withLines = (
  visit: Omit<OpenedVisit, 'lines' | 'progress' | 'revision'>,
  lines: readonly RecordLine[],
): OpenedVisit => ({
  ...visit,
  lines,
  progress: reduceVisit(visit.procedure, visit.setup, visit.startedAt, lines),
  revision: lines.length,
})
