import { createHmac, timingSafeEqual } from 'node:crypto'
import { createServer, type IncomingMessage } from 'node:http'
import { simpleParser } from 'mailparser'
import { SMTPServer } from 'smtp-server'
import { portOf } from './freePort.ts'

/** What came, by mail or by a webhook. */
export interface Post {
  by: 'mail' | 'webhook'
  /** ISO 8601. */
  at: string
  to: string
  subject: string
  text: string
  /** Of a webhook: whether it was signed with the key that is known here. */
  signed?: boolean
  data?: unknown
}

export interface PostOffice {
  /** Port of the mail server, and of the receiver of webhooks that also shows all that came. */
  mail: number
  hooks: number
  readonly post: readonly Post[]
  /** From now on nothing is taken, or everything again. */
  refuse(refuses: boolean): void
  close(): Promise<void>
}

const MOST = 200
const MOST_BYTES = 1_000_000

/** A mail server and a receiver of webhooks, both on loopback, that keep what comes to look at. */
export async function startPostOffice(key: string, ports: { mail?: number } = {}): Promise<PostOffice> {
  const post: Post[] = []
  let refuses = false
  const take = (one: Post) => {
    post.unshift(one)
    post.length = Math.min(post.length, MOST)
  }
  const smtp = new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS'],
    size: MOST_BYTES,
    onAuth: (_auth, _session, done) => done(null, { user: 'anybody' }),
    onMailFrom: (_address, _session, done) =>
      done(refuses ? Object.assign(new Error('Closed for now'), { responseCode: 451 }) : undefined),
    onData: (stream, session, done) => {
      simpleParser(stream, { skipHtmlToText: true })
        .then(({ subject = '', text = '' }) => {
          const to = session.envelope.rcptTo.map((r) => r.address).join(', ')
          take({ by: 'mail', at: new Date().toISOString(), to, subject, text: text.trim() })
          done()
        })
        .catch(done)
    },
  })
  // What a client breaks off is no trouble of the server.
  smtp.on('error', () => undefined)
  const hooks = createServer((req, res) => {
    if (req.method === 'GET') {
      if (req.url === '/post.json') res.writeHead(200, { 'content-type': 'application/json' }).end(JSON.stringify(post))
      else res.writeHead(200, { 'content-type': 'text/html; charset=utf-8' }).end(page(post))
      return
    }
    if (refuses) {
      res.writeHead(503).end()
      return
    }
    bodyOf(req)
      .then((body) => {
        take(hookPost(req, body, key))
        res.writeHead(204).end()
      })
      .catch(() => res.writeHead(400).end())
  })
  await new Promise<void>((resolve, reject) => {
    smtp.server.once('error', reject)
    smtp.listen(ports.mail ?? 0, '127.0.0.1', resolve)
  })
  const address = smtp.server.address()
  return {
    mail: typeof address === 'object' && address ? address.port : 0,
    hooks: await portOf(hooks),
    post,
    refuse: (on) => {
      refuses = on
    },
    close: async () => {
      hooks.closeAllConnections()
      await new Promise<void>((resolve) => hooks.close(() => resolve()))
      await new Promise<void>((resolve) => smtp.close(() => resolve()))
    },
  }
}

async function bodyOf(req: IncomingMessage): Promise<string> {
  let body = ''
  for await (const chunk of req.setEncoding('utf8')) {
    body += chunk
    if (body.length > MOST_BYTES) throw new RangeError('Too much.')
  }
  return body
}

function hookPost(req: IncomingMessage, body: string, key: string): Post {
  const data = JSON.parse(body) as { subject?: string; text?: string }
  const expected = Buffer.from(
    `sha256=${createHmac('sha256', key).update(`${req.headers['frustum-time']}.${body}`).digest('hex')}`,
  )
  const given = Buffer.from(String(req.headers['frustum-signature'] ?? ''))
  return {
    by: 'webhook',
    at: new Date().toISOString(),
    to: req.url ?? '',
    subject: data.subject ?? '',
    text: data.text ?? '',
    signed: given.length === expected.length && timingSafeEqual(given, expected),
    data,
  }
}

const escaped = (text: string) =>
  text.replace(/[&<>"]/g, (c) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[c] as string)

/** All that came, the newest first; it looks again by itself. */
const page = (post: readonly Post[]) => `<!doctype html>
<html lang="en"><meta charset="utf-8"><meta http-equiv="refresh" content="5">
<meta name="viewport" content="width=device-width"><title>Post office of the demo</title>
<style>body{font:17px/1.5 sans-serif;max-width:48rem;margin:2rem auto;padding:0 1rem;background:#fbf8f1;color:#2b1d2e}
article{border-top:1px solid #d8d2bf;padding:.8rem 0}h2{font-size:1.05rem;margin:0}pre{white-space:pre-wrap;font:inherit;margin:.4rem 0 0}
small{color:#6b5a70}</style>
<h1>Post office of the demo</h1>
${post.length === 0 ? '<p>Nothing came yet.</p>' : ''}
${post
  .map(
    ({ by, at, to, subject, text, signed }) => `<article><h2>${escaped(subject)}</h2>
<small>${by === 'mail' ? 'Mail' : signed ? 'Webhook, signed' : 'Webhook, not signed'} to ${escaped(to)}, ${escaped(at.slice(0, 19).replace('T', ' '))} UTC</small>
<pre>${escaped(text)}</pre></article>`,
  )
  .join('\n')}
</html>`
