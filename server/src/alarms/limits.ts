import { type AlarmLimits, limitsProblem, modelOf } from '@frustum/core'
import { eq } from 'drizzle-orm'
import { type Author, noteDone } from '../changes/changes.ts'
import type { Database } from '../database/open.ts'
import { positions } from '../database/schema.ts'
import { Problem } from '../problem.ts'
import { installedAt } from '../sensors.ts'

/** Between which values a position should be from now on. @throws Problem that names what is wrong */
export async function setLimits(
  db: Database,
  code: string,
  limits: AlarmLimits | null,
  author: Author,
): Promise<AlarmLimits | null> {
  const { position, device } = await installedAt(db, code)
  const model = modelOf(position.kind)
  const problem = limits && limitsProblem(limits, model.shownRange(device.setting))
  if (problem)
    throw new Problem(400, 'invalid', problem, { detail: 'Nothing was changed.', fields: { limits: problem } })
  await db.transaction(async (tx) => {
    await tx.update(positions).set({ limits }).where(eq(positions.id, position.id))
    await noteDone(tx, { subject: 'position', id: position.id }, author, limitsText(limits))
  })
  return limits
}

function limitsText(limits: AlarmLimits | null): string {
  if (!limits) return 'Alarm limits taken away'
  const { lowLow, low, high, highHigh, perHour, apart } = limits
  const more = [perHour && `change in an hour ${perHour}`, apart && `from its twin ${apart}`].filter(Boolean)
  return [`Alarm limits: ${[lowLow, low, high, highHigh].map((v) => v ?? 'none').join(', ')}`, ...more].join('; ')
}
