import type { Role } from '@frustum/core'
import { integer, pgTable, serial, text } from 'drizzle-orm/pg-core'
import { instant, readerChoices } from '../columns.ts'
import { sites } from './site.ts'

/** People, and how they sign in. */

export const operators = pgTable('operators', {
  id: serial().primaryKey(),
  siteId: integer('site_id')
    .notNull()
    .references(() => sites.id),
  name: text().notNull().unique(),
  initials: text().notNull().default(''),
  role: text().$type<Role>().notNull().default('operator'),
  /** How this person reads numbers and dates, as far as it was chosen. */
  reader: readerChoices().notNull().default({}),
  archivedAt: instant('archived_at'),
})

/** What people prove themselves with, as salted hashes; in no file but a backup. */
export const credentials = pgTable('credentials', {
  operatorId: integer('operator_id')
    .primaryKey()
    .references(() => operators.id),
  password: text(),
  pin: text(),
})

/** Browsers that are signed in. */
export const sessions = pgTable('sessions', {
  /** SHA-256 of what the browser's cookie holds. */
  token: text().primaryKey(),
  operatorId: integer('operator_id')
    .notNull()
    .references(() => operators.id),
  by: text().$type<'password' | 'pin'>().notNull(),
  startedAt: instant('started_at').notNull(),
  lastUsedAt: instant('last_used_at').notNull(),
})
