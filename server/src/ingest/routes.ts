import { ENDPOINTS, INGEST_PATH } from '@frustum/contract'
import express, { type ErrorRequestHandler, type RequestHandler, Router } from 'express'
import type { ServerContext } from '../context.ts'
import { Problem } from '../problem.ts'
import { ingest } from './ingest.ts'

/** A logger that was away for a week sends some hundred kilobytes. */
const MOST_KB = 1024

/** Where devices send to by themselves; whatever they call what they send, it is read as their mapping says. */
export function ingestRoutes(context: ServerContext) {
  const router = Router()
  router.use(INGEST_PATH, express.text({ type: () => true, limit: `${MOST_KB}kb` }))
  const take: RequestHandler = async (req, res) => {
    if (!context.room.forReadings) throw noRoom()
    const text = typeof req.body === 'string' ? req.body : ''
    res.status(ENDPOINTS.ingest.status).json(await ingest(context, String(req.params.token), text))
  }
  // Some devices can send by PUT alone.
  router.post(ENDPOINTS.ingest.path, take).put(ENDPOINTS.ingest.path, take)
  router.use(INGEST_PATH, tooLarge)
  return router
}

const tooLarge: ErrorRequestHandler = (error: { status?: number }, _req, _res, next) => {
  if (error.status !== 413) return next(error)
  next(
    new Problem(413, 'too-large', `A message can be at most ${MOST_KB.toLocaleString('en')} KB.`, {
      detail: 'Nothing was kept.',
      hint: 'Send it in several parts. Readings sent twice are kept once.',
    }),
  )
}

/** What is left of the disk is for records; a logger keeps what it could not send. */
const noRoom = () =>
  new Problem(507, 'disk-full', 'The disk of the server is nearly full.', {
    detail: 'Nothing of this was kept.',
    hint: 'Make room on the disk, then send it once more.',
  })
