import type { WaitView } from '@frustum/contract'
import { isNull } from 'drizzle-orm'
import type { Database } from '../database/open.ts'
import { visits } from '../database/schema.ts'
import { openVisit } from '../visits/records.ts'

/** What takes its time just now: floating, drying, soaking. A wait that serves a whole trip stands here once. */
export async function runningWaits(db: Database): Promise<WaitView[]> {
  const rows = await db.select().from(visits).where(isNull(visits.closedAt))
  const waits: WaitView[] = []
  for (const row of rows) {
    const { progress, installed } = await openVisit(db, null, row.id)
    const { current, waiting } = progress
    if (!current || !waiting) continue
    waits.push({
      visit: row.id,
      position: installed.position.code,
      trip: row.tripId,
      what: current.short,
      since: waiting.since,
      until: waiting.since + waiting.minutes * 60_000,
    })
  }
  return waits.sort((a, b) => a.until - b.until)
}
