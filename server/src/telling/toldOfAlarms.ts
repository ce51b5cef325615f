import type { AlarmView } from '@frustum/contract'
import { alarmTypeOf, isAtLeast, NOT_DELIVERED } from '@frustum/core'
import { and, eq, inArray, isNull, or } from 'drizzle-orm'
import { lastingAlarms } from '../alarms/alarmStore.ts'
import { alarmViews } from '../alarms/alarmViews.ts'
import type { Database } from '../database/open.ts'
import { toldAlarms } from '../database/schema.ts'
import { grouped } from '../grouped.ts'
import { type Composed, queue, waitingFor } from './queue.ts'
import type { Recipient } from './settings.ts'
import type { SiteText } from './siteText.ts'

const MINUTE_MS = 60_000
/** Sensors of a connection fail, and recover, one after the other: a message waits until none has followed for so long, ms. */
const STORM_QUIET_MS = MINUTE_MS
/** But no longer than this, ms. */
const STORM_LONGEST_MS = 5 * MINUTE_MS

type Told = typeof toldAlarms.$inferSelect

/** Whether it is within the hours in which somebody wants to be told; the gravest are told at any. */
export function isWithin({ from, to }: { from: number; to: number }, hour: number): boolean {
  if (from === to) return true
  return from < to ? hour >= from && hour < to : hour >= from || hour < to
}

/** Puts into the queue what each has to be told of alarms by now. */
export async function tellOfAlarms(
  db: Database,
  recipients: readonly Recipient[],
  site: SiteText,
  now: number,
): Promise<void> {
  if (recipients.length === 0) return
  const views = await alarmViews(db, now)
  // Includes alarms that returned to normal: without them, each look would send the same notice again.
  const shown = inArray(
    toldAlarms.alarmId,
    views.map((v) => v.id),
  )
  const told = await db
    .select()
    .from(toldAlarms)
    .where(or(isNull(toldAlarms.goneToldAt), shown))
  // Whoever is not reached is not told the same again and again once they are.
  const waiting = await waitingFor(db)
  const lasting = new Set((await lastingAlarms(db)).map((a) => a.id))
  for (const recipient of recipients) {
    const own = told.filter((t) => t.recipientId === recipient.id)
    const raisedAt = stormTimes(views.filter((v) => v.returnedAt === null && !own.some((t) => t.alarmId === v.id)))
    const due = views.filter((alarm) =>
      isDue(alarm, { recipient, told: own, raisedAt, waits: waiting.has(recipient.id), site, now }),
    )
    if (due.length > 0) await tell(db, recipient, { alarms: due, site, now })
    const over = returnedToTell(
      own.filter((t) => t.goneToldAt === null && !lasting.has(t.alarmId)),
      views,
      now,
    )
    if (over.length > 0 && isWithin(recipient.wishes, site.hour(now)))
      await tellOfEnd(db, recipient, { over, views, site, now })
  }
}

const isLost = (alarm: AlarmView): alarm is AlarmView & { connection: string } =>
  alarm.isOfConnection && alarm.connection !== null

/** When each connection's sensors that lost their signal count as raised: with the last of them. */
function stormTimes(untold: readonly AlarmView[]): ReadonlyMap<string, number> {
  return lastOfEach(untold.filter(isLost), (alarm) => alarm.raisedAt)
}

function lastOfEach(
  alarms: readonly (AlarmView & { connection: string })[],
  timeOf: (alarm: AlarmView) => number,
): Map<string, number> {
  const times = new Map<string, number>()
  for (const [connection, of] of grouped(alarms, (a) => a.connection)) {
    const all = of.map(timeOf)
    times.set(connection, Math.min(Math.max(...all), Math.min(...all) + STORM_LONGEST_MS - STORM_QUIET_MS))
  }
  return times
}

/** Returns those of which the end can be reported: of a connection, once no other one has followed for a while. */
function returnedToTell(over: readonly Told[], views: readonly AlarmView[], now: number): readonly Told[] {
  const viewOf = new Map(views.map((v) => [v.id, v]))
  const lost = over.flatMap((t) => viewOf.get(t.alarmId) ?? []).filter(isLost)
  const times = lastOfEach(lost, (alarm) => alarm.returnedAt ?? now)
  return over.filter((t) => {
    const at = times.get(viewOf.get(t.alarmId)?.connection ?? '')
    const isOfStorm = lost.some((a) => a.id === t.alarmId)
    return !isOfStorm || at === undefined || now - at >= STORM_QUIET_MS
  })
}

interface Looking {
  recipient: Recipient
  told: readonly Told[]
  /** Of each connection whose sensors lost their signal, see stormTimes. */
  raisedAt: ReadonlyMap<string, number>
  /** A message to them is in the queue. */
  waits: boolean
  site: SiteText
  now: number
}

function isDue(
  alarm: AlarmView,
  { recipient: { name, wishes, since }, told, raisedAt, waits, site, now }: Looking,
): boolean {
  const { alarms, afterMinutes, repeatMinutes } = wishes
  if (alarms === null || !isAtLeast(alarm.severity, alarms)) return false
  if (alarm.acknowledged || alarm.shelved || alarm.raisedAt < since.getTime()) return false
  if (alarm.returnedAt !== null && !alarmTypeOf(alarm.kind).isPast) return false
  // That somebody is not reached is for others to know.
  if (alarm.kind === NOT_DELIVERED.kind && alarm.subject === name) return false
  if (alarm.severity !== 'alarm' && !isWithin(wishes, site.hour(now))) return false
  const before = told.find((t) => t.alarmId === alarm.id)
  if (!before) {
    const storm = isLost(alarm) ? raisedAt.get(alarm.connection) : undefined
    if (storm !== undefined && now - storm < STORM_QUIET_MS) return false
    return now - (storm ?? alarm.raisedAt) >= afterMinutes * MINUTE_MS
  }
  return (
    repeatMinutes > 0 &&
    !waits &&
    alarm.returnedAt === null &&
    now - before.lastAt.getTime() >= repeatMinutes * MINUTE_MS
  )
}

interface Telling {
  alarms: readonly AlarmView[]
  site: SiteText
  now: number
}

async function tell(db: Database, { id, since: _ }: Recipient, { alarms, site, now }: Telling): Promise<void> {
  const at = new Date(now)
  await db.transaction(async (tx) => {
    await queue(tx, id, alarmMessage({ alarms, site, now }), now)
    await tx
      .insert(toldAlarms)
      .values(
        alarms.map((alarm) => ({
          recipientId: id,
          alarmId: alarm.id,
          lastAt: at,
          goneToldAt: alarmTypeOf(alarm.kind).isPast ? at : null,
        })),
      )
      .onConflictDoUpdate({ target: [toldAlarms.recipientId, toldAlarms.alarmId], set: { lastAt: at } })
  })
}

async function tellOfEnd(
  db: Database,
  { id }: Recipient,
  { over, views, site, now }: { over: readonly Told[]; views: readonly AlarmView[]; site: SiteText; now: number },
): Promise<void> {
  const ids = over.map((t) => t.alarmId)
  const ended = views.filter((v) => ids.includes(v.id))
  await db.transaction(async (tx) => {
    // Of what somebody saw, and that is over, nobody needs another word.
    if (ended.length > 0) await queue(tx, id, endMessage({ alarms: ended, site, now }), now)
    await tx
      .update(toldAlarms)
      .set({ goneToldAt: new Date(now) })
      .where(and(eq(toldAlarms.recipientId, id), inArray(toldAlarms.alarmId, ids)))
  })
}

const named = (alarm: AlarmView, site: SiteText): string =>
  [alarm.position, site.text(alarm.sentence)].filter(Boolean).join(' ')

/** Sensors of one connection that lost their signal, or got it back, count as one. */
function storms(alarms: readonly AlarmView[]): { connection: string; alarms: readonly AlarmView[] }[] {
  return [...grouped(alarms.filter(isLost), (a) => a.connection)]
    .filter(([, of]) => of.length > 1)
    .map(([connection, of]) => ({ connection, alarms: of }))
}

/** Returns a line for each storm and each other alarm, and the subject: what happened, or how many. */
function summary(
  alarms: readonly AlarmView[],
  words: {
    storm: (count: number, connection: string) => string
    stormTimes: (of: readonly AlarmView[]) => string
    one: (alarm: AlarmView) => string
    oneTimes: (alarm: AlarmView) => string
    several: (count: number) => string
  },
): { lines: string[]; subject: string } {
  const groups = storms(alarms)
  const single = alarms.filter((a) => !groups.some((g) => g.alarms.includes(a)))
  const heads = [...groups.map((g) => words.storm(g.alarms.length, g.connection)), ...single.map(words.one)]
  return {
    lines: [
      ...groups.map(
        (g) =>
          `${words.storm(g.alarms.length, g.connection)}, ${words.stormTimes(g.alarms)}: ${g.alarms.map((a) => a.position).join(', ')}.`,
      ),
      ...single.map((a) => `${words.one(a)}${a.place ? ` (${a.place})` : ''}, ${words.oneTimes(a)}.`),
    ],
    subject: heads.length === 1 ? (heads[0] as string) : words.several(alarms.length),
  }
}

function alarmMessage({ alarms, site, now }: Telling): Composed {
  const { lines, subject } = summary(alarms, {
    storm: (count, connection) => `${count} sensors on ${connection} send no data`,
    stormTimes: (of) => `since ${site.dayTime(Math.min(...of.map((a) => a.raisedAt)))}`,
    one: (alarm) => named(alarm, site),
    oneTimes: (alarm) => `since ${site.dayTime(alarm.raisedAt)}`,
    several: (count) => `${count} alarms`,
  })
  const caution = alarms.some(({ kind }) => alarmTypeOf(kind).isOfWater)
    ? ['', 'The sensor may be wrong instead of the water. Measure by other means before you dose or change anything.']
    : []
  return {
    key: `alarms ${alarms.map((a) => a.id).join(' ')} at ${now}`,
    subject: `${site.name}: ${subject}`,
    body: [...lines, ...caution].join('\n'),
    data: { kind: 'alarms', site: site.name, alarms: alarms.map((alarm) => forPrograms(alarm, site)) },
  }
}

function endMessage({ alarms, site, now }: Telling): Composed {
  const { lines, subject } = summary(alarms, {
    storm: (count, connection) => `${count} sensors on ${connection} send data again`,
    stormTimes: (of) => `since ${site.dayTime(Math.max(...of.map((a) => a.returnedAt ?? now)))}`,
    one: (alarm) => `${alarm.position ?? site.text(alarm.sentence)} returned to normal`,
    oneTimes: (alarm) => `${site.dayTime(alarm.returnedAt ?? now)}, not acknowledged. It was: ${named(alarm, site)}`,
    several: (count) => `${count} alarms returned to normal`,
  })
  return {
    key: `over ${alarms.map((a) => a.id).join(' ')} at ${now}`,
    subject: `${site.name}: ${subject}`,
    body: lines.join('\n'),
    data: { kind: 'over', site: site.name, alarms: alarms.map((alarm) => forPrograms(alarm, site)) },
  }
}

const iso = (at: number | null) => (at === null ? null : new Date(at).toISOString())

function forPrograms(alarm: AlarmView, site: SiteText) {
  const { id, position, place, connection, subject, kind, severity, value, limit, unit } = alarm
  const [raisedAt, goneAt] = [iso(alarm.raisedAt), iso(alarm.returnedAt)]
  const text = site.text(alarm.sentence)
  return { id, position, place, connection, subject, kind, severity, value, limit, unit, text, raisedAt, goneAt }
}
