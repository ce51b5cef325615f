import type { Subject } from '@frustum/contract'
import type { SensorKind, Water } from '@frustum/core'
import { sql } from 'drizzle-orm'
import { boolean, index, integer, jsonb, pgTable, serial, text, uuid } from 'drizzle-orm/pg-core'
import { changedValue, formTexts, instant, workingPractices } from '../columns.ts'

/** The site, its ways of working, its backups, and what was done on it. */

export const sites = pgTable('sites', {
  id: serial().primaryKey(),
  name: text().notNull(),
  timeZone: text('time_zone').notNull(),
  /** Who knows it may subscribe to the calendar. */
  calendarToken: text('calendar_token').notNull().default(sql`md5(random()::text || clock_timestamp()::text)`),
  /** Told apart from another site of the same name, as where both keep backups in one folder. */
  uid: uuid().notNull().defaultRandom(),
  /** Whether people sign in; where others reach the server, they do anyway. */
  signIn: boolean('sign_in').notNull().default(false),
  /** How long readings, and what their hours come to, are kept; null: for ever. Days are always. */
  keepReadingsDays: integer('keep_readings_days').default(400),
  keepHoursDays: integer('keep_hours_days'),
})

/** How and where backups are made; the newest line holds. */
export const backupSettings = pgTable('backup_settings', {
  id: serial().primaryKey(),
  /** Empty: beside the database, which is no help when the disk fails. */
  folder: text().notNull().default(''),
  nightly: boolean().notNull().default(true),
  /** Of the site's clock. */
  hour: integer().notNull().default(2),
  keepDays: integer('keep_days').notNull().default(7),
  keepWeeks: integer('keep_weeks').notNull().default(4),
  keepMonths: integer('keep_months').notNull().default(12),
  /** What backups are locked with, so that they can be made at night; empty: they are open. */
  passphrase: text().notNull().default(''),
})

/** Backups that were made, or could not be. */
export const backups = pgTable('backups', {
  id: serial().primaryKey(),
  at: instant('at').notNull(),
  /** Null for automatic nightly backups. */
  operator: text(),
  file: text().notNull(),
  /** The settings in force, which have its passphrase; null where none were set. */
  settingsId: integer('settings_id').references(() => backupSettings.id),
  /** Why there is none; null of one that was read back and is good. */
  problem: text(),
})

/** What was kept of a position and its device, for others like it: as it stood in their forms. */
export const ownTemplates = pgTable('own_templates', {
  id: serial().primaryKey(),
  name: text().notNull(),
  kind: text().$type<SensorKind>().notNull(),
  waterKind: text('water_kind').$type<Water>(),
  values: formTexts('values').notNull(),
  archivedAt: instant('archived_at'),
})

/** When the server was last at work: what lies between then and its next start nobody watched. */
export const workMarks = pgTable('work_marks', {
  id: integer().primaryKey().default(1),
  at: instant('at').notNull(),
})

/** The site's ways of working; the newest line holds. */
export const schoolChoices = pgTable('school_choices', {
  id: serial().primaryKey(),
  at: instant('at').notNull(),
  operator: text().notNull(),
  practices: workingPractices('schools').notNull(),
})

/** Files that were taken in, with what became of each row. */
export const imports = pgTable('imports', {
  id: serial().primaryKey(),
  at: instant('at').notNull(),
  operator: text().notNull(),
  what: text().$type<'sensors' | 'past' | 'records' | 'set-up' | 'log'>().notNull(),
  fileName: text('file_name').notNull(),
  sha256: text().notNull(),
  report: jsonb().notNull(),
  /** When all of it was in; what is not finished by then is taken back at the next start. */
  doneAt: instant('done_at'),
})

/** What was asked for and done, by the id that whoever asked gave it: asked again, it is answered and not done again. */
export const actions = pgTable('actions', {
  id: uuid().primaryKey(),
  /** Identifies person, address and content; null on rows from before it was kept. */
  fingerprint: text(),
  at: instant('at').notNull(),
  /** Null when the server was cut off after it was done and before it was answered. */
  answer: jsonb(),
})

/** What was changed of what may be edited: never rewritten; what is undone is one more line. */
export const changes = pgTable(
  'changes',
  {
    id: serial().primaryKey(),
    at: instant('at').notNull(),
    operator: text().notNull(),
    /** What was changed, and which of them; the site itself has no number. */
    subject: text().$type<Subject>().notNull(),
    subjectId: integer('subject_id'),
    field: text().notNull(),
    before: changedValue('before'),
    after: changedValue('after'),
    validFrom: instant('valid_from').notNull(),
    /** Whether a sensor there takes another course since: it did change, and was not entered wrong. */
    turns: boolean().notNull().default(false),
    why: text(),
    /** The change that this one takes back. */
    undoes: integer('undoes'),
  },
  (t) => [index('changes_by_subject').on(t.subject, t.subjectId, t.id)],
)
