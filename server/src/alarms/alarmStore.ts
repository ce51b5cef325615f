import type { AlarmView } from '@frustum/contract'
import { ALARM_KINDS, type AlarmKind, DAY_MS, modelOf, type SiteAlarm, severityOf } from '@frustum/core'
import { and, asc, desc, eq, gte, inArray, isNull, lte, notExists, or, sql } from 'drizzle-orm'
import type { Author } from '../changes/changes.ts'
import type { Database, Transaction } from '../database/open.ts'
import { alarmEntries, alarms, connections, devices, places, positions } from '../database/schema.ts'
import { notFound } from '../problem.ts'

/** One that is gone and that nobody saw is shown for so long, d. */
const UNSEEN_DAYS = 30

export type Alarm = typeof alarms.$inferSelect
type Entry = typeof alarmEntries.$inferSelect

/** What an alarm is of, besides its kind. */
export interface AlarmOf {
  kind: AlarmKind
  positionId: number | null
  subject?: string | null
}

const isSame = (one: AlarmOf, other: AlarmOf): boolean =>
  one.kind === other.kind && one.positionId === other.positionId && (one.subject ?? null) === (other.subject ?? null)

async function entriesOf(db: Database, ids: readonly number[]): Promise<Map<number, Entry[]>> {
  const rows =
    ids.length === 0
      ? []
      : await db
          .select()
          .from(alarmEntries)
          .where(inArray(alarmEntries.alarmId, [...ids]))
          .orderBy(asc(alarmEntries.id))
  const by = new Map<number, Entry[]>()
  for (const row of rows) by.set(row.alarmId, [...(by.get(row.alarmId) ?? []), row])
  return by
}

/** Earlier versions raised alarms for what is a to-do now. Their rows stay, and aren't shown. */
const isAlarm = inArray(alarms.kind, [...ALARM_KINDS])

/** Those that last. */
export const lastingAlarms = (db: Database): Promise<Alarm[]> =>
  db
    .select()
    .from(alarms)
    .where(and(isNull(alarms.goneAt), isAlarm))
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
  { kind, value, at, goneAt }: { kind: SiteAlarm; value: number; at: number; goneAt: number },
): Promise<void> {
  const end = new Date(goneAt)
  const row = { kind, value, positionId: null, raisedAt: new Date(at), goneAt: end }
  const [alarm] = await tx.insert(alarms).values(row).returning({ id: alarms.id })
  if (alarm) await tx.insert(alarmEntries).values({ alarmId: alarm.id, at: end, what: 'gone' })
}

/** What lasts of this is gone. */
export async function endAlarm(db: Database, of: AlarmOf, at: number): Promise<void> {
  for (const open of await lastingAlarms(db)) if (isSame(open, of)) await endOf(db, open.id, at)
}

async function endOf(db: Database, alarmId: number, at: number): Promise<void> {
  await db.transaction(async (tx) => {
    await tx.insert(alarmEntries).values({ alarmId, at: new Date(at), what: 'gone' })
    await tx
      .update(alarms)
      .set({ goneAt: new Date(at) })
      .where(eq(alarms.id, alarmId))
  })
}

/** Of these kinds what is wrong now is raised, and what is no longer is gone. */
export async function setAlarms(
  db: Database,
  kinds: readonly AlarmKind[],
  wrong: readonly (AlarmOf & { at: number; value?: number | null })[],
  now: number,
): Promise<void> {
  const open = (await lastingAlarms(db)).filter(({ kind }) => kinds.includes(kind))
  for (const alarm of open) if (!wrong.some((w) => isSame(w, alarm))) await endOf(db, alarm.id, now)
  for (const w of wrong) if (!open.some((alarm) => isSame(w, alarm))) await raiseAlarm(db, w)
}

/** What lasts, and what was and nobody saw: the gravest first, and of those the newest. */
export async function alarmViews(db: Database, now: number): Promise<AlarmView[]> {
  const unseen = and(
    gte(alarms.goneAt, new Date(now - UNSEEN_DAYS * DAY_MS)),
    notExists(
      db
        .select({ one: sql`1` })
        .from(alarmEntries)
        .where(and(eq(alarmEntries.alarmId, alarms.id), eq(alarmEntries.what, 'seen'))),
    ),
  )
  const rows = await db
    .select({ alarm: alarms, position: positions, place: places, device: devices, connection: connections.name })
    .from(alarms)
    .leftJoin(positions, eq(alarms.positionId, positions.id))
    .leftJoin(places, eq(positions.placeId, places.id))
    .leftJoin(devices, eq(positions.deviceId, devices.id))
    .leftJoin(connections, eq(devices.connectionId, connections.id))
    .where(and(isNull(positions.archivedAt), isAlarm, or(isNull(alarms.goneAt), unseen)))
    .orderBy(desc(alarms.raisedAt))
  const entries = await entriesOf(
    db,
    rows.map((r) => r.alarm.id),
  )
  const views = rows.map(({ alarm, position, place, device, connection }) => {
    const of = entries.get(alarm.id) ?? []
    const gone = alarm.goneAt
    const seen = of.find((e) => e.what === 'seen')
    const quiet = of.findLast((e) => e.what === 'quiet')
    const scale = position && device ? modelOf(position.kind).shownScale(device.setting) : { unit: '', decimals: 0 }
    const view: AlarmView = {
      id: alarm.id,
      position: position?.code ?? null,
      place: place?.name ?? null,
      subject: alarm.subject,
      kind: alarm.kind,
      severity: severityOf(alarm.kind),
      raisedAt: alarm.raisedAt.getTime(),
      value: alarm.value,
      limit: alarm.limit,
      unit: scale.unit,
      decimals: scale.decimals,
      goneAt: gone?.getTime() ?? null,
      seen: seen ? { at: seen.at.getTime(), by: seen.operator ?? '' } : null,
      quiet:
        quiet?.until && quiet.until.getTime() > now
          ? { until: quiet.until.getTime(), by: quiet.operator ?? '', reason: quiet.reason ?? '' }
          : null,
      cause: alarm.kind === 'blind' && !gone ? connection : null,
    }
    return { view, consequence: position?.consequence ?? 1 }
  })
  // A cause is one where several have it: a gateway that is gone, and not 23 sensors.
  const causes = views.flatMap(({ view }) => view.cause ?? [])
  const grave = ({ view }: (typeof views)[number]) => (view.goneAt === null ? 0 : 100) + ALARM_KINDS.indexOf(view.kind)
  return [...views]
    .sort((a, b) => grave(a) - grave(b) || b.consequence - a.consequence || b.view.raisedAt - a.view.raisedAt)
    .map(({ view }) => ({
      ...view,
      cause: view.cause && causes.filter((c) => c === view.cause).length > 1 ? view.cause : null,
    }))
}

/** Somebody saw it, or wants to hear no more of it for a while. @throws Problem 404 */
export async function noteOfAlarm(
  db: Database,
  id: number,
  { operator, at }: Author,
  note: { what: 'seen' } | { what: 'quiet'; until: Date; reason: string },
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
        isAlarm,
        lte(alarms.raisedAt, new Date(to)),
        or(isNull(alarms.goneAt), gte(alarms.goneAt, new Date(from))),
      ),
    )
    .orderBy(asc(alarms.raisedAt))
  return rows.map(({ id, kind, raisedAt, goneAt }) => ({
    id,
    kind,
    from: raisedAt.getTime(),
    to: goneAt?.getTime() ?? null,
  }))
}
