import { ENDPOINTS, lotActionBody, lotBody } from '@frustum/contract'
import { Router } from 'express'
import { DATES_MS, shownToAll } from '../database/derived.ts'
import type { RouteContext } from '../http/routeContext.ts'
import { accept, rowNumber, serve } from '../http/serve.ts'
import { actOnLot, addLot, shelf } from './shelf.ts'

/** The standards on the Shelf, and what is poured from them; open visits are told when the bottles change. */
export function shelfRoutes({ db, clock }: RouteContext, lotsChanged: () => Promise<void>) {
  const router = Router()
  serve(router, ENDPOINTS.shelf, () =>
    shownToAll(db, 'shelf', { now: clock.now(), freshMs: DATES_MS }, () => shelf(db, clock.now())),
  )
  accept(router, ENDPOINTS.addLot, lotBody, async ({ body }) => {
    await addLot(db, body)
    await lotsChanged()
    return shelf(db, clock.now())
  })
  accept(router, ENDPOINTS.actOnLot, lotActionBody, async ({ params, body }) => {
    const id = rowNumber(params.id, 'lot')
    await actOnLot(db, id, body, new Date(clock.now()))
    await lotsChanged()
    return shelf(db, clock.now())
  })
  return router
}
