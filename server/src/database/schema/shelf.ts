import type { CalendarDay } from '@frustum/contract'
import type { InstrumentKind, OwnStandard, SensorKind } from '@frustum/core'
import { date, doublePrecision, integer, pgTable, serial, text, uuid } from 'drizzle-orm/pg-core'
import { instant, lotTable, printedValues } from '../columns.ts'

/** Standards, bottles and instruments. */

export const solutionLots = pgTable('solution_lots', {
  id: serial().primaryKey(),
  standard: text().notNull(),
  lot: text().notNull(),
  expiresOn: date('expires_on').$type<CalendarDay>().notNull(),
  openedOn: instant('opened_on'),
  lifeAfterOpeningDays: integer('life_after_opening_days').notNull(),
  ownTable: lotTable('own_table'),
  /** mL in the bottle when it was new. */
  volume: doublePrecision().notNull().default(500),
  storage: text().notNull().default(''),
  discardedAt: instant('discarded_at'),
})

/** Standards of the site's own, as their bottles say; what they are never changes. */
export const ownStandards = pgTable('own_standards', {
  id: serial().primaryKey(),
  /** The same in every site that it comes to: records name it. */
  code: text().notNull().unique(),
  kind: text().$type<SensorKind>().notNull(),
  label: text().notNull(),
  printed: printedValues().notNull(),
  uncertainty: doublePrecision().notNull(),
  against: text().$type<OwnStandard['against']>(),
  ion: text().$type<OwnStandard['ion']>(),
  caution: text().notNull().default(''),
  archivedAt: instant('archived_at'),
})

/** What was poured from a lot; never changed. A wrong figure is put right by another line, negative if need be. */
export const solutionUses = pgTable('solution_uses', {
  id: serial().primaryKey(),
  lotId: integer('lot_id')
    .notNull()
    .references(() => solutionLots.id),
  visitId: uuid('visit_id'),
  at: instant('at').notNull(),
  milliliters: doublePrecision().notNull(),
  operator: text().notNull(),
  reason: text().notNull(),
})

/** Hand meters, thermometers, kits, simulators. Never changed: the newest line of a name and number holds. */
export const instruments = pgTable('instruments', {
  id: serial().primaryKey(),
  kind: text().$type<InstrumentKind>().notNull(),
  name: text().notNull(),
  serial: text().notNull(),
  calibratedOn: date('calibrated_at').$type<CalendarDay>(),
  uncertainty: doublePrecision(),
  unit: text().notNull(),
  addedAt: instant('added_at').notNull(),
  addedBy: text('added_by').notNull(),
})
