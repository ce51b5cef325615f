import type { AlarmKind } from '@frustum/core'
import { doublePrecision, index, integer, pgTable, serial, text } from 'drizzle-orm/pg-core'
import { instant } from '../columns.ts'
import { positions } from './equipment.ts'

/** Alarms and what was done about them. */

/** What was wrong with what a position read. Nothing of it changes: what became of it stands in its entries. */
export const alarms = pgTable(
  'alarms',
  {
    id: serial().primaryKey(),
    /** Null of what is wrong with the site itself. */
    positionId: integer('position_id').references(() => positions.id),
    kind: text().$type<AlarmKind>().notNull(),
    /** What else it is of: the other of two, a standard, a person. */
    subject: text(),
    raisedAt: instant('raised_at').notNull(),
    value: doublePrecision(),
    limit: doublePrecision('limit_value'),
    /** That of its entry of the end, which it repeats: active alarms are looked for every second among all there were. */
    returnedAt: instant('gone_at'),
  },
  (t) => [index('alarms_by_position').on(t.positionId, t.raisedAt), index('alarms_by_end').on(t.returnedAt)],
)

export const alarmEntries = pgTable(
  'alarm_entries',
  {
    id: serial().primaryKey(),
    alarmId: integer('alarm_id')
      .notNull()
      .references(() => alarms.id),
    at: instant('at').notNull(),
    what: text().$type<'acknowledged' | 'shelved' | 'unshelved' | 'returned'>().notNull(),
    /** Null of what came by itself. */
    operator: text(),
    until: instant('until'),
    reason: text(),
  },
  (t) => [index('alarm_entries_by_alarm').on(t.alarmId)],
)
