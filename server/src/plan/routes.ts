import { ENDPOINTS, movePlanBody, operatorBody } from '@frustum/contract'
import { Router } from 'express'
import type { RouteContext } from '../http/routeContext.ts'
import { accept, rowNumber, serve } from '../http/serve.ts'
import { calendarOf } from './calendar.ts'
import { movePlan, planOf, renew } from './plan.ts'

/** The plan of the coming weeks, and the calendar one subscribes to. */
export function planRoutes({ db, clock }: RouteContext) {
  const router = Router()
  serve(router, ENDPOINTS.plan, () => planOf(db, clock.now()))
  accept(router, ENDPOINTS.movePlan, movePlanBody, ({ body }) => movePlan(db, body, clock.now()))
  accept(router, ENDPOINTS.renew, operatorBody, ({ params, body }) =>
    renew(db, rowNumber(params.id, 'consumable'), body.operator, clock.now()),
  )
  router.get(ENDPOINTS.calendar.path, async (req, res) => {
    const feed = await calendarOf(db, req.params.token as string, clock.now())
    res.type('text/calendar; charset=utf-8').send(feed)
  })
  return router
}
