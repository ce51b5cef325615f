import { ENDPOINTS, schoolsBody } from '@frustum/contract'
import { Router } from 'express'
import type { ServerContext } from '../context.ts'
import { operators, schoolChoices, sites } from '../database/schema.ts'
import type { ServerExtension } from '../extension.ts'
import { accept, serve } from '../http/serve.ts'
import { practicesAt } from '../sensors.ts'

/** The site itself: its name, its people, how it works, and the clock that its pages follow. */
export function siteRoutes({ db, clock }: ServerContext, extensions: readonly ServerExtension[]) {
  const router = Router()
  serve(router, ENDPOINTS.site, async () => {
    const [site] = await db.select().from(sites)
    const names = await db.select().from(operators)
    return {
      name: site?.name ?? 'Your site',
      timeZone: site?.timeZone ?? 'UTC',
      operators: names.map((n) => n.name),
      extensions: extensions.flatMap((e) =>
        e.web ? [{ name: e.name, module: `/extensions/${e.name}/${e.web.entry}` }] : [],
      ),
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
