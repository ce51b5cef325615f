import type { PlannedTripView, PlanView, ToDo } from '@frustum/contract'
import { DAY_MS, type Sentence } from '@frustum/core'
import { gte } from 'drizzle-orm'
import type { Database } from '../database/open.ts'
import { messages } from '../database/schema.ts'
import { planOf } from '../plan/plan.ts'
import { openToDos } from '../rounds/toDos.ts'
import { runningWaits } from '../rounds/waits.ts'
import { shelf } from '../shelf/shelf.ts'
import { visitsUnderWay } from '../visits/underWay.ts'
import { type Composed, queue } from './queue.ts'
import type { Recipient } from './settings.ts'
import type { SiteText } from './siteText.ts'
import { isWithin } from './toldOfAlarms.ts'

const MINUTE_MS = 60_000
const HOUR_MS = 60 * MINUTE_MS
/** A digest that could not be made in its hour is made so long after, h; later the day is too far gone. */
const DIGEST_LATE_HOURS = 3
/** How far ahead the digest looks beyond its day, d. */
const DIGEST_DAYS = 7
/** What is to be begun is told so long before, ms. */
const BEFORE_MS = 10 * MINUTE_MS
/** A result that is not there after so long is asked for. */
const OUTSTANDING_MS = 2 * DAY_MS
/** An open visit is listed in the daily summary so long after its start, or after its last wait ended. */
const LEFT_OPEN_MS = 12 * HOUR_MS

/** Puts into the queue what each has to be told of what is due: a digest in the morning, and what has to be begun. */
export async function tellOfDue(
  db: Database,
  recipients: readonly Recipient[],
  site: SiteText,
  { now, backupWarning }: { now: number; backupWarning: () => Promise<Sentence | null> },
): Promise<void> {
  const hour = site.hour(now)
  const digesting = recipients.filter(({ wishes: { digestHour: at } }) => {
    return at !== null && hour >= at && hour < at + DIGEST_LATE_HOURS
  })
  const reminding = recipients.filter(({ wishes }) => wishes.reminders && isWithin(wishes, hour))
  if (digesting.length === 0 && reminding.length === 0) return
  const known = new Set(
    (
      await db
        .select({ id: messages.recipientId, key: messages.key })
        .from(messages)
        .where(gte(messages.madeAt, new Date(now - 40 * DAY_MS)))
    ).map(({ id, key }) => `${id} ${key}`),
  )
  const isNew = ({ id }: Recipient, key: string) => !known.has(`${id} ${key}`)
  const digestKey = `digest ${site.date(now)}`
  const missing = digesting.filter((r) => isNew(r, digestKey))
  const plan = await planOf(db, now)
  if (missing.length > 0) {
    const toDo = await openToDos(db, now, await backupWarning())
    const digest = { ...(await digestOf(db, { plan, toDo, site, now })), key: digestKey }
    for (const { id } of missing) await queue(db, id, digest, now)
  }
  if (reminding.length === 0) return
  const due = await remindersOf(db, plan, site, now)
  for (const recipient of reminding)
    for (const reminder of due) if (isNew(recipient, reminder.key)) await queue(db, recipient.id, reminder, now)
}

const visitsText = ({ visits }: PlannedTripView) =>
  visits.map((v) => `  ${v.position}: ${v.procedure.toLowerCase()}, ${v.minutes} min${v.spot ? `, ${v.spot}` : ''}`)

const kitText = ({ kit, needs }: PlannedTripView) => [
  ...kit.map(
    (k) => `  ${k.label}, ${k.milliliters} mL${k.lot ? ` of lot ${k.lot}` : ''}${k.warning ? ` (${k.warning})` : ''}`,
  ),
  ...needs.map((n) => `  ${n}`),
]

interface Digest {
  plan: PlanView
  toDo: readonly ToDo[]
  site: SiteText
  now: number
}

async function digestOf(db: Database, { plan, toDo, site, now }: Digest): Promise<Omit<Composed, 'key'>> {
  const today = plan.trips.filter((t) => t.day <= plan.today)
  const soon = plan.trips.filter((t) => t.day > plan.today && t.day <= plan.today + DIGEST_DAYS * DAY_MS)
  const { toBuy } = await shelf(db, now)
  const buy = toBuy.filter((b) => b.by <= site.date(now))
  const renew = plan.consumables.filter((c) => c.due <= plan.today + DAY_MS)
  const waiting = await outstanding(db)
  const openVisits = await visitsLeftOpen(db, now)
  // A standard with no usable bottle left is among those to buy.
  const tasks = toDo.filter((t) => t.kind !== 'standard')
  const count = today.reduce((sum, t) => sum + t.visits.length, 0)
  const parts: string[][] = [
    ...today.map((t) => [
      `${t.place}, from ${site.time(t.arrival)}:`,
      ...visitsText(t),
      ...(t.kit.length + t.needs.length > 0 ? ['To pack:', ...kitText(t)] : []),
      ...begins(t).map(({ what, at }) => `Begin at ${site.dayTime(at)}: ${what}`),
    ]),
    soon.length > 0
      ? [
          `In the next ${DIGEST_DAYS} days:`,
          ...soon.map((t) => `  ${site.dayTime(t.arrival)}, ${t.place}: ${t.visits.map((v) => v.position).join(', ')}`),
        ]
      : [],
    buy.length > 0 ? ['To buy:', ...buy.map((b) => `  ${b.label}. ${b.why}`)] : [],
    renew.length > 0 ? ['To renew:', ...renew.map((c) => `  ${c.name}, ${c.place}`)] : [],
    waiting.length > 0
      ? ['Results outstanding:', ...waiting.map((w) => `  ${w.position}, since ${site.dayTime(w.since)}`)]
      : [],
    openVisits.length > 0
      ? [
          'Visits still open:',
          ...openVisits.map((v) => `  ${v.position}, ${v.operator}, since ${site.dayTime(v.since)}`),
        ]
      : [],
    tasks.length > 0 ? ['Also to do:', ...tasks.map((t) => `  ${site.text(t.sentence)}`)] : [],
  ].filter((part) => part.length > 0)
  const subject =
    count === 0 ? 'no visit is due today' : count === 1 ? '1 visit is due today' : `${count} visits are due today`
  return {
    subject: `${site.name}: ${subject}`,
    body: [count === 0 ? 'No visit is due today.' : null, ...parts.map((p) => p.join('\n'))]
      .filter(Boolean)
      .join('\n\n'),
    data: {
      kind: 'digest',
      site: site.name,
      today: today.flatMap((t) => t.visits.map(({ position, procedure }) => ({ place: t.place, position, procedure }))),
      toBuy: buy.map((b) => b.label),
    },
  }
}

/** What has to be begun before one arrives, and when. */
function begins({ timeline, arrival }: PlannedTripView): { what: string; at: number }[] {
  return timeline.entries
    .filter((e) => e.start < 0)
    .map((e) => ({ what: e.position ? `${e.position}: ${e.what}` : e.what, at: arrival + e.start * MINUTE_MS }))
}

async function outstanding(db: Database): Promise<{ id: string; position: string; since: number }[]> {
  return (await visitsUnderWay(db)).flatMap(({ row, position, current }) =>
    current?.pending ? [{ id: row.id, position, since: row.startedAt.getTime() }] : [],
  )
}

/** Visits that were probably forgotten: nothing happened in them for hours, and no result is awaited. */
async function visitsLeftOpen(
  db: Database,
  now: number,
): Promise<{ position: string; operator: string; since: number }[]> {
  return (await visitsUnderWay(db)).flatMap(({ row, position, current, waiting }) => {
    const since = row.startedAt.getTime()
    const until = (waiting ? waiting.since + waiting.minutes * MINUTE_MS : since) + LEFT_OPEN_MS
    return current?.pending || now < until ? [] : [{ position, operator: row.operator, since }]
  })
}

async function remindersOf(db: Database, plan: PlanView, site: SiteText, now: number): Promise<Composed[]> {
  const reminder = (key: string, what: string, body: string): Composed => ({
    key,
    subject: `${site.name}: ${what}`,
    body,
    data: { kind: 'reminder', site: site.name, what },
  })
  const toBegin = plan.trips.flatMap((trip) =>
    begins(trip).flatMap(({ what, at }) =>
      at - BEFORE_MS <= now && now < trip.arrival
        ? [
            reminder(
              `begin ${trip.id} ${what}`,
              `begin now: ${what}`,
              `${what}\nIt has to be done before the visit at ${trip.place} at ${site.dayTime(trip.arrival)}.`,
            ),
          ]
        : [],
    ),
  )
  const over = (await runningWaits(db)).flatMap(({ visit, position, what, until }) =>
    until <= now && now - until < 12 * HOUR_MS
      ? [
          reminder(
            `wait ${visit} ${what} ${until}`,
            `${position}: ${what} is over`,
            `It ended at ${site.dayTime(until)}.`,
          ),
        ]
      : [],
  )
  const { toBuy } = await shelf(db, now)
  const buy = toBuy.flatMap(({ standard, label, why, by }) =>
    by <= site.date(now) ? [reminder(`buy ${standard} ${by.slice(0, 7)}`, `order ${label}`, why)] : [],
  )
  const late = (await outstanding(db)).flatMap(({ id, position, since }) =>
    now - since >= OUTSTANDING_MS
      ? [
          reminder(
            `result ${id}`,
            `the result for ${position} is outstanding`,
            `The sample was taken on ${site.dayTime(since)}. Until its result is typed, the visit stays open.`,
          ),
        ]
      : [],
  )
  return [...toBegin, ...over, ...buy, ...late]
}
