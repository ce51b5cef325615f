import type { Progress, Step } from '@frustum/core'
import { count, eq, isNull } from 'drizzle-orm'
import { derived } from '../database/derived.ts'
import type { Database } from '../database/open.ts'
import { visitEntries, visits } from '../database/schema.ts'
import { openVisit } from '../records/openVisit.ts'
import { orIfUnreadable } from '../records/readable.ts'
import { installedById } from '../sensors.ts'

/** An open visit and where it stands. */
export interface VisitUnderWay {
  row: typeof visits.$inferSelect
  position: string
  current: Step | null
  waiting: Progress['waiting']
}

/** All open visits with the step at which they stand; a record is replayed only when it has grown. */
export const visitsUnderWay = (db: Database): Promise<VisitUnderWay[]> =>
  derived(db, 'visits under way', [db.$client.writes], () => readUnderWay(db))

async function readUnderWay(db: Database): Promise<VisitUnderWay[]> {
  const rows = await db
    .select({ row: visits, lines: count(visitEntries.id) })
    .from(visits)
    .leftJoin(visitEntries, eq(visitEntries.visitId, visits.id))
    .where(isNull(visits.closedAt))
    .groupBy(visits.id)
  return Promise.all(
    rows.map(async ({ row, lines }) => {
      const standing = await derived(db, `standing of ${row.id}`, [lines], () => standingOf(db, row))
      return { row, ...standing }
    }),
  )
}

async function standingOf(db: Database, row: VisitUnderWay['row']): Promise<Omit<VisitUnderWay, 'row'>> {
  const installed = await installedById(db, row.installationId)
  const opened = await orIfUnreadable(openVisit(db, row.id, installed), null)
  const { current = null, waiting = null } = opened?.progress ?? {}
  return { position: installed.position.code, current, waiting }
}
