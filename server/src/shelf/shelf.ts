import { addDays, type CalendarDay, daysBetween, type LotBody, type LotView, type ShelfView } from '@frustum/contract'
import { DAY_MS, standardOf } from '@frustum/core'
import { asc, desc, eq } from 'drizzle-orm'
import type { Database } from '../database/open.ts'
import { installations, positions, solutionLots, solutionUses, visits } from '../database/schema.ts'
import { notFound, Problem } from '../problem.ts'
import { type SiteCalendar, siteCalendar } from '../zone.ts'
import { lastOpenDay, lotState } from './lots.ts'

/** A lot that ends within this many days, or holds fewer pourings than this, is ending. */
const ENDING_DAYS = 14
const ENDING_ML = 60
/** Days from ordering to having it (common practice, no source). */
const LEAD_DAYS = 10

/** All that stands on the shelf, and what must be bought by when. */
export async function shelf(db: Database, now: number): Promise<ShelfView> {
  const lots = await db.select().from(solutionLots).orderBy(asc(solutionLots.standard), asc(solutionLots.expiresOn))
  const uses = await db
    .select({ use: solutionUses, position: positions.code })
    .from(solutionUses)
    .leftJoin(visits, eq(solutionUses.visitId, visits.id))
    .leftJoin(installations, eq(visits.installationId, installations.id))
    .leftJoin(positions, eq(installations.positionId, positions.id))
    .orderBy(desc(solutionUses.at))
  const calendar = await siteCalendar(db, now)
  const views = lots.map((lot) =>
    lotView(
      lot,
      uses.filter((u) => u.use.lotId === lot.id),
      calendar,
    ),
  )
  return { lots: views, toBuy: toBuy(views, calendar.today, now) }
}

function lotView(
  lot: typeof solutionLots.$inferSelect,
  uses: { use: typeof solutionUses.$inferSelect; position: string | null }[],
  calendar: SiteCalendar,
): LotView {
  const used = uses.reduce((sum, u) => sum + u.use.milliliters, 0)
  const left = lot.volume - used
  const state = lotState(lot, left, calendar)
  const endsOpen = lastOpenDay(lot, calendar)
  const goodUntil = endsOpen && endsOpen < lot.expiresOn ? endsOpen : lot.expiresOn
  const standard = standardOf(lot.standard)
  return {
    id: lot.id,
    standard: lot.standard,
    label: standard.label,
    kind: standard.kind,
    lot: lot.lot,
    expiresOn: lot.expiresOn,
    openedOn: lot.openedOn?.getTime() ?? null,
    keepsDays: lot.lifeAfterOpeningDays,
    discardedAt: lot.discardedAt?.getTime() ?? null,
    volume: lot.volume,
    left,
    storage: lot.storage,
    ownTable: lot.ownTable ?? null,
    goodUntil,
    state: lot.discardedAt
      ? 'discarded'
      : state.expired
        ? 'expired'
        : state.openTooLong
          ? 'open too long'
          : left <= 0
            ? 'spent'
            : daysBetween(calendar.today, goodUntil) < ENDING_DAYS || left < ENDING_ML
              ? 'ending'
              : 'good',
    uses: uses.slice(0, 12).map(({ use, position }) => ({
      at: use.at.getTime(),
      milliliters: use.milliliters,
      position,
      reason: use.reason,
    })),
  }
}

/** A standard must be bought when its last good lot ends, by its date or at the pace at which it is used. */
function toBuy(lots: readonly LotView[], today: CalendarDay, now: number): ShelfView['toBuy'] {
  const standards = [...new Set(lots.map((l) => l.standard))]
  return standards
    .flatMap((standard) => {
      const own = lots.filter((l) => l.standard === standard)
      const good = own.filter((l) => l.state === 'good' || l.state === 'ending')
      const perDay = paceOf(own, now)
      const label = standardOf(standard).label
      if (good.length === 0) return [{ standard, label, by: today, why: 'No good lot is left.' }]
      const left = good.reduce((sum, l) => sum + Math.max(0, l.left), 0)
      const byUse = perDay > 0 ? Math.floor(left / perDay) : Number.POSITIVE_INFINITY
      const byDate = Math.max(...good.map((l) => daysBetween(today, l.goodUntil)))
      const ends = Math.min(byUse, byDate)
      if (ends > 45) return []
      const why =
        byUse < byDate
          ? `${Math.round(left)} mL left, and about ${Math.round(30 * perDay)} mL go a month.`
          : good.length === 1
            ? `Lot ${good[0]?.lot} is good for ${Math.max(0, byDate)} more days.`
            : `The last of ${good.length} lots ends then.`
      return [{ standard, label, by: addDays(today, Math.max(0, ends - LEAD_DAYS)), why }]
    })
    .sort((a, b) => daysBetween(b.by, a.by))
}

/** mL a day over the last three months, as far as uses are noted. */
function paceOf(lots: readonly LotView[], now: number): number {
  const from = now - 90 * DAY_MS
  const used = lots.flatMap((l) => l.uses).filter((u) => u.at >= from)
  return used.reduce((sum, u) => sum + Math.max(0, u.milliliters), 0) / 90
}

export async function addLot(db: Database, body: LotBody): Promise<void> {
  const table = body.ownTable
  if (table && table.temperatures.length !== table.values.length) {
    throw new Problem(400, 'invalid', 'The table of the lot needs a value for each temperature.', {
      fields: { ownTable: 'As many values as temperatures.' },
    })
  }
  if (table?.temperatures.some((t, i) => i > 0 && t <= (table.temperatures[i - 1] as number))) {
    throw new Problem(400, 'invalid', 'The temperatures of the lot’s table must rise from row to row.', {
      fields: { ownTable: 'Temperatures must rise.' },
    })
  }
  await db.insert(solutionLots).values({
    standard: body.standard,
    lot: body.lot,
    expiresOn: body.expiresOn as CalendarDay,
    lifeAfterOpeningDays: body.keepsDays,
    volume: body.volume,
    storage: body.storage,
    ownTable: table ?? null,
  })
}

export async function actOnLot(
  db: Database,
  id: number,
  body: {
    operator: string
    action: 'open' | 'discard' | 'use'
    milliliters?: number | undefined
    reason?: string | undefined
  },
  now: Date,
): Promise<void> {
  const [lot] = await db.select().from(solutionLots).where(eq(solutionLots.id, id))
  if (!lot) throw notFound('lot')
  if (lot.discardedAt) throw new Problem(409, 'discarded', 'That lot was thrown away.')
  switch (body.action) {
    case 'open':
      if (!lot.openedOn) await db.update(solutionLots).set({ openedOn: now }).where(eq(solutionLots.id, id))
      return
    case 'discard':
      await db.update(solutionLots).set({ discardedAt: now }).where(eq(solutionLots.id, id))
      return
    case 'use':
      await db.insert(solutionUses).values({
        lotId: id,
        at: now,
        milliliters: body.milliliters ?? 20,
        operator: body.operator,
        reason: body.reason || 'poured',
      })
  }
}
