import { createServer as createHttp, type RequestListener } from 'node:http'
import { createServer as createHttps } from 'node:https'
import { createServer, type Server, type Socket } from 'node:net'
import type { Keyed } from './authority.ts'

/** How a TLS connection begins: a handshake record (RFC 8446, 5.1). */
const HANDSHAKE = 0x16
/** Who connects and says nothing is let go after this, ms. */
const SILENT_MS = 20_000

/**
 * One port for both: HTTPS is served, and plain HTTP, which is what a typed address without "https" asks for, is led there.
 */
export function onePort(certificate: Keyed, secured: RequestListener, plain: RequestListener) {
  const https = createHttps({ cert: certificate.certificate, key: certificate.key, minVersion: 'TLSv1.2' }, secured)
  const http = createHttp(plain)
  const silent = new Set<Socket>()
  const server: Server = createServer((socket) => {
    silent.add(socket)
    socket.setTimeout(SILENT_MS, () => socket.destroy())
    socket.on('error', () => socket.destroy())
    socket.once('close', () => silent.delete(socket))
    socket.once('data', (first) => {
      silent.delete(socket)
      socket.setTimeout(0)
      socket.removeAllListeners('timeout')
      socket.pause()
      socket.unshift(first)
      ;(first[0] === HANDSHAKE ? https : http).emit('connection', socket)
      process.nextTick(() => socket.resume())
    })
  })
  return {
    server,
    renew: ({ certificate: cert, key }: Keyed) => https.setSecureContext({ cert, key }),
    closeAllConnections() {
      for (const socket of silent) socket.destroy()
      https.closeAllConnections()
      http.closeAllConnections()
    },
  }
}
