import { ENDPOINTS, movePlanBody, operatorBody, type PlanView } from '@frustum/contract'
import { mayDo } from '@frustum/core'
import { Router } from 'express'
import { DATES_MS, shownToAll } from '../database/derived.ts'
import type { RouteContext } from '../http/routeContext.ts'
import { accept, rowNumber, serve } from '../http/serve.ts'
import type { SignedIn } from '../http/signedIn.ts'
import { calendarOf, renewAddress } from './calendar.ts'
import { movePlan, planOf, renew } from './plan.ts'

/** The plan of the coming weeks, and the calendar one subscribes to. */
export function planRoutes({ db, clock }: RouteContext) {
  const router = Router()
  serve(router, ENDPOINTS.plan, async ({ who }) => {
    const now = clock.now()
    return shownTo(await shownToAll(db, 'plan', { now, freshMs: DATES_MS }, () => planOf(db, now)), who)
  })
  accept(router, ENDPOINTS.movePlan, movePlanBody, async ({ body, who }) =>
    shownTo(await movePlan(db, body, clock.now()), who),
  )
  accept(router, ENDPOINTS.renew, operatorBody, async ({ params, body, who }) =>
    shownTo(await renew(db, rowNumber(params.id, 'consumable'), body.operator, clock.now()), who),
  )
  accept(router, ENDPOINTS.renewCalendar, operatorBody, async ({ body }) => {
    await renewAddress(db, body.operator, new Date(clock.now()))
    return planOf(db, clock.now())
  })
  router.get(ENDPOINTS.calendar.path, async (req, res) => {
    const feed = await calendarOf(db, req.params.token as string, clock.now())
    res.type('text/calendar; charset=utf-8').send(feed)
  })
  return router
}

/** Whoever knows the calendar's address can read the plan: only a lead hands it out. */
const shownTo = (plan: PlanView, who: SignedIn | null): PlanView =>
  who === null || mayDo(who.role, 'lead') ? plan : { ...plan, calendarPath: null }
