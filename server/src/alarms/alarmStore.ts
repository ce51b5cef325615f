import { type AlarmKind, alarmTypes } from '@frustum/core'
import { and, asc, desc, eq, gte, inArray, isNull, lte, or } from 'drizzle-orm'
import type { Author } from '../changes/changes.ts'
import type { Database, Transaction } from '../database/open.ts'
import { alarmEntries, alarms } from '../database/schema.ts'
import { notFound } from '../problem.ts'

export type Alarm = typeof alarms.$inferSelect

/** What an alarm is of, besides its kind. */
export interface AlarmOf {
  kind: AlarmKind
  positionId: number | null
  subject?: string | null
}

const isSame = (one: AlarmOf, other: AlarmOf): boolean =>
  one.kind === other.kind && one.positionId === other.positionId && (one.subject ?? null) === (other.subject ?? null)

/** Earlier versions raised alarms for what is a to-do now. Their rows stay, and aren't shown. */
export const isAlarm = () =>
  inArray(
    alarms.kind,
    alarmTypes().map(({ kind }) => kind),
  )

/** Those that last. */
export const lastingAlarms = (db: Database): Promise<Alarm[]> =>
  db
    .select()
    .from(alarms)
    .where(and(isNull(alarms.returnedAt), isAlarm()))
    .orderBy(desc(alarms.id))
    .execute()

/** Raises one, unless it is raised already. Returns whether it was. */
export async function raiseAlarm(
  db: Database,
  of: AlarmOf & { at: number; value?: number | null; limit?: number | null },
): Promise<boolean> {
  if ((await lastingAlarms(db)).some((open) => isSame(open, of))) return false
  const { at, value = null, limit = null, subject = null, ...what } = of
  await db.insert(alarms).values({ ...what, subject, raisedAt: new Date(at), value, limit })
  return true
}

/** Records an alarm of the site that was over when it became known. */
export async function recordPastAlarm(
  tx: Transaction,
  { kind, value, at, returnedAt }: { kind: AlarmKind; value: number; at: number; returnedAt: number },
): Promise<void> {
  const end = new Date(returnedAt)
  const row = { kind, value, positionId: null, raisedAt: new Date(at), returnedAt: end }
  const [alarm] = await tx.insert(alarms).values(row).returning({ id: alarms.id })
  if (alarm) await tx.insert(alarmEntries).values({ alarmId: alarm.id, at: end, what: 'returned' })
}

/** What lasts of this is gone. */
export async function endAlarm(db: Database, of: AlarmOf, at: number): Promise<void> {
  for (const open of await lastingAlarms(db)) if (isSame(open, of)) await endOf(db, open.id, at)
}

async function endOf(db: Database, alarmId: number, at: number): Promise<void> {
  await db.transaction(async (tx) => {
    await tx.insert(alarmEntries).values({ alarmId, at: new Date(at), what: 'returned' })
    await tx
      .update(alarms)
      .set({ returnedAt: new Date(at) })
      .where(eq(alarms.id, alarmId))
  })
}

/** Of these kinds what is wrong now is raised, and what is no longer is gone. */
export async function setAlarms(
  db: Database,
  kinds: readonly AlarmKind[],
  wrong: readonly (AlarmOf & { at: number; value?: number | null; limit?: number | null })[],
  now: number,
): Promise<void> {
  const open = (await lastingAlarms(db)).filter(({ kind }) => kinds.includes(kind))
  for (const alarm of open) if (!wrong.some((w) => isSame(w, alarm))) await endOf(db, alarm.id, now)
  for (const w of wrong) if (!open.some((alarm) => isSame(w, alarm))) await raiseAlarm(db, w)
}

/** Records that someone acknowledged, shelved or unshelved an alarm. @throws Problem 404 */
export async function noteOfAlarm(
  db: Database,
  id: number,
  { operator, at }: Author,
  note: { what: 'acknowledged' | 'unshelved' } | { what: 'shelved'; until: Date; reason: string },
): Promise<void> {
  const [alarm] = await db.select().from(alarms).where(eq(alarms.id, id))
  if (!alarm) throw notFound('alarm')
  await db.insert(alarmEntries).values({ alarmId: id, at, operator, ...note })
}

/** Those of some span, for a chart. */
export async function alarmsBetween(
  db: Database,
  positionId: number,
  { from, to }: { from: number; to: number },
): Promise<{ id: number; kind: AlarmKind; from: number; to: number | null }[]> {
  const rows = await db
    .select()
    .from(alarms)
    .where(
      and(
        eq(alarms.positionId, positionId),
        isAlarm(),
        lte(alarms.raisedAt, new Date(to)),
        or(isNull(alarms.returnedAt), gte(alarms.returnedAt, new Date(from))),
      ),
    )
    .orderBy(asc(alarms.raisedAt))
  return rows.map(({ id, kind, raisedAt, returnedAt }) => ({
    id,
    kind,
    from: raisedAt.getTime(),
    to: returnedAt?.getTime() ?? null,
  }))
}
