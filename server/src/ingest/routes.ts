import { ENDPOINTS, INGEST_PATH } from '@frustum/contract'
import express, { Router } from 'express'
import type { RouteContext } from '../http/routeContext.ts'
import { ingest } from './ingest.ts'

/** A logger that was away for a week sends some hundred kilobytes. */
const MOST = '1mb'

/** Where devices send to by themselves; whatever they call what they send, it is read as their mapping says. */
export function ingestRoutes(context: RouteContext) {
  const router = Router()
  router.use(INGEST_PATH, express.text({ type: () => true, limit: MOST }))
  router.post(ENDPOINTS.ingest.path, async (req, res) => {
    const text = typeof req.body === 'string' ? req.body : ''
    res.status(ENDPOINTS.ingest.status).json(await ingest(context, String(req.params.token), text))
  })
  return router
}
