import { ENDPOINTS } from '@frustum/contract'
import { Router } from 'express'
import type { RouteContext } from '../http/routeContext.ts'
import { serve } from '../http/serve.ts'
import { openStream } from '../http/streams.ts'
import { overview } from './overview.ts'
import { runningWaits } from './waits.ts'

const LIVE_EVERY_MS = 500

/** What needs attention today, what is under way, and what every linked sensor reads. */
export function roundsRoutes({ db, live, clock }: RouteContext) {
  const router = Router()
  serve(router, ENDPOINTS.rounds, () => overview(db, live, clock.now()))
  serve(router, ENDPOINTS.waits, () => runningWaits(db))
  router.get(ENDPOINTS.live.path, (req, res) => {
    const stream = openStream(req, res, () => clearInterval(timer))
    const timer = setInterval(() => stream.send(live.all()), LIVE_EVERY_MS)
    stream.send(live.all())
  })
  return router
}
