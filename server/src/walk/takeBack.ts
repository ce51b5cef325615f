import type { takeBackBody } from '@frustum/contract'
import type { InferType } from 'yup'
import { relearn } from '../alarms/learned.ts'
import type { SensorAlarms } from '../alarms/sensorAlarms.ts'
import type { Database } from '../database/open.ts'
import { takenBack } from '../database/schema.ts'
import { Problem } from '../problem.ts'
import { latestReading, takeOut } from '../readings/readingStore.ts'
import { installedAt } from '../sensors.ts'
import { AHEAD_MS } from './walk.ts'

/**
 * Takes a typed reading back: it stays where it was, with who says so and why, and counts no longer; nor does what stood
 * beside it. @throws Problem where there is no such reading, or it was taken back before
 */
export async function takeBack(
  { db, alarms }: { db: Database; alarms: SensorAlarms },
  code: string,
  { operator, readAt, reason }: InferType<typeof takeBackBody>,
  now: number,
): Promise<{ takenBack: true }> {
  const { installation, position } = await installedAt(db, code)
  await db.transaction(async (tx) => {
    const wasRead = readAt >= 0 && readAt <= now + AHEAD_MS
    if (!wasRead || !(await takeOut(tx, installation.id, readAt)))
      throw new Problem(409, 'not-there', 'No reading that was typed at that time counts here.', {
        detail: 'It may have been taken back already. Nothing was changed.',
        hint: 'Load the page anew.',
      })
    const row = { installationId: installation.id, readAt: new Date(readAt), at: new Date(now), operator, reason }
    await tx.insert(takenBack).values(row)
    await relearn(tx, installation.id)
  })
  const before = await latestReading(db, installation.id)
  // What it raised is judged anew by the one before it.
  if (readAt >= (before?.at ?? 0)) alarms.judgeAnew(position.id, before?.shown ?? null)
  return { takenBack: true }
}
