import type { AlarmView } from '@frustum/contract'
import {
  ALARM_KINDS,
  type AlarmChange,
  type AlarmKind,
  type AlarmLimits,
  AlarmWatch,
  DAY_MS,
  limitsProblem,
  modelOf,
  type ReadingState,
  severityOf,
} from '@frustum/core'
import { and, asc, desc, eq, gte, inArray, isNull } from 'drizzle-orm'
import type { Logger } from 'pino'
import { type Author, noteDone } from '../changes/changes.ts'
import type { Database } from '../database/open.ts'
import { alarmEntries, alarms, connections, devices, places, positions } from '../database/schema.ts'
import { notFound, Problem } from '../problem.ts'
import { type Installed, installedAt } from '../sensors.ts'

/** One that is gone and that nobody saw is shown for so long, d. */
const UNSEEN_DAYS = 30

interface Watched {
  watch: AlarmWatch
  limits: string
}

/** Watches what all sensors read. What changes is written at once, one after the other. */
export class Alarms {
  private readonly watched = new Map<number, Watched>()
  private writing: Promise<void> = Promise.resolve()

  constructor(
    private readonly db: Database,
    private readonly log: Logger,
  ) {}

  /** From now on these are watched, by the limits that they have; what was raised before a restart still is. */
  async follow(installed: readonly Installed[]): Promise<void> {
    const fresh = installed.filter(({ position }) => !this.watched.has(position.id))
    const open = await openOf(
      this.db,
      fresh.map(({ position }) => position.id),
    )
    for (const { position } of installed) {
      const limits = JSON.stringify(position.limits)
      const known = this.watched.get(position.id)
      if (!known) {
        const raised = open.filter((a) => a.positionId === position.id).map((a) => a.kind)
        this.watched.set(position.id, { watch: new AlarmWatch(position.limits, raised), limits })
      } else if (known.limits !== limits) {
        known.watch.setLimits(position.limits)
        known.limits = limits
      }
    }
    for (const id of this.watched.keys()) if (!installed.some((i) => i.position.id === id)) this.watched.delete(id)
  }

  /** What a sensor reads now. */
  push(positionId: number, reading: { at: number; value: number | null; state: ReadingState }): void {
    const changes = this.watched.get(positionId)?.watch.push(reading) ?? []
    for (const change of changes) {
      this.writing = this.writing
        .then(() => this.write(positionId, change))
        .catch((error) => this.log.error({ err: error }, 'alarm not written'))
    }
  }

  private async write(positionId: number, { kind, raised, at, value, limit }: AlarmChange): Promise<void> {
    if (raised) {
      await this.db.insert(alarms).values({ positionId, kind, raisedAt: new Date(at), value, limit })
      return
    }
    for (const open of await openOf(this.db, [positionId])) {
      if (open.kind === kind)
        await this.db.insert(alarmEntries).values({ alarmId: open.id, at: new Date(at), what: 'gone' })
    }
  }

  /** Resolves when all that changed is written. */
  async idle(): Promise<void> {
    await this.writing
  }
}

type Alarm = typeof alarms.$inferSelect
type Entry = typeof alarmEntries.$inferSelect

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

const isGone = (entries: readonly Entry[]) => entries.some((e) => e.what === 'gone')

/** Those of some positions that last. */
async function openOf(db: Database, positionIds: readonly number[]): Promise<Alarm[]> {
  if (positionIds.length === 0) return []
  const rows = await db
    .select()
    .from(alarms)
    .where(inArray(alarms.positionId, [...positionIds]))
    .orderBy(desc(alarms.id))
  const entries = await entriesOf(
    db,
    rows.map((r) => r.id),
  )
  return rows.filter(({ id }) => !isGone(entries.get(id) ?? []))
}

/** What lasts, and what was and nobody saw: the gravest first, and of those the newest. */
export async function alarmViews(db: Database, now: number): Promise<AlarmView[]> {
  const rows = await db
    .select({ alarm: alarms, position: positions, place: places, device: devices, connection: connections.name })
    .from(alarms)
    .innerJoin(positions, eq(alarms.positionId, positions.id))
    .innerJoin(places, eq(positions.placeId, places.id))
    .innerJoin(devices, eq(positions.deviceId, devices.id))
    .leftJoin(connections, eq(devices.connectionId, connections.id))
    .where(and(isNull(positions.archivedAt), gte(alarms.raisedAt, new Date(now - 400 * DAY_MS))))
    .orderBy(desc(alarms.raisedAt))
  const entries = await entriesOf(
    db,
    rows.map((r) => r.alarm.id),
  )
  const views = rows.flatMap(({ alarm, position, place, device, connection }) => {
    const of = entries.get(alarm.id) ?? []
    const gone = of.find((e) => e.what === 'gone')
    const seen = of.find((e) => e.what === 'seen')
    if (gone && (seen || gone.at.getTime() < now - UNSEEN_DAYS * DAY_MS)) return []
    const quiet = of.findLast((e) => e.what === 'quiet')
    const { unit, decimals } = modelOf(position.kind).shownScale(device.setting)
    const view: AlarmView = {
      id: alarm.id,
      position: position.code,
      place: place.name,
      kind: alarm.kind,
      severity: severityOf(alarm.kind),
      raisedAt: alarm.raisedAt.getTime(),
      value: alarm.value,
      limit: alarm.limit,
      unit,
      decimals,
      goneAt: gone?.at.getTime() ?? null,
      seen: seen ? { at: seen.at.getTime(), by: seen.operator ?? '' } : null,
      quiet:
        quiet?.until && quiet.until.getTime() > now
          ? { until: quiet.until.getTime(), by: quiet.operator ?? '', reason: quiet.reason ?? '' }
          : null,
      cause: alarm.kind === 'blind' && !gone ? connection : null,
    }
    return [{ view, consequence: position.consequence }]
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

/** Between which values a position should be from now on. @throws Problem that names what is wrong */
export async function setLimits(
  db: Database,
  code: string,
  limits: AlarmLimits | null,
  author: Author,
): Promise<AlarmLimits | null> {
  const { position, device } = await installedAt(db, code)
  const model = modelOf(position.kind)
  const problem = limits && limitsProblem(limits, model.shownRange(device.setting))
  if (problem)
    throw new Problem(400, 'invalid', problem, { detail: 'Nothing was changed.', fields: { limits: problem } })
  await db.transaction(async (tx) => {
    await tx.update(positions).set({ limits }).where(eq(positions.id, position.id))
    await noteDone(tx, { subject: 'position', id: position.id }, author, limitsText(limits))
  })
  return limits
}

function limitsText(limits: AlarmLimits | null): string {
  if (!limits) return 'Alarm limits taken away'
  const { lowLow, low, high, highHigh } = limits
  return `Alarm limits: ${[lowLow, low, high, highHigh].map((v) => v ?? 'none').join(', ')}`
}

/** Those of some span, for a chart. */
export async function alarmsBetween(
  db: Database,
  positionId: number,
  { from, to }: { from: number; to: number },
): Promise<{ id: number; kind: AlarmKind; from: number; to: number | null }[]> {
  const rows = await db.select().from(alarms).where(eq(alarms.positionId, positionId)).orderBy(asc(alarms.raisedAt))
  const entries = await entriesOf(
    db,
    rows.map((r) => r.id),
  )
  return rows
    .map(({ id, kind, raisedAt }) => ({
      id,
      kind,
      from: raisedAt.getTime(),
      to:
        entries
          .get(id)
          ?.find((e) => e.what === 'gone')
          ?.at.getTime() ?? null,
    }))
    .filter((alarm) => alarm.from <= to && (alarm.to ?? to) >= from)
}
