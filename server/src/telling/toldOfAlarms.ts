import type { AlarmView } from '@frustum/contract'
import { type AlarmKind, alarmSentence, isAtLeast } from '@frustum/core'
import { and, eq, inArray, isNull, or } from 'drizzle-orm'
import { alarmViews, lastingAlarms } from '../alarms/alarmStore.ts'
import type { Database } from '../database/open.ts'
import { toldAlarms } from '../database/schema.ts'
import { type Composed, queue, waitingFor } from './queue.ts'
import type { Recipient } from './settings.ts'
import type { SiteText } from './siteText.ts'

const MINUTE_MS = 60_000
/** Over before they are told. */
const OVER_AT_ONCE: readonly AlarmKind[] = ['not-watched', 'clock-set']
/** What says that the water may be wrong. */
const OF_WATER: readonly AlarmKind[] = ['high-high', 'low-low', 'high', 'low', 'change', 'unusual', 'apart']

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
    const due = views.filter((alarm) =>
      isDue(alarm, { recipient, told: own, waits: waiting.has(recipient.id), site, now }),
    )
    if (due.length > 0) await tell(db, recipient, { alarms: due, site, now })
    const over = own.filter((t) => t.goneToldAt === null && !lasting.has(t.alarmId))
    if (over.length > 0 && isWithin(recipient.wishes, site.hour(now)))
      await tellOfEnd(db, recipient, { over, views, site, now })
  }
}

interface Looking {
  recipient: Recipient
  told: readonly Told[]
  /** A message to them is in the queue. */
  waits: boolean
  site: SiteText
  now: number
}

function isDue(alarm: AlarmView, { recipient: { name, wishes, since }, told, waits, site, now }: Looking): boolean {
  const { alarms, afterMinutes, repeatMinutes } = wishes
  if (alarms === null || !isAtLeast(alarm.severity, alarms)) return false
  if (alarm.seen || alarm.quiet || alarm.raisedAt < since.getTime()) return false
  if (alarm.goneAt !== null && !OVER_AT_ONCE.includes(alarm.kind)) return false
  // That somebody is not reached is for others to know.
  if (alarm.kind === 'not-told' && alarm.subject === name) return false
  if (alarm.severity !== 'alarm' && !isWithin(wishes, site.hour(now))) return false
  if (now - alarm.raisedAt < afterMinutes * MINUTE_MS) return false
  const before = told.find((t) => t.alarmId === alarm.id)
  if (!before) return true
  return (
    repeatMinutes > 0 && !waits && alarm.goneAt === null && now - before.lastAt.getTime() >= repeatMinutes * MINUTE_MS
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
          goneToldAt: OVER_AT_ONCE.includes(alarm.kind) ? at : null,
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
  [alarm.position, site.text(alarmSentence(alarm))].filter(Boolean).join(' ')

/** A line for each; of one cause one for all. */
function lines(alarms: readonly AlarmView[], site: SiteText): string[] {
  const causes = new Set<string>()
  return alarms.flatMap((alarm) => {
    if (alarm.cause !== null) {
      if (causes.has(alarm.cause)) return []
      causes.add(alarm.cause)
      const of = alarms.filter((a) => a.cause === alarm.cause)
      if (of.length > 1)
        return `${alarm.cause}: ${of.length} sensors at once do not answer (${of.map((a) => a.position).join(', ')}), so it is likely the line. Since ${site.dayTime(Math.min(...of.map((a) => a.raisedAt)))}.`
    }
    return `${named(alarm, site)}${alarm.place ? ` (${alarm.place})` : ''}, since ${site.dayTime(alarm.raisedAt)}.`
  })
}

function alarmMessage({ alarms, site, now }: Telling): Composed {
  const all = lines(alarms, site)
  const [first] = alarms
  const what = all.length === 1 && first ? (first.cause ?? named(first, site)) : `${all.length} alarms`
  const caution = alarms.some(({ kind }) => OF_WATER.includes(kind))
    ? ['', 'A sensor may be wrong as well as the water: measure by other means before you dose or change anything.']
    : []
  return {
    key: `alarms ${alarms.map((a) => a.id).join(' ')} at ${now}`,
    subject: `${site.name}: ${what}`,
    body: [...all, ...caution].join('\n'),
    data: { kind: 'alarms', site: site.name, alarms: alarms.map((alarm) => forPrograms(alarm, site)) },
  }
}

function endMessage({ alarms, site, now }: Telling): Composed {
  const [first] = alarms
  const what =
    !first || alarms.length > 1
      ? `${alarms.length} are over`
      : first.position
        ? `${first.position} is well again`
        : `over: ${named(first, site)}`
  return {
    key: `over ${alarms.map((a) => a.id).join(' ')} at ${now}`,
    subject: `${site.name}: ${what}`,
    body: alarms
      .map((a) => `${named(a, site)}: over since ${site.dayTime(a.goneAt ?? now)}. Nobody has marked it as seen.`)
      .join('\n'),
    data: { kind: 'over', site: site.name, alarms: alarms.map((alarm) => forPrograms(alarm, site)) },
  }
}

const iso = (at: number | null) => (at === null ? null : new Date(at).toISOString())

function forPrograms(alarm: AlarmView, site: SiteText) {
  const { id, position, place, subject, kind, severity, value, limit, unit, cause } = alarm
  const [raisedAt, goneAt] = [iso(alarm.raisedAt), iso(alarm.goneAt)]
  const text = site.text(alarmSentence(alarm))
  return { id, position, place, subject, kind, severity, value, limit, unit, cause, text, raisedAt, goneAt }
}
