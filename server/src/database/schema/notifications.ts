import type { MailSecurity, TellingWay } from '@frustum/contract'
import { index, integer, jsonb, pgTable, primaryKey, serial, text, uniqueIndex } from 'drizzle-orm/pg-core'
import { instant, tellingWishes } from '../columns.ts'
import { alarms } from './alarms.ts'
import { connections } from './connections.ts'

/** Messages and who gets them. */

/** The mail server that messages go through; the newest line holds. */
export const mailServers = pgTable('mail_servers', {
  id: serial().primaryKey(),
  host: text().notNull(),
  port: integer().notNull(),
  security: text().$type<MailSecurity>().notNull(),
  user: text().notNull(),
  /** The address that messages come from. */
  sender: text().notNull(),
  setAt: instant('set_at').notNull(),
  setBy: text('set_by').notNull(),
})

/** Who is told of alarms and of what is due, and how. */
export const recipients = pgTable('recipients', {
  id: serial().primaryKey(),
  name: text().notNull(),
  by: text().$type<TellingWay>().notNull(),
  /** A mail address, a URL, or a topic. */
  address: text().notNull(),
  /** The broker of a topic. */
  connectionId: integer('connection_id').references(() => connections.id),
  wishes: tellingWishes().notNull(),
  /** Of what began before, nobody is told. */
  since: instant('since').notNull(),
  archivedAt: instant('archived_at'),
})

/** Passwords and keys that messages are sent with; in no file but a backup, and never answered. */
export const tellingSecrets = pgTable('telling_secrets', {
  /** "mail", or the number of a recipient. */
  of: text().primaryKey(),
  secret: text().notNull(),
})

/** What was, or is to be, told: kept until it is there. */
export const messages = pgTable(
  'messages',
  {
    id: serial().primaryKey(),
    recipientId: integer('recipient_id')
      .notNull()
      .references(() => recipients.id),
    /** What it is of, so that nothing is told twice. */
    key: text().notNull(),
    subject: text().notNull(),
    body: text().notNull(),
    /** For programs. */
    data: jsonb().notNull(),
    madeAt: instant('made_at').notNull(),
    nextTryAt: instant('next_try_at'),
    tries: integer().notNull().default(0),
    sentAt: instant('sent_at'),
    problem: text(),
  },
  (t) => [uniqueIndex('messages_by_key').on(t.recipientId, t.key), index('messages_waiting').on(t.nextTryAt)],
)

/** Who was told of which alarm: how often, when last, and when of its end. */
export const toldAlarms = pgTable(
  'told_alarms',
  {
    recipientId: integer('recipient_id')
      .notNull()
      .references(() => recipients.id),
    alarmId: integer('alarm_id')
      .notNull()
      .references(() => alarms.id),
    lastAt: instant('last_at').notNull(),
    goneToldAt: instant('gone_told_at'),
  },
  (t) => [primaryKey({ columns: [t.recipientId, t.alarmId] })],
)
