import { ENDPOINTS, INGEST_PATH } from '@frustum/contract'
import express, { Router } from 'express'
import type { ServerContext } from '../context.ts'
import { Problem } from '../problem.ts'
import { ingest } from './ingest.ts'

/** A logger that was away for a week sends some hundred kilobytes. */
const MOST = '1mb'

/** Where devices send to by themselves; whatever they call what they send, it is read as their mapping says. */
export function ingestRoutes(context: ServerContext) {
  const router = Router()
  router.use(INGEST_PATH, express.text({ type: () => true, limit: MOST }))
  router.post(ENDPOINTS.ingest.path, async (req, res) => {
    if (!context.room.forReadings) throw noRoom()
    const text = typeof req.body === 'string' ? req.body : ''
    res.status(ENDPOINTS.ingest.status).json(await ingest(context, String(req.params.token), text))
  })
  return router
}

/** What is left of the disk is for records; a logger keeps what it could not send. */
const noRoom = () =>
  new Problem(507, 'disk-full', 'The disk of the server is nearly full.', {
    detail: 'Nothing of this was kept.',
    hint: 'Make room on the disk, then send it once more.',
  })
