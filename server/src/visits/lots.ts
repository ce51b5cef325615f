import type { CapturedReading } from '@frustum/contract'
import { DAY_MS } from '@frustum/core'
import { eq } from 'drizzle-orm'
import type { Database } from '../database/open.ts'
import { solutionLots } from '../database/schema.ts'

type LotRow = typeof solutionLots.$inferSelect

export interface LotInUse {
  row: LotRow
  expired: boolean
  openTooLong: boolean
  daysOver: number
}

/** The lot to pour from: one that still keeps before one that does not, open before closed, soonest end first. */
export async function lotFor(db: Database, standard: string, now: number): Promise<LotInUse | null> {
  const rows = await db.select().from(solutionLots).where(eq(solutionLots.standard, standard))
  const states = rows.map((row) => lotState(row, now))
  states.sort((a, b) => {
    const bad = (s: LotInUse) => (s.expired || s.openTooLong ? 1 : 0)
    const closed = (s: LotInUse) => (s.row.openedOn ? 0 : 1)
    return bad(a) - bad(b) || closed(a) - closed(b) || a.row.expiresOn.getTime() - b.row.expiresOn.getTime()
  })
  return states[0] ?? null
}

function lotState(row: LotRow, now: number): LotInUse {
  const pastExpiry = Math.floor((now - row.expiresOn.getTime()) / DAY_MS)
  const openDays = row.openedOn ? Math.floor((now - row.openedOn.getTime()) / DAY_MS) - row.lifeAfterOpeningDays : -1
  const expired = pastExpiry >= 1
  const openTooLong = !expired && openDays >= 1
  return { row, expired, openTooLong, daysOver: expired ? pastExpiry : Math.max(0, openDays) }
}

/** A standard as it goes into a captured reading; its value is filled in at the measured temperature. */
export function standardOf(code: string, lot: LotInUse | null): NonNullable<CapturedReading['standard']> {
  return {
    code,
    value: Number.NaN,
    lot: lot?.row.lot ?? null,
    expired: lot?.expired ?? false,
    openTooLong: lot?.openTooLong ?? false,
    daysOver: lot?.daysOver ?? 0,
  }
}
