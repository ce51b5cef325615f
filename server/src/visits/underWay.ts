import type { Progress, Step } from '@frustum/core'
import { count, eq, isNull } from 'drizzle-orm'
import type { Database } from '../database/open.ts'
import { visitEntries, visits } from '../database/schema.ts'
import { openVisit } from '../records/openVisit.ts'

/** An open visit and where it stands. */
export interface VisitUnderWay {
  row: typeof visits.$inferSelect
  position: string
  current: Step | null
  waiting: Progress['waiting']
}

type Standing = Omit<VisitUnderWay, 'row'> & { lines: number }

/** Where open visits stood when their records had so many lines: every browser asks for it several times a minute. */
const known = new WeakMap<Database, Map<string, Standing>>()

/** All open visits with the step at which they stand; a record is replayed only when it has grown. */
export async function visitsUnderWay(db: Database, now: number): Promise<VisitUnderWay[]> {
  const rows = await db
    .select({ row: visits, lines: count(visitEntries.id) })
    .from(visits)
    .leftJoin(visitEntries, eq(visitEntries.visitId, visits.id))
    .where(isNull(visits.closedAt))
    .groupBy(visits.id)
  const before = known.get(db)
  const standings = new Map<string, Standing>()
  for (const { row, lines } of rows) {
    const last = before?.get(row.id)
    standings.set(row.id, last?.lines === lines ? last : await standingOf(db, row.id, lines, now))
  }
  known.set(db, standings)
  return rows.map(({ row }) => {
    const { lines, ...standing } = standings.get(row.id) as Standing
    return { row, ...standing }
  })
}

async function standingOf(db: Database, id: string, lines: number, now: number): Promise<Standing> {
  const { installed, progress } = await openVisit(db, null, id, now)
  return { lines, position: installed.position.code, current: progress.current, waiting: progress.waiting }
}
