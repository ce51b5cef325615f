import { DAY_MS, NOT_DELIVERED } from '@frustum/core'
import { and, asc, eq, isNotNull, isNull, lt, lte } from 'drizzle-orm'
import { lastingAlarms, setAlarms } from '../alarms/alarmStore.ts'
import type { Database, Transaction } from '../database/open.ts'
import { messages, recipients } from '../database/schema.ts'
import { NotSent, send } from './send.ts'
import { targetOf } from './settings.ts'

/** A message that is to be told. */
export interface Composed {
  /** What it is of: of each recipient and key there is one. */
  key: string
  subject: string
  body: string
  data: unknown
}

/** How soon the next try comes, ms: twice as long each time. */
const FIRST_AGAIN_MS = 30_000
const LAST_AGAIN_MS = 3_600_000
/** What is older says nothing any more. */
const GIVEN_UP_MS = DAY_MS
/** After so many tries it is itself an alarm. */
const FAILED_TRIES = 3
/** What was sent is shown for so long. */
const KEPT_MS = 90 * DAY_MS

/** Puts a message into the queue, once for each key. */
export async function queue(
  tx: Database | Transaction,
  recipientId: number,
  { key, subject, body, data }: Composed,
  now: number,
): Promise<void> {
  const at = new Date(now)
  await tx
    .insert(messages)
    .values({ recipientId, key, subject, body, data, madeAt: at, nextTryAt: at })
    .onConflictDoNothing()
}

/** Recipients for whom something is in the queue. */
export async function waitingFor(db: Database): Promise<Set<number>> {
  const rows = await db
    .selectDistinct({ id: messages.recipientId })
    .from(messages)
    .where(and(isNull(messages.sentAt), isNotNull(messages.nextTryAt)))
  return new Set(rows.map((r) => r.id))
}

/** Sends what waits and is due, to each recipient in turn; what does not go out is tried again later. */
export async function deliver(db: Database, now: number, ownAddress: string | null): Promise<void> {
  const due = await db
    .select({ message: messages, recipient: recipients })
    .from(messages)
    .innerJoin(recipients, eq(messages.recipientId, recipients.id))
    .where(and(isNull(messages.sentAt), lte(messages.nextTryAt, new Date(now))))
    .orderBy(asc(messages.id))
  if (due.length === 0) return
  const ids = [...new Set(due.map((d) => d.recipient.id))]
  // One that hangs keeps nobody else waiting.
  await Promise.all(
    ids.map(async (id) => {
      for (const { message, recipient } of due)
        if (recipient.id === id) await tryOne(db, message, recipient, { now, ownAddress })
    }),
  )
  await noteFailures(db, now)
}

async function tryOne(
  db: Database,
  message: typeof messages.$inferSelect,
  recipient: typeof recipients.$inferSelect,
  { now, ownAddress }: { now: number; ownAddress: string | null },
): Promise<void> {
  const { id, subject, body, data, madeAt } = message
  const tries = message.tries + 1
  try {
    await send(
      { id: `${recipient.id}-${id}-${madeAt.getTime()}`, subject, body, data },
      await targetOf(db, recipient, ownAddress),
      now,
    )
    await db
      .update(messages)
      .set({ sentAt: new Date(now), tries, problem: null })
      .where(eq(messages.id, id))
  } catch (error) {
    if (!(error instanceof NotSent)) throw error
    const again = Math.min(LAST_AGAIN_MS, FIRST_AGAIN_MS * 2 ** (tries - 1))
    const nextTryAt = now + again - madeAt.getTime() > GIVEN_UP_MS ? null : new Date(now + again)
    await db.update(messages).set({ tries, problem: error.message, nextTryAt }).where(eq(messages.id, id))
  }
}

/** Whoever cannot be reached is an alarm, until the next message arrives. */
async function noteFailures(db: Database, now: number): Promise<void> {
  const rows = await db
    .select({ name: recipients.name, tries: messages.tries, sentAt: messages.sentAt })
    .from(messages)
    .innerJoin(recipients, eq(messages.recipientId, recipients.id))
    .where(isNull(recipients.archivedAt))
    .orderBy(asc(messages.id))
  const failing = new Map<string, boolean>()
  for (const { name, tries, sentAt } of rows) {
    if (sentAt) failing.set(name, false)
    else if (tries >= FAILED_TRIES) failing.set(name, true)
  }
  const wrong = [...failing].flatMap(([subject, isFailing]) =>
    isFailing ? [{ kind: NOT_DELIVERED.kind, positionId: null, subject, at: now }] : [],
  )
  const before = (await lastingAlarms(db)).filter((a) => a.kind === NOT_DELIVERED.kind)
  if (wrong.length > 0 || before.length > 0) await setAlarms(db, [NOT_DELIVERED.kind], wrong, now)
}

/** Forgets what was sent long ago. */
export async function forgetMessages(db: Database, now: number): Promise<void> {
  await db.delete(messages).where(and(isNotNull(messages.sentAt), lt(messages.sentAt, new Date(now - KEPT_MS))))
}
