import { ENDPOINTS, releaseHoldBody } from '@frustum/contract'
import { Router } from 'express'
import type { RouteContext } from '../http/routeContext.ts'
import { accept, rowNumber, serve } from '../http/serve.ts'
import { openHolds, releaseHold } from './holds.ts'

/** Outputs that are held: seen from every room, and let go from there. */
export function holdRoutes({ db, links, clock }: RouteContext) {
  const router = Router()
  serve(router, ENDPOINTS.holds, () => openHolds(db))
  accept(router, ENDPOINTS.releaseHold, releaseHoldBody, ({ params, body }) =>
    releaseHold(db, links, rowNumber(params.id, 'hold'), { ...body, at: new Date(clock.now()) }),
  )
  return router
}
