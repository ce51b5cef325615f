import { ENDPOINTS, instrumentBody } from '@frustum/contract'
import { Router } from 'express'
import type { RouteContext } from '../http/routeContext.ts'
import { accept, serve } from '../http/serve.ts'
import { addInstrument, knownInstruments } from './instruments.ts'

/** What sensors are compared with, and what stands in for them. */
export function instrumentRoutes({ db, clock }: RouteContext) {
  const router = Router()
  serve(router, ENDPOINTS.instruments, () => knownInstruments(db))
  accept(router, ENDPOINTS.addInstrument, instrumentBody, async ({ body }) => {
    await addInstrument(db, body, new Date(clock.now()))
    return knownInstruments(db)
  })
  return router
}
