import { createHmac } from 'node:crypto'
import type { MailSecurity, TellingWay } from '@frustum/contract'
import nodemailer from 'nodemailer'
import { Agent, request } from 'undici'
import type { Bus } from '../devices/link.ts'
import { brokerProblem, openBroker } from '../devices/protocols/mqtt/mqttConnection.ts'
import { lookUpPermitted, mayBePermitted, NOT_PERMITTED, servicesOnly } from '../outbound.ts'

/** How long anybody is waited for, ms. */
const WITHIN_MS = 10_000

export interface MailServer {
  host: string
  port: number
  security: MailSecurity
  user: string
  sender: string
  password: string | null
}

/** What is told, to people and to programs. */
export interface Message {
  /** The same with each try, so that who gets it twice can tell. */
  id: string
  subject: string
  body: string
  data: unknown
}

/** To whom, with all that is needed for it. */
export interface Target {
  by: TellingWay
  address: string
  /** What a webhook is signed with. */
  secret: string | null
  mail: MailServer | null
  broker: Bus | null
  /** Where whoever gets it can stop it; of mails alone. */
  stop: string | null
}

/** Why a message does not go out, in a sentence. */
export class NotSent extends Error {}

/** Sends a message; resolves once the other side has taken it. @throws NotSent */
export async function send(message: Message, target: Target, now: number): Promise<void> {
  if (target.by === 'mail') await mail(message, target)
  else if (target.by === 'webhook') await hook(message, target, now)
  else await publish(message, target, now)
}

async function mail({ id, subject, body }: Message, { address, mail: server, stop }: Target): Promise<void> {
  if (!server) throw new NotSent('No mail server is set.')
  const { host, port, security, user, password, sender } = server
  const transport = nodemailer.createTransport({
    host,
    port,
    secure: security === 'tls',
    requireTLS: security === 'starttls',
    ignoreTLS: security === 'none',
    connectionTimeout: WITHIN_MS,
    greetingTimeout: WITHIN_MS,
    socketTimeout: WITHIN_MS,
    ...(user ? { auth: { user, pass: password ?? '' } } : {}),
  })
  try {
    await transport.sendMail({
      from: { name: 'Frustum', address: sender },
      to: address,
      subject,
      text: `${body}\n\n${lessText(stop)}`,
      // RFC 2369: the mail program's own way to stop it.
      ...(stop ? { list: { unsubscribe: stop } } : {}),
      messageId: `<${id}@frustum>`,
      // Whoever is away does not answer to a machine (RFC 3834).
      headers: { 'Auto-Submitted': 'auto-generated' },
    })
  } catch (error) {
    throw new NotSent(mailProblem(error as MailError, server))
  } finally {
    transport.close()
  }
}

const lessText = (stop: string | null): string =>
  stop ? `To get less of this, or none:\n${stop}` : 'To get less of this, or none: Frustum, Site, Who is told.'

interface MailError extends Error {
  code?: string
  responseCode?: number
  response?: string
}

function mailProblem(error: MailError, { host, port }: MailServer): string {
  const where = `${host}:${port}`
  if (error.code === 'EAUTH') return `${where} does not take this user and password.`
  if (error.code === 'ETLS') return `${where} offers no encryption as it was set.`
  if (error.code === 'EENVELOPE' || error.responseCode) return `${where} refuses it: ${error.response ?? error.message}`
  if (error.code === 'ETIMEDOUT') return `${where} does not answer.`
  return `${where} cannot be reached: ${error.message}`
}

/**
 * What a webhook is signed with, so that its receiver knows it is ours and of now: HMAC-SHA-256 (RFC 2104, FIPS 198-1)
 * over the time, a full stop, and the body as it was sent.
 */
const signatureOf = (secret: string, time: string, body: string): string =>
  `sha256=${createHmac('sha256', secret).update(`${time}.${body}`).digest('hex')}`

async function hook(message: Message, { address, secret }: Target, now: number): Promise<void> {
  const body = JSON.stringify(forPrograms(message, now))
  const time = String(Math.floor(now / 1000))
  const headers: Record<string, string> = { 'Content-Type': 'application/json', 'Frustum-Time': time }
  if (secret) headers['Frustum-Signature'] = signatureOf(secret, time, body)
  const notPermitted = `${hostOf(address)} isn't a permitted address for a webhook.`
  if (!URL.canParse(address) || !mayBePermitted(new URL(address), servicesOnly)) throw new NotSent(notPermitted)
  const agent = new Agent({ connect: { lookup: lookUpPermitted(servicesOnly) }, pipelining: 0 })
  try {
    // Redirects are not followed: what is for one address goes to no other.
    const { statusCode, body: answer } = await request(address, {
      dispatcher: agent,
      method: 'POST',
      body,
      headers,
      signal: AbortSignal.timeout(WITHIN_MS),
    })
    await answer.dump()
    if (statusCode < 200 || statusCode >= 300) throw new NotSent(`${hostOf(address)} answers ${statusCode}.`)
  } catch (error) {
    if (error instanceof NotSent) throw error
    const { code, message } = error as Error & { code?: string }
    throw new NotSent(code === NOT_PERMITTED ? notPermitted : `${hostOf(address)} can't be reached: ${message}`)
  } finally {
    void agent.destroy()
  }
}

const hostOf = (url: string): string => (URL.canParse(url) ? new URL(url).host : url)

const forPrograms = ({ id, subject, body, data }: Message, now: number) => ({
  id,
  at: new Date(now).toISOString(),
  subject,
  text: body,
  ...(data as object),
})

async function publish(message: Message, { address, broker }: Target, now: number): Promise<void> {
  if (!broker) throw new NotSent('The broker of this topic is no longer connected.')
  const client = openBroker(broker)
  try {
    await new Promise<void>((resolve, reject) => {
      const late = setTimeout(() => reject(new NotSent('The broker does not answer.')), WITHIN_MS)
      const fail = (error: Error) => {
        clearTimeout(late)
        reject(new NotSent(brokerProblem(error, broker).message))
      }
      client.once('error', fail)
      client.once('connect', () => {
        client.publish(address, JSON.stringify(forPrograms(message, now)), { qos: 1 }, (error) => {
          if (error) return fail(error)
          clearTimeout(late)
          resolve()
        })
      })
    })
  } finally {
    client.end(true)
  }
}
