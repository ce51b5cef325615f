import { createServer, type RequestListener, type Server } from 'node:http'

/** How long a client may take, ms. */
export interface RequestLimits {
  /** For a first byte, and for a TLS handshake. */
  silentMs: number
  headersMs: number
  /** For all of a request, which may be a large file over a slow radio. */
  requestMs: number
  /** How often it is checked. */
  checkMs: number
}

export const REQUEST_LIMITS: RequestLimits = { silentMs: 20_000, headersMs: 20_000, requestMs: 300_000, checkMs: 2000 }

/** An HTTP server that cuts off whoever sends too slowly. */
export const httpServer = (handle: RequestListener, limits = REQUEST_LIMITS): Server =>
  createServer(
    {
      headersTimeout: limits.headersMs,
      requestTimeout: limits.requestMs,
      connectionsCheckingInterval: limits.checkMs,
    },
    handle,
  )
