import type { AlarmHistoryView, AlarmView } from '@frustum/contract'
import {
  alarmStatistics,
  alarmTypeOf,
  alarmTypes,
  DAY_MS,
  modelOf,
  readerStyle,
  render,
  USUAL_READER,
} from '@frustum/core'
import { and, asc, desc, eq, gt, gte, inArray, isNull, lte, notExists, or, type SQL, sql } from 'drizzle-orm'
import Papa from 'papaparse'
import type { Database } from '../database/open.ts'
import { alarmEntries, alarms, connections, devices, places, positions } from '../database/schema.ts'
import { grouped } from '../grouped.ts'
import { type Alarm, isAlarm } from './alarmStore.ts'

/** An alarm that returned to normal without being acknowledged is listed for so long, days. */
const UNACKNOWLEDGED_DAYS = 30
/** The longest time for which an alarm can be shelved, days. */
const LONGEST_SHELVED_DAYS = 8

type Entry = typeof alarmEntries.$inferSelect

/** Shelving is of an alarm, not of one event: while shelved, it stays shelved when it is raised again. */
const identityOf = ({ kind, positionId, subject }: Pick<Alarm, 'kind' | 'positionId' | 'subject'>): string =>
  `${kind} ${positionId} ${subject}`

/** Returns the alarms that are shelved now, by identity. */
async function shelvedNow(db: Database, now: number): Promise<Map<string, NonNullable<AlarmView['shelved']>>> {
  const rows = await db
    .select({ entry: alarmEntries, alarm: alarms })
    .from(alarmEntries)
    .innerJoin(alarms, eq(alarmEntries.alarmId, alarms.id))
    .where(
      or(
        and(eq(alarmEntries.what, 'shelved'), gt(alarmEntries.until, new Date(now))),
        and(eq(alarmEntries.what, 'unshelved'), gte(alarmEntries.at, new Date(now - LONGEST_SHELVED_DAYS * DAY_MS))),
      ),
    )
    .orderBy(asc(alarmEntries.id))
  const shelved = new Map<string, NonNullable<AlarmView['shelved']>>()
  for (const { entry, alarm } of rows) {
    const { until, operator, reason } = entry
    if (until === null) shelved.delete(identityOf(alarm))
    else shelved.set(identityOf(alarm), { until: until.getTime(), by: operator ?? '', reason: reason ?? '' })
  }
  return shelved
}

async function entriesOf(db: Database, ids: readonly number[]): Promise<Map<number, Entry[]>> {
  const rows =
    ids.length === 0
      ? []
      : await db
          .select()
          .from(alarmEntries)
          .where(inArray(alarmEntries.alarmId, [...ids]))
          .orderBy(asc(alarmEntries.id))
  return grouped(rows, (row) => row.alarmId)
}

async function viewsWhere(
  db: Database,
  now: number,
  where: SQL | undefined,
): Promise<{ view: AlarmView; consequence: number }[]> {
  const rows = await db
    .select({ alarm: alarms, position: positions, place: places, device: devices, connection: connections.name })
    .from(alarms)
    .leftJoin(positions, eq(alarms.positionId, positions.id))
    .leftJoin(places, eq(positions.placeId, places.id))
    .leftJoin(devices, eq(positions.deviceId, devices.id))
    .leftJoin(connections, eq(devices.connectionId, connections.id))
    .where(and(isAlarm(), where))
    .orderBy(desc(alarms.raisedAt), desc(alarms.id))
  const entries = await entriesOf(
    db,
    rows.map((r) => r.alarm.id),
  )
  const shelved = await shelvedNow(db, now)
  return rows.map(({ alarm, position, place, device, connection }) => {
    const acknowledged = entries.get(alarm.id)?.find((e) => e.what === 'acknowledged')
    const scale = position && device ? modelOf(position.kind).shownScale(device.setting) : { unit: '', decimals: 0 }
    const { name, severity, sentence, isOfConnection = false } = alarmTypeOf(alarm.kind)
    const view = {
      id: alarm.id,
      position: position?.code ?? null,
      place: place?.name ?? null,
      connection,
      subject: alarm.subject,
      kind: alarm.kind,
      name,
      severity,
      sentence: sentence({ ...alarm, ...scale }),
      isOfConnection,
      raisedAt: alarm.raisedAt.getTime(),
      value: alarm.value,
      limit: alarm.limit,
      unit: scale.unit,
      decimals: scale.decimals,
      returnedAt: alarm.returnedAt?.getTime() ?? null,
      acknowledged: acknowledged ? { at: acknowledged.at.getTime(), by: acknowledged.operator ?? '' } : null,
      shelved: shelved.get(identityOf(alarm)) ?? null,
    }
    return { view, consequence: position?.consequence ?? 1 }
  })
}

/** Returns active alarms and those that returned to normal unacknowledged, the most severe first, then the newest. */
export async function alarmViews(db: Database, now: number): Promise<AlarmView[]> {
  const isUnacknowledged = and(
    gte(alarms.returnedAt, new Date(now - UNACKNOWLEDGED_DAYS * DAY_MS)),
    notExists(
      db
        .select({ one: sql`1` })
        .from(alarmEntries)
        .where(and(eq(alarmEntries.alarmId, alarms.id), eq(alarmEntries.what, 'acknowledged'))),
    ),
  )
  const views = await viewsWhere(
    db,
    now,
    and(isNull(positions.archivedAt), or(isNull(alarms.returnedAt), isUnacknowledged)),
  )
  const rank = ({ view }: (typeof views)[number]) =>
    (view.returnedAt === null ? 0 : 100) + alarmTypes().findIndex(({ kind }) => kind === view.kind)
  return views
    .sort((a, b) => rank(a) - rank(b) || b.consequence - a.consequence || b.view.raisedAt - a.view.raisedAt)
    .map(({ view }) => view)
}

/** Returns all alarms that were active within a period, the newest first, and how often each was raised in it. */
export async function alarmHistory(
  db: Database,
  { from, to, now }: { from: number; to: number; now: number },
): Promise<AlarmHistoryView> {
  const wasActive = and(
    lte(alarms.raisedAt, new Date(to)),
    or(isNull(alarms.returnedAt), gte(alarms.returnedAt, new Date(from))),
  )
  const views = (await viewsWhere(db, now, wasActive)).map(({ view }) => view)
  return { from, to, alarms: views, statistics: alarmStatistics(views, { from, to: Math.min(to, now) }) }
}

const TEXT_STYLE = readerStyle(USUAL_READER, (at) => new Date(at).toISOString())
const iso = (at: number | null | undefined): string => (at == null ? '' : new Date(at).toISOString())

const COLUMNS: Record<string, (alarm: AlarmView) => string | number | null> = {
  raised: (a) => iso(a.raisedAt),
  acknowledged: (a) => iso(a.acknowledged?.at),
  acknowledged_by: (a) => a.acknowledged?.by ?? '',
  returned_to_normal: (a) => iso(a.returnedAt),
  sensor: (a) => a.position,
  place: (a) => a.place,
  connection: (a) => a.connection,
  alarm: (a) => a.name,
  severity: (a) => a.severity,
  value: (a) => a.value,
  limit: (a) => a.limit,
  unit: (a) => a.unit,
  text: (a) => render(a.sentence, TEXT_STYLE),
}

/** Returns the alarms of a period as CSV, times in UTC. */
export const alarmHistoryCsv = ({ alarms: views }: AlarmHistoryView): string =>
  Papa.unparse(
    { fields: Object.keys(COLUMNS), data: views.map((view) => Object.values(COLUMNS).map((of) => of(view))) },
    { escapeFormulae: true },
  )
