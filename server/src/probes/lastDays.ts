import type { LastDaysView } from '@frustum/contract'
import { DAY_MS } from '@frustum/core'
import type { Database } from '../database/open.ts'
import { rollUpsBetween } from '../readings/readingStore.ts'
import { installedSensors } from '../sensors.ts'

const HOUR_MS = 3_600_000

/** What each sensor read in the last day, an hour each, by position. */
export async function lastDays(db: Database, now: number): Promise<LastDaysView> {
  const installed = await installedSensors(db)
  const ids = installed.map((i) => i.installation.id)
  const rolled = await rollUpsBetween(db, ids, { from: now - DAY_MS + HOUR_MS, to: now, hours: 1 })
  return Object.fromEntries(
    installed.map(({ position, installation }) => [
      position.code,
      rolled.flatMap(({ installationId, at, rollUp: { min, max, mean } }) =>
        installationId === installation.id && min !== null && max !== null && mean !== null
          ? [{ at, low: min, mean, high: max }]
          : [],
      ),
    ]),
  )
}
