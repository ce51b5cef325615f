import { randomBytes, randomUUID } from 'node:crypto'
import type { mailServerBody, recipientBody, TellingView, ToldView, tryTellingBody } from '@frustum/contract'
import { and, desc, eq, isNotNull, isNull, max } from 'drizzle-orm'
import { RateLimiterMemory } from 'rate-limiter-flexible'
import type { InferType } from 'yup'
import { type Author, noteDone } from '../changes/changes.ts'
import type { Database, Transaction } from '../database/open.ts'
import {
  connectionSecrets,
  connections,
  mailServers,
  messages,
  recipients,
  sites,
  tellingSecrets,
} from '../database/schema.ts'
import type { Bus } from '../devices/link.ts'
import { MQTT } from '../devices/protocols/mqtt/index.ts'
import { notFound, Problem } from '../problem.ts'
import { type MailServer, NotSent, send, type Target } from './send.ts'

const MAIL = 'mail'
const SHOWN_MESSAGES = 30
const SITE = { subject: 'site', id: null } as const

export type Recipient = typeof recipients.$inferSelect
type RecipientBody = InferType<typeof recipientBody>

/** Who is told, and what was told last. */
export async function tellingView(db: Database): Promise<TellingView> {
  const mail = await mailServer(db)
  const all = await currentRecipients(db)
  const secrets = new Set((await db.select({ of: tellingSecrets.of }).from(tellingSecrets)).map((s) => s.of))
  const sent = await db
    .select({ id: messages.recipientId, at: max(messages.sentAt) })
    .from(messages)
    .groupBy(messages.recipientId)
  const stuck = await db
    .select()
    .from(messages)
    .where(and(isNull(messages.sentAt), isNotNull(messages.nextTryAt), isNotNull(messages.problem)))
    .orderBy(messages.id)
  const newest = await db
    .select({ message: messages, name: recipients.name })
    .from(messages)
    .innerJoin(recipients, eq(messages.recipientId, recipients.id))
    .orderBy(desc(messages.id))
    .limit(SHOWN_MESSAGES)
  const brokers = await db
    .select({ id: connections.id, name: connections.name })
    .from(connections)
    .where(and(eq(connections.protocol, MQTT.key), isNull(connections.archivedAt)))
  return {
    mail: mail && { ...withoutPassword(mail), hasPassword: mail.password !== null },
    recipients: all.map(({ id, name, by, address, connectionId, wishes }) => {
      const first = stuck.find((m) => m.recipientId === id)
      return {
        id,
        name,
        by,
        address,
        connection: connectionId,
        wishes,
        hasSecret: secrets.has(String(id)),
        lastSentAt: sent.find((s) => s.id === id)?.at?.getTime() ?? null,
        problem: first ? { text: first.problem as string, since: first.madeAt.getTime() } : null,
      }
    }),
    brokers,
    messages: newest.map(({ message, name }) => ({
      id: message.id,
      recipient: name,
      subject: message.subject,
      madeAt: message.madeAt.getTime(),
      sentAt: message.sentAt?.getTime() ?? null,
      tries: message.tries,
      problem: message.problem,
      nextTryAt: message.nextTryAt?.getTime() ?? null,
    })),
  }
}

const withoutPassword = ({ password: _, ...rest }: MailServer) => rest

/** Those that are told now. */
export const currentRecipients = (db: Database): Promise<Recipient[]> =>
  db.select().from(recipients).where(isNull(recipients.archivedAt)).orderBy(recipients.id).execute()

const secretOf = async (db: Database | Transaction, of: string): Promise<string | null> =>
  (await db.select().from(tellingSecrets).where(eq(tellingSecrets.of, of)))[0]?.secret ?? null

async function keepSecret(tx: Transaction, of: string, secret: string | null): Promise<void> {
  await tx.delete(tellingSecrets).where(eq(tellingSecrets.of, of))
  if (secret) await tx.insert(tellingSecrets).values({ of, secret })
}

async function mailServer(db: Database | Transaction): Promise<MailServer | null> {
  const [row] = await db.select().from(mailServers).orderBy(desc(mailServers.id)).limit(1)
  if (!row) return null
  const { host, port, security, user, sender } = row
  return { host, port, security, user, sender, password: await secretOf(db, MAIL) }
}

/** Through which mail server messages go from now on. */
export async function setMailServer(
  db: Database,
  { operator: _, password, ...server }: InferType<typeof mailServerBody>,
  author: Author,
): Promise<void> {
  await db.transaction(async (tx) => {
    const before = await mailServer(tx)
    const { host, port, user, sender, security } = server
    await tx
      .insert(mailServers)
      .values({ host, port, user, sender, security, setAt: author.at, setBy: author.operator })
    // A password is for one host: it does not follow to another.
    const same = before?.host === host && before.port === port && before.user === user
    if (password !== undefined) await keepSecret(tx, MAIL, password || null)
    else if (!same) await keepSecret(tx, MAIL, null)
    await tryAllAgain(tx, author.at)
    await noteDone(tx, SITE, author, `Mail goes through ${host}:${port}, from ${sender}`)
  })
}

/** @throws Problem for a topic without a broker */
async function fields(db: Database | Transaction, { name, by, address, connection, wishes }: RecipientBody) {
  if (by === 'mqtt') {
    const [broker] = await db
      .select({ id: connections.id })
      .from(connections)
      .where(
        and(eq(connections.id, connection ?? 0), eq(connections.protocol, MQTT.key), isNull(connections.archivedAt)),
      )
    if (!broker)
      throw new Problem(400, 'invalid', 'Say through which broker.', {
        detail: 'Nothing was changed.',
        fields: { connection: 'Choose a broker.' },
      })
  }
  return { name, by, address, connectionId: by === 'mqtt' ? connection : null, wishes }
}

/** Somebody is told from now on. */
export async function addRecipient(db: Database, body: RecipientBody, author: Author): Promise<void> {
  await db.transaction(async (tx) => {
    const [made] = await tx
      .insert(recipients)
      .values({ ...(await fields(tx, body)), since: author.at })
      .returning({ id: recipients.id })
    if (body.secret) await keepSecret(tx, String(made?.id), body.secret)
    await noteDone(tx, SITE, author, `${body.name} is told by ${body.by}`)
  })
}

/** Somebody is told otherwise from now on. @throws Problem 404 */
export async function changeRecipient(db: Database, id: number, body: RecipientBody, author: Author): Promise<void> {
  await db.transaction(async (tx) => {
    const before = await recipientById(tx, id)
    await tx
      .update(recipients)
      .set(await fields(tx, body))
      .where(eq(recipients.id, id))
    if (body.secret) await keepSecret(tx, String(id), body.secret)
    else if (before.address !== body.address) await keepSecret(tx, String(id), null)
    await tryAllAgain(tx, author.at)
    await noteDone(tx, SITE, author, `${body.name} is told otherwise`)
  })
}

/** Somebody is told no longer; what waits for them is not sent. @throws Problem 404 */
export async function dropRecipient(db: Database, id: number, author: Author): Promise<void> {
  await db.transaction(async (tx) => {
    const { name } = await recipientById(tx, id)
    await tx.update(recipients).set({ archivedAt: author.at }).where(eq(recipients.id, id))
    await tx
      .update(messages)
      .set({ nextTryAt: null })
      .where(and(eq(messages.recipientId, id), isNull(messages.sentAt)))
    await keepSecret(tx, String(id), null)
    await keepSecret(tx, stopKey(id), null)
    await noteDone(tx, SITE, author, `${name} is told no longer`)
  })
}

async function recipientById(db: Database | Transaction, id: number): Promise<Recipient> {
  const [found] = await db
    .select()
    .from(recipients)
    .where(and(eq(recipients.id, id), isNull(recipients.archivedAt)))
  if (!found) throw notFound('recipient')
  return found
}

/** What waits is tried at once: somebody changed what stood against it. */
async function tryAllAgain(tx: Transaction, at: Date): Promise<void> {
  await tx
    .update(messages)
    .set({ nextTryAt: at })
    .where(and(isNull(messages.sentAt), isNotNull(messages.nextTryAt)))
}

const stopKey = (id: number) => `stop ${id}`

/** What the link in a message to somebody ends with; made when it is first needed. */
async function stopToken(db: Database, id: number): Promise<string> {
  const held = await secretOf(db, stopKey(id))
  if (held) return held
  const token = randomBytes(16).toString('hex')
  await db.insert(tellingSecrets).values({ of: stopKey(id), secret: token })
  return token
}

/** Who is told by a message with this link. @throws Problem 404 */
async function recipientOfLink(db: Database | Transaction, token: string): Promise<Recipient> {
  const [row] = await db.select({ of: tellingSecrets.of }).from(tellingSecrets).where(eq(tellingSecrets.secret, token))
  const id = Number(/^stop (\d+)$/.exec(row?.of ?? '')?.[1] ?? Number.NaN)
  if (!Number.isFinite(id)) throw notFound('recipient')
  return recipientById(db, id)
}

/** What somebody is told, by the link in a message to them. @throws Problem 404 */
export async function toldByLink(db: Database | Transaction, token: string): Promise<ToldView> {
  const { name, wishes } = await recipientOfLink(db, token)
  const [site] = await db.select({ name: sites.name }).from(sites)
  return {
    site: site?.name ?? '',
    name,
    alarms: wishes.alarms !== null,
    due: wishes.digestHour !== null || wishes.reminders,
  }
}

/** Who holds the link in a message stops such messages. @throws Problem 404 */
export async function stopByLink(db: Database, token: string, what: 'due' | 'all', at: Date): Promise<ToldView> {
  return db.transaction(async (tx) => {
    const { id, name, wishes } = await recipientOfLink(tx, token)
    const less = { ...wishes, digestHour: null, reminders: false, ...(what === 'all' ? { alarms: null } : {}) }
    await tx.update(recipients).set({ wishes: less }).where(eq(recipients.id, id))
    const which = what === 'all' ? 'neither alarms nor what is due' : 'no longer what is due'
    await noteDone(tx, SITE, { operator: name, at }, `${name} is told ${which}: stopped by the link in a message`)
    return toldByLink(tx, token)
  })
}

/** All that is needed to send to a recipient. */
export async function targetOf(
  db: Database,
  { id, by, address, connectionId }: Pick<Recipient, 'by' | 'address' | 'connectionId'> & { id: number | null },
  ownAddress: string | null = null,
): Promise<Target> {
  return {
    stop: by === 'mail' && id !== null && ownAddress ? `${ownAddress}/stop/${await stopToken(db, id)}` : null,
    by,
    address,
    secret: id === null ? null : await secretOf(db, String(id)),
    mail: by === 'mail' ? await mailServer(db) : null,
    broker: by === 'mqtt' && connectionId !== null ? await brokerOf(db, connectionId) : null,
  }
}

async function brokerOf(db: Database, id: number): Promise<Bus | null> {
  const [row] = await db
    .select({ protocol: connections.protocol, settings: connections.settings, secret: connectionSecrets.secret })
    .from(connections)
    .leftJoin(connectionSecrets, eq(connectionSecrets.connectionId, connections.id))
    .where(and(eq(connections.id, id), isNull(connections.archivedAt)))
  return row ?? null
}

/** A server that sends to anybody is soon nobody's friend: so many tries in so many seconds. */
export const tellingTries = () => new RateLimiterMemory({ points: 5, duration: 300 })

/** Sends one message to what stands on a form. @throws Problem where it is not taken, or too many were tried */
export async function tryTelling(
  db: Database,
  tries: RateLimiterMemory,
  { name, by, address, connection, secret, id }: InferType<typeof tryTellingBody>,
  now: number,
): Promise<{ sent: true }> {
  await tries.consume('all').catch(() => {
    throw new Problem(429, 'too-many', 'Five messages were tried within five minutes.', {
      detail: 'This one was not sent.',
      hint: 'Wait some minutes, then try once more.',
    })
  })
  const [site] = await db.select({ name: sites.name }).from(sites)
  const target = await targetOf(db, { id, by, address, connectionId: connection })
  const message = {
    id: randomUUID(),
    subject: `${site?.name ?? 'Frustum'}: a try`,
    body: `Frustum reaches ${name} here. Nothing is wrong; somebody tried whether messages arrive.`,
    data: { kind: 'try', site: site?.name ?? null },
  }
  try {
    await send(message, secret ? { ...target, secret } : target, now)
  } catch (error) {
    if (!(error instanceof NotSent)) throw error
    throw new Problem(409, 'not-sent', 'The message did not go out.', {
      detail: error.message,
      hint: 'Nothing was changed. Put right what stands there, then try once more.',
    })
  }
  return { sent: true }
}
