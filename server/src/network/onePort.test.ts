import type { RequestListener, Server } from 'node:http'
import { connect, type Socket } from 'node:net'
import { connect as connectTls } from 'node:tls'
import { expect, it, onTestFinished } from 'vitest'
import { httpServer } from '../http/httpServer.ts'
import { certify, makeAuthority } from './authority.ts'
import { onePort } from './onePort.ts'

const LIMITS = { silentMs: 300, headersMs: 300, requestMs: 600, checkMs: 50 }

/** A page that never ends at /stream, and elsewhere one that waits for all that is sent. */
const app: RequestListener = (req, res) => {
  if (req.url === '/stream') {
    res.writeHead(200).write('first')
    return
  }
  req.resume().on('end', () => res.end('done'))
}

async function opened(tls: boolean): Promise<{ port: number; server: Server; stop: () => void }> {
  const authority = await makeAuthority('Mill', ['localhost'], Date.now())
  const both = tls ? onePort(await certify(authority, ['localhost'], Date.now()), app, app, LIMITS) : null
  const server = both?.server ?? httpServer(app, LIMITS)
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  const stop = () => (both ? both.closeAllConnections() : server.closeAllConnections())
  onTestFinished(() => {
    stop()
    server.close()
  })
  return { port: (server.address() as { port: number }).port, server, stop }
}

const HEADERS = 'POST / HTTP/1.1\r\nHost: localhost\r\nContent-Length: 1000\r\n\r\n'

/** How a client may hold a connection: what it sends at once, then a byte at a time. */
const SLOW: Readonly<Record<string, { first: string; drip?: string }>> = {
  'half the headers': { first: 'GET / HTTP/1.1\r\nHost: lo' },
  'headers in drips': { first: 'GET / HTTP/1.1\r\n', drip: 'X' },
  'a body that stops': { first: `${HEADERS}x` },
  'a body in drips': { first: HEADERS, drip: 'x' },
}

function held(socket: Socket, { first, drip }: { first: string; drip?: string }): Promise<string> {
  let got = ''
  let dripping: NodeJS.Timeout | undefined
  socket.on('data', (data) => {
    got += data
  })
  socket.on('error', () => undefined)
  socket.once(socket.constructor.name === 'TLSSocket' ? 'secureConnect' : 'connect', () => {
    socket.write(first)
    if (drip) dripping = setInterval(() => socket.write(drip), 40)
  })
  return new Promise((resolve) =>
    socket.once('close', () => {
      clearInterval(dripping)
      resolve(got)
    }),
  )
}

it.each([
  ['plain', false, false],
  ['plain, on the port for both', true, false],
  ['encrypted, on the port for both', true, true],
])(
  '%s: whoever sends too slowly is cut off, and a stream lasts until the end of the server',
  async (_, tls, secure) => {
    const { port, server, stop } = await opened(tls)
    const client = () =>
      secure ? connectTls({ port, host: '127.0.0.1', rejectUnauthorized: false }) : connect(port, '127.0.0.1')
    const streaming = client()
    let ended = false
    const stream = held(streaming, { first: 'GET /stream HTTP/1.1\r\nHost: localhost\r\n\r\n' }).then((got) => {
      ended = true
      return got
    })
    // Each ends by itself, or this test does not.
    const slow = await Promise.all(Object.values(SLOW).map((how) => held(client(), how)))
    for (const got of slow) expect(got).not.toContain('done')
    expect(ended).toBe(false)
    const closed = new Promise((resolve) => server.close(resolve))
    stop()
    await closed
    expect(await stream).toContain('first')
  },
)

it.each([
  ['nothing', Buffer.alloc(0)],
  ['the beginning of a handshake', Buffer.from([0x16, 3, 1, 0, 200])],
])('whoever says %s is cut off', async (_, bytes) => {
  const { port } = await opened(true)
  const socket = connect(port, '127.0.0.1', () => void socket.write(bytes))
  await new Promise((resolve) => socket.on('error', () => undefined).once('close', resolve))
})
