import type { Cause } from '@frustum/core'
import { boolean, doublePrecision, index, integer, pgTable, serial, text, uuid } from 'drizzle-orm/pg-core'
import { instant, proposedCauses } from '../columns.ts'
import { installations, photos, positions } from './equipment.ts'
import { visits } from './visits.ts'

/** What forecasts and diagnoses are computed from. */

/** Error as found and as left at the process value: what drift is computed from. One a finished visit. */
export const driftObservations = pgTable(
  'drift_observations',
  {
    id: serial().primaryKey(),
    installationId: integer('installation_id')
      .notNull()
      .references(() => installations.id),
    visitId: uuid('visit_id').references(() => visits.id),
    at: instant('at').notNull(),
    asFound: doublePrecision('as_found'),
    /** Computed from the numbers that were given where nothing was read after them. */
    asLeft: doublePrecision('as_left').notNull(),
    verified: boolean().notNull().default(true),
    uncertainty: doublePrecision().notNull(),
    fouling: doublePrecision(),
    adjusted: boolean().notNull(),
  },
  (t) => [index('drift_by_installation').on(t.installationId, t.at)],
)

export const events = pgTable('events', {
  id: serial().primaryKey(),
  installationId: integer('installation_id')
    .notNull()
    .references(() => installations.id),
  at: instant('at').notNull(),
  kind: text().notNull(),
  note: text().notNull(),
  /** Who entered it; null of what the product noted by itself. */
  operator: text(),
  byHand: boolean('by_hand').notNull().default(false),
  photo: text().references(() => photos.sha256),
})

/** A visit taken out of the forecast by hand, or taken back into it; the newest line of a visit holds. */
export const exclusions = pgTable('exclusions', {
  id: serial().primaryKey(),
  visitId: uuid('visit_id')
    .notNull()
    .references(() => visits.id),
  at: instant('at').notNull(),
  operator: text().notNull(),
  excluded: boolean().notNull(),
  reason: text().notNull(),
})

/** What a diagnostic test showed; the newest answer of a feature holds. */
export const testAnswers = pgTable('test_answers', {
  id: serial().primaryKey(),
  installationId: integer('installation_id')
    .notNull()
    .references(() => installations.id),
  at: instant('at').notNull(),
  operator: text().notNull(),
  feature: text().notNull(),
  answer: text().notNull(),
})

/** What it turned out to be, beside what was proposed at that moment. */
export const confirmedCauses = pgTable('confirmed_causes', {
  id: serial().primaryKey(),
  installationId: integer('installation_id')
    .notNull()
    .references(() => installations.id),
  at: instant('at').notNull(),
  operator: text().notNull(),
  cause: text().$type<Cause>().notNull(),
  proposed: proposedCauses().notNull(),
})

/** A visit moved by hand to another day; the newest line of a position holds until it is visited. */
export const movedVisits = pgTable('moved_visits', {
  id: serial().primaryKey(),
  positionId: integer('position_id')
    .notNull()
    .references(() => positions.id),
  movedAt: instant('moved_at').notNull(),
  operator: text().notNull(),
  /** Null: back to what is proposed. */
  to: instant('to'),
})
