import { ENDPOINTS, endTripBody, startTripBody } from '@frustum/contract'
import { Router } from 'express'
import type { RouteContext } from '../http/routeContext.ts'
import { accept, refuseOtherThanUuid, serve } from '../http/serve.ts'
import { endTrip, startTrip, tripOf } from './trips.ts'

/** Trips round several sensors. */
export function tripRoutes({ db, clock }: RouteContext) {
  const router = Router()
  router.param('id', refuseOtherThanUuid('trip'))
  accept(router, ENDPOINTS.startTrip, startTripBody, ({ body }) => startTrip(db, body, clock.now()))
  serve(router, ENDPOINTS.trip, ({ params }) => tripOf(db, params.id))
  accept(router, ENDPOINTS.endTrip, endTripBody, ({ params }) => endTrip(db, params.id, clock.now()))
  return router
}
