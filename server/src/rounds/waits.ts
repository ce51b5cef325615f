import type { WaitView } from '@frustum/contract'
import type { Database } from '../database/open.ts'
import { visitsUnderWay } from '../visits/underWay.ts'

/** What takes its time just now: floating, drying, soaking. A wait that serves a whole trip stands here once. */
export async function runningWaits(db: Database): Promise<WaitView[]> {
  const waits = (await visitsUnderWay(db)).flatMap(({ row, position, current, waiting }): WaitView[] =>
    current && waiting
      ? [
          {
            visit: row.id,
            position,
            trip: row.tripId,
            what: current.short,
            since: waiting.since,
            until: waiting.since + waiting.minutes * 60_000,
          },
        ]
      : [],
  )
  return waits.sort((a, b) => a.until - b.until)
}
