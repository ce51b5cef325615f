import type { HourMeterBody } from '@frustum/contract'
import { desc, eq } from 'drizzle-orm'
import type { Database } from '../database/open.ts'
import { hoursRun } from '../database/schema.ts'
import { Problem } from '../problem.ts'
import { installedAt } from '../sensors.ts'

const SHOWN = 6

/** The newest readings of the hour meter at a position. */
export async function hourMeter(db: Database, positionId: number): Promise<{ at: number; hours: number }[]> {
  const rows = await db
    .select()
    .from(hoursRun)
    .where(eq(hoursRun.positionId, positionId))
    .orderBy(desc(hoursRun.at))
    .limit(SHOWN)
  return rows.map((r) => ({ at: r.at.getTime(), hours: r.hours }))
}

/**
 * Keeps a reading of the hour meter.
 * @throws Problem when it shows less than before and nobody said that the meter was changed
 */
export async function readHourMeter(db: Database, code: string, body: HourMeterBody, now: Date): Promise<void> {
  const { position } = await installedAt(db, code)
  const [last] = await hourMeter(db, position.id)
  const least = last?.hours ?? 0
  if (body.hours < least && !body.newMeter) {
    throw new Problem(409, 'meter-runs-backwards', `The meter showed ${least} h last time.`, {
      hint: 'Correct the number, or say that the meter was changed.',
      fields: { hours: `Below the ${least} h of last time.` },
    })
  }
  await db.insert(hoursRun).values({ positionId: position.id, at: now, operator: body.operator, hours: body.hours })
}
