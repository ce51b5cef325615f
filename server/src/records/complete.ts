import { observationOf, procedureOf, reduceVisit, resultAt } from '@frustum/core'
import { and, asc, eq, isNotNull, isNull, or } from 'drizzle-orm'
import type { Database, Transaction } from '../database/open.ts'
import { driftObservations, visitEntries, visits } from '../database/schema.ts'
import { installedById } from '../sensors.ts'
import { storedAssessment } from './assessment.ts'
import { recordFrom } from './closing.ts'
import { type OpenedVisit, openVisit } from './openVisit.ts'
import { UnreadableRecord } from './readable.ts'
import { standardsOfRecord } from './setup.ts'
import { takeSnapshot } from './snapshot.ts'

/**
 * Gives records of before these were kept what they lack: what they were judged with, what was said, and what they say
 * since they are closed. All of it is the best that is known now, and marked so; it never changes again. Oldest first:
 * each rests on those before it.
 */
export async function completeRecords(db: Database | Transaction): Promise<void> {
  const lacking = await db
    .select({ id: visits.id })
    .from(visits)
    .where(or(isNull(visits.snapshot), and(isNotNull(visits.closedAt), isNull(visits.record))))
    .orderBy(asc(visits.startedAt))
  for (const { id } of lacking) {
    // A record that cannot be read, or judged, keeps its gap: it must take nothing else down, least of all the start.
    try {
      await complete(db, await openVisit(db, id))
    } catch (error) {
      if (!(error instanceof UnreadableRecord || error instanceof RangeError)) throw error
      await keepSnapshot(db, id)
    }
  }
}

/** What such a visit was judged with, as far as that is known without its lines: without it no export would have it. */
async function keepSnapshot(db: Database | Transaction, id: string): Promise<void> {
  const [row] = await db.select().from(visits).where(eq(visits.id, id))
  if (!row || row.snapshot) return
  const { settings, startedAt } = row
  const snapshot = await takeSnapshot(
    db,
    { installed: await installedById(db, row.installationId), procedure: procedureOf(row.procedure), settings },
    { startedAt, live: null, standards: await standardsOfRecord(db, settings.standards, []), known: 'later' },
  )
  await db.update(visits).set({ snapshot }).where(eq(visits.id, id))
}

async function complete(db: Database | Transaction, opened: OpenedVisit): Promise<void> {
  const { row, snapshot } = opened
  if (row.closedAt) {
    await completeAssessments(db, opened)
    const observed = observationOf(opened.procedure, opened.progress.evidence)
    if (observed && !observed.verified) {
      await db.update(driftObservations).set({ verified: false }).where(eq(driftObservations.visitId, row.id))
    }
  }
  const record = row.closedAt ? (row.record ?? (await recordFrom(db, opened))) : null
  await db.update(visits).set({ snapshot, record }).where(eq(visits.id, row.id))
}

/** What is said of each decision, from the lines before it. */
async function completeAssessments(db: Database | Transaction, opened: OpenedVisit): Promise<void> {
  const { procedure, setup, startedAt, lines, snapshot, row } = opened
  for (const [i, { entry }] of lines.entries()) {
    if (entry.type !== 'decided') continue
    const before = reduceVisit(procedure, setup, startedAt, lines.slice(0, i))
    const judged = resultAt(procedure, before, entry.step)
    if (!judged) continue
    await db
      .update(visitEntries)
      .set({ assessment: storedAssessment(entry.step, judged, snapshot.known) })
      .where(and(eq(visitEntries.visitId, row.id), eq(visitEntries.seq, i + 1), isNull(visitEntries.assessment)))
  }
}
