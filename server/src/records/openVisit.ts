import {
  type AuthoredLine,
  knowStandardsOf,
  type Progress,
  procedureOf,
  reduceVisit,
  type VisitBasis,
} from '@frustum/core'
import { asc, eq } from 'drizzle-orm'
import type { Database, Transaction } from '../database/open.ts'
import type { StoredSnapshot } from '../database/recordColumns.ts'
import { visitEntries, visits } from '../database/schema.ts'
import { notFound } from '../problem.ts'
import { type Installed, installedById } from '../sensors.ts'
import { readable } from './readable.ts'
import { standardsOfRecord } from './setup.ts'
import { takeSnapshot } from './snapshot.ts'

type VisitRow = typeof visits.$inferSelect

/** A visit as read from disk, with all that its judgement needs. */
export interface OpenedVisit extends VisitBasis {
  row: VisitRow
  /** The sensor as it is now: what the visit is judged with is in its snapshot. */
  installed: Installed
  snapshot: StoredSnapshot
  lines: readonly AuthoredLine[]
  /** What the record's lines make of it. */
  progress: Progress
  /** Fingerprints of the requests that its lines came from, by action id: one that is sent twice is known by it. */
  actions: ReadonlyMap<string, string | null>
  /** How many lines its record has. */
  revision: number
}

/**
 * @param at where its sensor is installed, when that is known already
 * @throws Problem 404; UnreadableRecord
 */
export async function openVisit(db: Database | Transaction, id: string, at?: Installed): Promise<OpenedVisit> {
  const [row] = await db.select().from(visits).where(eq(visits.id, id))
  if (!row) throw notFound('visit')
  const installed = at ?? (await installedById(db, row.installationId))
  const procedure = procedureOf(row.procedure)
  const { settings, startedAt } = row
  const entries = await db
    .select({
      seq: visitEntries.seq,
      at: visitEntries.at,
      operator: visitEntries.operator,
      entry: visitEntries.entry,
      actionId: visitEntries.actionId,
      fingerprint: visitEntries.fingerprint,
    })
    .from(visitEntries)
    .where(eq(visitEntries.visitId, id))
    .orderBy(asc(visitEntries.seq))
  const lines = entries.map((e) => ({ at: e.at.getTime(), operator: e.operator, entry: readable(e) }))
  const snapshot =
    row.snapshot ??
    (await takeSnapshot(
      db,
      { installed, procedure, settings },
      { startedAt, live: null, standards: await standardsOfRecord(db, settings.standards, lines), known: 'later' },
    ))
  knowStandardsOf(snapshot.setup)
  const visit = { procedure, setup: snapshot.setup, startedAt: startedAt.getTime() }
  const actions = new Map(entries.flatMap((e) => (e.actionId ? [[e.actionId, e.fingerprint] as const] : [])))
  return withLines({ ...visit, row, installed, snapshot, actions }, lines)
}

/** The same visit with these lines in its record. */
export const withLines = (
  visit: Omit<OpenedVisit, 'lines' | 'progress' | 'revision'>,
  lines: OpenedVisit['lines'],
): OpenedVisit => ({
  ...visit,
  lines,
  progress: reduceVisit(visit.procedure, visit.setup, visit.startedAt, lines),
  revision: lines.length,
})
