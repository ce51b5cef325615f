import type { DaySummary } from '@frustum/core'
import {
  doublePrecision,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  real,
  serial,
  smallint,
  text,
  uniqueIndex,
} from 'drizzle-orm/pg-core'
import { instant } from '../columns.ts'
import { installations, positions } from './equipment.ts'

/** Readings between visits. */

/** Readings between visits as they come, until they are packed by the hour. */
export const readings = pgTable(
  'readings',
  {
    id: serial().primaryKey(),
    installationId: integer('installation_id')
      .notNull()
      .references(() => installations.id),
    at: instant('at').notNull(),
    /** As the device displayed it; missing where it gives the signal alone. */
    shown: doublePrecision(),
    signal: doublePrecision(),
    temperature: doublePrecision(),
    /** Its place among the states of a reading. */
    state: smallint().notNull().default(0),
  },
  (t) => [index('readings_by_time').on(t.installationId, t.at)],
)

/** The same, an hour of a sensor in a row: a fifth of the room, and a year is read at once. */
export const readingHours = pgTable(
  'reading_hours',
  {
    installationId: integer('installation_id')
      .notNull()
      .references(() => installations.id),
    /** Hours since 1970. */
    hour: integer().notNull(),
    /** ms within the hour, rising; the others stand in the same places. */
    at: integer().array().notNull(),
    shown: real().array().$type<(number | null)[]>().notNull(),
    signal: real().array().$type<(number | null)[]>().notNull(),
    temperature: real().array().$type<(number | null)[]>().notNull(),
    state: smallint().array().notNull(),
  },
  (t) => [primaryKey({ columns: [t.installationId, t.hour] })],
)

/**
 * Derived: summaries of a sensor's last days, from which typical readings are learned. Emptied when readings of those
 * days arrive later.
 */
export const learnedDays = pgTable('learned_days', {
  installationId: integer('installation_id')
    .primaryKey()
    .references(() => installations.id, { onDelete: 'cascade' }),
  /** Device, setting and source of the readings. Days with other ones are not used. */
  readAs: text('read_as').notNull(),
  /** When `readAs` last changed; null if it never did. */
  since: instant('since'),
  /** UTC midnight up to which days are summarized. */
  through: instant('through').notNull(),
  days: jsonb().$type<{ day: number; summary: DaySummary }[]>().notNull(),
  /** Incremented when emptied, so that a summary that was under way is not stored. */
  revision: integer().notNull().default(0),
})

/** What the readings of an hour, or of a day, come to: kept for ever. */
export const rollUps = pgTable(
  'roll_ups',
  {
    installationId: integer('installation_id')
      .notNull()
      .references(() => installations.id),
    /** Hours that it is over: 1 or 24. */
    hours: smallint().notNull(),
    /** Hours since 1970 at which it begins; days are those of UTC. */
    start: integer().notNull(),
    count: integer().notNull(),
    good: integer().notNull(),
    min: real(),
    max: real(),
    mean: doublePrecision(),
    squares: doublePrecision().notNull(),
    /** Mean temperature. */
    temperature: real(),
  },
  (t) => [primaryKey({ columns: [t.installationId, t.hours, t.start] })],
)

/** The hour meter of what runs at a position, as it was read. */
export const hoursRun = pgTable('hours_run', {
  id: serial().primaryKey(),
  positionId: integer('position_id')
    .notNull()
    .references(() => positions.id),
  at: instant('at').notNull(),
  operator: text().notNull(),
  hours: doublePrecision().notNull(),
})

/** Typed readings that were none, and why: they stay where they were, and nothing counts them any longer. */
export const takenBack = pgTable(
  'taken_back',
  {
    id: serial().primaryKey(),
    installationId: integer('installation_id')
      .notNull()
      .references(() => installations.id),
    /** When it was said to have been read. */
    readAt: instant('read_at').notNull(),
    at: instant('at').notNull(),
    operator: text().notNull(),
    reason: text().notNull(),
  },
  (t) => [uniqueIndex('taken_back_once').on(t.installationId, t.readAt)],
)

/** What was read beside a display, without a visit. Never changed: with its reading taken back it counts no longer. */
export const referenceValues = pgTable(
  'reference_values',
  {
    id: serial().primaryKey(),
    installationId: integer('installation_id')
      .notNull()
      .references(() => installations.id),
    at: instant('at').notNull(),
    /** As displayed, and as it should have been, in the unit that was shown. */
    shown: doublePrecision().notNull(),
    reference: doublePrecision().notNull(),
    /** Half-width of the 95 % interval of the reference, in the same unit. */
    uncertainty: doublePrecision().notNull(),
    unit: text().notNull(),
    /** With what it was read. */
    readWith: text('read_with').notNull(),
    /** Displayed minus reference, and its half-width, in the unit of errors. */
    error: doublePrecision().notNull(),
    errorUncertainty: doublePrecision('error_uncertainty').notNull(),
    operator: text().notNull(),
  },
  (t) => [index('reference_values_by_installation').on(t.installationId, t.at)],
)
