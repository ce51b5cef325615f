import { ENDPOINTS, type SiteView, schoolsBody } from '@frustum/contract'
import { Router } from 'express'
import { operators, schoolChoices, sites } from '../database/schema.ts'
import type { RouteContext } from '../http/routeContext.ts'
import { accept, serve } from '../http/serve.ts'
import { practicesAt } from '../sensors.ts'

/** The site itself: its name, its people, how it works, and the clock that its pages follow. */
export function siteRoutes({ db, clock }: RouteContext, extensions: SiteView['extensions']) {
  const router = Router()
  serve(router, ENDPOINTS.site, async () => {
    const [site] = await db.select().from(sites)
    const names = await db.select().from(operators)
    return {
      name: site?.name ?? 'Your site',
      timeZone: site?.timeZone ?? 'UTC',
      operators: names.map((n) => n.name),
      extensions,
      practices: await practicesAt(db, new Date(clock.now())),
      clock: { now: clock.now(), rate: clock.rate },
    }
  })
  accept(router, ENDPOINTS.setSchools, schoolsBody, async ({ body }) => {
    const at = new Date(clock.now())
    await db.insert(schoolChoices).values({ at, ...body })
    return practicesAt(db, at)
  })
  return router
}
