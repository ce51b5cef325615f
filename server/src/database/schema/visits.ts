import type { CapturedReading } from '@frustum/core'
import { sql } from 'drizzle-orm'
import { boolean, index, integer, jsonb, pgTable, serial, text, uniqueIndex, uuid } from 'drizzle-orm/pg-core'
import {
  calibrationParameters,
  findingCodes,
  instant,
  relativeCalibration,
  textList,
  visitEntry,
  visitSettings,
} from '../columns.ts'
import { storedAssessment, storedRecord, visitSnapshot } from '../recordColumns.ts'
import { installations, positions } from './equipment.ts'
import { imports } from './site.ts'

/** Visits, what happened in them, and what was calibrated. */

/** Outputs that were held over a line, and when they were let go. */
export const holds = pgTable('holds', {
  id: serial().primaryKey(),
  positionId: integer('position_id')
    .notNull()
    .references(() => positions.id),
  visitId: uuid('visit_id'),
  heldAt: instant('held_at').notNull(),
  heldBy: text('held_by').notNull(),
  releasedAt: instant('released_at'),
  releasedBy: text('released_by'),
  /** At the device itself, and not over its line. */
  byHand: boolean('by_hand').notNull().default(false),
  /** Why they could not be held, or let go, at the last try. */
  problem: text(),
})

/**
 * Calibrations that were to be written to a device over its connection: on disk before the device is asked, so that a
 * device whose calibration changed is never without a record of it.
 */
export const calibrationWrites = pgTable('calibration_writes', {
  id: serial().primaryKey(),
  visitId: uuid('visit_id')
    .notNull()
    .references(() => visits.id),
  at: instant('at').notNull(),
  operator: text().notNull(),
  actionId: uuid('action_id'),
  fingerprint: text(),
  wanted: calibrationParameters().notNull(),
  /** Null until it is known what the device holds. */
  settledAt: instant('settled_at'),
  /** Null where the device holds what was wanted. */
  problem: text(),
})

/** A way round several sensors: shared float and rinse, one caution each. */
export const trips = pgTable('trips', {
  id: uuid().primaryKey(),
  name: text().notNull(),
  operator: text().notNull(),
  positions: textList().notNull(),
  startedAt: instant('started_at').notNull(),
  closedAt: instant('closed_at'),
})

/** What is to be read instead in a closed visit, and why. The record itself stays. */
export const corrections = pgTable('corrections', {
  id: serial().primaryKey(),
  visitId: uuid('visit_id').notNull(),
  at: instant('at').notNull(),
  operator: text().notNull(),
  text: text().notNull(),
})

/** The heading of a visit and who has it in hand; what happened in it is in visit_entries. */
export const visits = pgTable(
  'visits',
  {
    id: uuid().primaryKey(),
    installationId: integer('installation_id')
      .notNull()
      .references(() => installations.id),
    procedure: text().notNull(),
    settings: visitSettings().notNull(),
    tripId: uuid('trip_id').references(() => trips.id),
    /** The file that it was taken in from; null of visits that were made here. */
    importId: integer('import_id').references(() => imports.id),
    operator: text().notNull(),
    startedAt: instant('started_at').notNull(),
    closedAt: instant('closed_at'),
    outcome: text().$type<'done' | 'abandoned'>(),
    /** Codes of what its result found, as judged when it was closed; null in records from before they were kept. */
    findings: findingCodes(),
    /**
     * Derived: its readings with their signals worked out again, where the device's calibration was unknown at the visit
     * and became known since. Null otherwise.
     */
    knownReadings: jsonb('known_readings').$type<{ step: string; reading: CapturedReading }[]>(),
    /** All that it is judged with, as it was when it began; null only until the start after an update. */
    snapshot: visitSnapshot(),
    /** What it says since it is closed. */
    record: storedRecord(),
    holderClient: text('holder_client'),
    holderName: text('holder_name'),
    heldSince: instant('held_since'),
  },
  (t) => [
    index('visits_by_installation').on(t.installationId, t.startedAt),
    index('visits_by_end').on(t.closedAt),
    uniqueIndex('one_open_visit').on(t.installationId).where(sql`${t.closedAt} is null`),
  ],
)

/** What happened in a visit, in order, never changed: steps done or skipped, captured points, decisions. */
export const visitEntries = pgTable(
  'visit_entries',
  {
    id: serial().primaryKey(),
    visitId: uuid('visit_id')
      .notNull()
      .references(() => visits.id),
    seq: integer().notNull(),
    at: instant('at').notNull(),
    operator: text().notNull(),
    entry: visitEntry().notNull(),
    /** The same for every try of one action. */
    actionId: uuid('action_id'),
    /** Identifies the request of that action; null on lines from before it was kept, and on those without an action. */
    fingerprint: text(),
    /** What was said when it was decided so; null on lines that decide nothing. */
    assessment: storedAssessment(),
  },
  (t) => [
    uniqueIndex('visit_entries_in_order').on(t.visitId, t.seq),
    uniqueIndex('visit_entries_once').on(t.visitId, t.actionId),
  ],
)

/** What a sensor was found to be; `adopted` when the device has computed with it since. */
export const calibrations = pgTable(
  'calibrations',
  {
    id: serial().primaryKey(),
    installationId: integer('installation_id')
      .notNull()
      .references(() => installations.id),
    visitId: uuid('visit_id').references(() => visits.id),
    at: instant('at').notNull(),
    characteristic: calibrationParameters().notNull(),
    /** Half-widths of the 95 % intervals. */
    uncertainty: calibrationParameters().notNull(),
    /** Where the characteristic is not whole, since the device's calibration was unknown: what tells its errors. */
    relative: relativeCalibration(),
    adopted: boolean().notNull(),
    /** The first of a new sensor. */
    baseline: boolean().notNull().default(false),
  },
  (t) => [index('calibrations_by_installation').on(t.installationId, t.at)],
)

/** Numbers that a device was found to compute with, although it had been given others, or that were given back to it. */
export const deviceCalibrations = pgTable(
  'device_numbers',
  {
    id: serial().primaryKey(),
    installationId: integer('installation_id')
      .notNull()
      .references(() => installations.id),
    at: instant('at').notNull(),
    held: calibrationParameters().notNull(),
    given: calibrationParameters().notNull(),
    /** Who gave them back; null when they were found changed. */
    operator: text(),
  },
  (t) => [index('device_numbers_by_installation').on(t.installationId, t.at)],
)
