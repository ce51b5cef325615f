import { addDays, type CalendarDay, daysBetween, type LotOnStep } from '@frustum/contract'
import type { LotFacts } from '@frustum/core'
import { and, eq, isNull, sql } from 'drizzle-orm'
import type { Database, Transaction } from '../database/open.ts'
import { solutionLots, solutionUses } from '../database/schema.ts'
import { type SiteCalendar, siteCalendar } from '../zone.ts'

type LotRow = typeof solutionLots.$inferSelect

export interface LotInUse extends LotFacts {
  row: LotRow
  /** mL by the book. */
  left: number
}

/** The lot to pour from: one that still keeps before one that does not, open before closed, soonest end first. */
export async function lotFor(db: Database | Transaction, standard: string, now: number): Promise<LotInUse | null> {
  return lotAmong(await lotsWithLeft(db, standard), await siteCalendar(db, now))
}

export function lotAmong(lots: readonly LotWithLeft[], calendar: SiteCalendar): LotInUse | null {
  const states = lots.map(({ lot, left }) => lotState(lot, left, calendar))
  states.sort((a, b) => {
    const bad = (s: LotInUse) => (s.expired || s.openTooLong || s.left <= 0 ? 1 : 0)
    const closed = (s: LotInUse) => (s.row.openedOn ? 0 : 1)
    return bad(a) - bad(b) || closed(a) - closed(b) || daysBetween(b.row.expiresOn, a.row.expiresOn)
  })
  return states[0] ?? null
}

export interface LotWithLeft {
  lot: LotRow
  /** mL by the book. */
  left: number
}

/** Lots that were not thrown away, of one standard or of all, with what is left of each. */
export async function lotsWithLeft(db: Database | Transaction, standard?: string): Promise<LotWithLeft[]> {
  const rows = await db
    .select({ lot: solutionLots, used: sql<number>`coalesce(sum(${solutionUses.milliliters}), 0)`.mapWith(Number) })
    .from(solutionLots)
    .leftJoin(solutionUses, eq(solutionUses.lotId, solutionLots.id))
    .where(and(isNull(solutionLots.discardedAt), standard ? eq(solutionLots.standard, standard) : undefined))
    .groupBy(solutionLots.id)
  return rows.map(({ lot, used }) => ({ lot, left: lot.volume - used }))
}

/** The last day on which an opened bottle is good; null of one that is closed. */
export const lastOpenDay = (row: LotRow, { dayOf }: SiteCalendar): CalendarDay | null =>
  row.openedOn && addDays(dayOf(row.openedOn.getTime()), row.lifeAfterOpeningDays)

export function lotState(row: LotRow, left: number, calendar: SiteCalendar): LotInUse {
  const pastExpiry = daysBetween(row.expiresOn, calendar.today)
  const ends = lastOpenDay(row, calendar)
  const openDays = ends ? daysBetween(ends, calendar.today) : -1
  const expired = pastExpiry >= 1
  const openTooLong = !expired && openDays >= 1
  return {
    row,
    left,
    lot: row.lot,
    expired,
    openTooLong,
    daysOver: expired ? pastExpiry : Math.max(0, openDays),
  }
}

/** A lot as a step shows it. */
export const lotOnStep = (found: LotInUse | null): LotOnStep | null =>
  found && {
    lot: found.lot,
    expired: found.expired,
    openTooLong: found.openTooLong,
    daysOver: found.daysOver,
    left: Math.round(found.left),
    storage: found.row.storage,
    closed: found.row.openedOn === null,
  }
