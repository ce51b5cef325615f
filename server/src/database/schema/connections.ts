import type { Protocol } from '@frustum/contract'
import { integer, pgTable, serial, text } from 'drizzle-orm/pg-core'
import { connectionSettings, instant, mappingColumn } from '../columns.ts'

/** Buses and hosts with devices on them. */

/** A bus or a host with devices on it. */
export const connections = pgTable('connections', {
  id: serial().primaryKey(),
  name: text().notNull(),
  protocol: text().$type<Protocol>().notNull(),
  settings: connectionSettings().notNull().default({}),
  archivedAt: instant('archived_at'),
})

/** What a broker or a page is signed in to with; in no file but a backup, and never answered. */
export const connectionSecrets = pgTable('connection_secrets', {
  connectionId: integer('connection_id')
    .primaryKey()
    .references(() => connections.id),
  secret: text().notNull(),
})

/** Mappings that somebody kept to begin others with. */
export const mappingProfiles = pgTable('mapping_profiles', {
  id: serial().primaryKey(),
  name: text().notNull(),
  mapping: mappingColumn().notNull(),
  madeAt: instant('made_at').notNull(),
  madeBy: text('made_by').notNull(),
  archivedAt: instant('archived_at'),
})
