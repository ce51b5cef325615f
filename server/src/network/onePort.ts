import type { IncomingMessage, RequestListener, Server } from 'node:http'
import type { Socket } from 'node:net'
import { createServer as createTls, type TLSSocket } from 'node:tls'
import { httpServer, REQUEST_LIMITS, type RequestLimits } from '../http/httpServer.ts'
import type { Keyed } from './authority.ts'

/** How a TLS connection begins: a handshake record (RFC 8446, 5.1). */
const HANDSHAKE = 0x16

/**
 * One port for both: HTTPS is served, and plain HTTP, which is what a typed address without "https" asks for, is led there.
 * One HTTP server, the one that listens, handles both, so its timeouts and its end hold for both.
 */
export function onePort(
  certificate: Keyed,
  secured: RequestListener,
  plain: RequestListener,
  limits: RequestLimits = REQUEST_LIMITS,
) {
  const isSecure = ({ socket }: IncomingMessage) => (socket as TLSSocket).encrypted === true
  const server: Server = httpServer((req, res) => (isSecure(req) ? secured : plain)(req, res), limits)
  const [serveHttp] = server.listeners('connection') as ((socket: Socket) => void)[]
  const tls = createTls(
    {
      cert: certificate.certificate,
      key: certificate.key,
      minVersion: 'TLSv1.2',
      ALPNProtocols: ['http/1.1'],
      handshakeTimeout: limits.silentMs,
    },
    (socket) => serveHttp?.call(server, socket),
  )
  tls.on('tlsClientError', (_error, socket) => socket.destroy())
  const open = new Set<Socket>()
  server.removeAllListeners('connection')
  server.on('connection', (socket: Socket) => {
    open.add(socket)
    socket.setTimeout(limits.silentMs, () => socket.destroy())
    socket.on('error', () => socket.destroy())
    socket.once('close', () => open.delete(socket))
    socket.once('data', (first) => {
      socket.setTimeout(0)
      socket.removeAllListeners('timeout')
      socket.pause()
      socket.unshift(first)
      if (first[0] === HANDSHAKE) tls.emit('connection', socket)
      else serveHttp?.call(server, socket)
      process.nextTick(() => socket.resume())
    })
  })
  return {
    server,
    renew: ({ certificate: cert, key }: Keyed) => tls.setSecureContext({ cert, key, minVersion: 'TLSv1.2' }),
    closeAllConnections() {
      for (const socket of open) socket.destroy()
    },
  }
}
