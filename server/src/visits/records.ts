import type { PhCharacteristic } from '@frustum/core'
import { asc, eq } from 'drizzle-orm'
import type { Database, Transaction } from '../database/open.ts'
import { visitEntries, visits } from '../database/schema.ts'
import { notFound } from '../problem.ts'
import { calibrationInForce, type Installed, installedById, lastFound } from '../sensors.ts'
import { foldVisit, type VisitProgress } from './fold.ts'

export type VisitRow = typeof visits.$inferSelect

/** A visit as read from disk, with all that its judgement needs. */
export interface OpenedVisit {
  row: VisitRow
  installed: Installed
  progress: VisitProgress
  inForce: PhCharacteristic
  previous: Awaited<ReturnType<typeof lastFound>>
}

/** The lines of a visit's record, in order. */
export async function visitLines(db: Database | Transaction, id: string) {
  const rows = await db.select().from(visitEntries).where(eq(visitEntries.visitId, id)).orderBy(asc(visitEntries.seq))
  return rows.map((r) => ({ at: r.at.getTime(), entry: r.entry }))
}

/** @throws Problem 404 */
export async function openVisit(db: Database, id: string): Promise<OpenedVisit> {
  const [row] = await db.select().from(visits).where(eq(visits.id, id))
  if (!row) throw notFound('visit')
  const installed = await installedById(db, row.installationId)
  const progress = foldVisit(row.kind, await visitLines(db, id))
  // Errors as found are against the calibration that was in force when the visit began, not the one that it makes.
  const inForce = await calibrationInForce(db, row.installationId, row.startedAt)
  return { row, installed, progress, inForce, previous: await lastFound(db, row.installationId, row.startedAt) }
}
