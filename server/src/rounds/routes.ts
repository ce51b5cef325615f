import { ENDPOINTS } from '@frustum/contract'
import type { Sentence } from '@frustum/core'
import { Router } from 'express'
import { LIVE_MS, shownToAll } from '../database/derived.ts'
import type { RouteContext } from '../http/routeContext.ts'
import { serve } from '../http/serve.ts'
import { openStream } from '../http/streams.ts'
import { liveBroadcast } from './liveBroadcast.ts'
import { overview } from './overview.ts'
import { openToDos } from './toDos.ts'
import { runningWaits } from './waits.ts'

/** What needs attention today, what is under way, and what every linked sensor reads. */
export function roundsRoutes({ db, live, clock }: RouteContext, backupWarning: () => Promise<Sentence | null>) {
  const router = Router()
  serve(router, ENDPOINTS.rounds, () =>
    shownToAll(db, 'rounds', { now: clock.now(), freshMs: LIVE_MS }, async () => {
      const now = clock.now()
      const [rounds, backup] = await Promise.all([overview(db, live, now), backupWarning()])
      return { ...rounds, toDo: await openToDos(db, now, backup) }
    }),
  )
  serve(router, ENDPOINTS.waits, () => shownToAll(db, 'waits', { now: 0, freshMs: 1 }, () => runningWaits(db)))
  const broadcast = liveBroadcast(live)
  router.get(ENDPOINTS.live.path, (req, res) => {
    const stream = openStream(req, res, () => leave())
    const leave = broadcast((text) => stream.sendText(text))
    stream.send(live.all())
  })
  return router
}
