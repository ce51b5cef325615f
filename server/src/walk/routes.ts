import { ENDPOINTS, takeBackBody, walkBody } from '@frustum/contract'
import { Router } from 'express'
import type { ServerContext } from '../context.ts'
import { accept, rowNumber, serve } from '../http/serve.ts'
import { takeBack } from './takeBack.ts'
import { keepWalk, walkPlaces, walkSheet } from './walk.ts'

/** Ways round the displays that are read by eye. */
export function walkRoutes({ db, alarms, clock }: Pick<ServerContext, 'db' | 'alarms' | 'clock'>) {
  const router = Router()
  const place = (id: string) => rowNumber(id, 'place')
  serve(router, ENDPOINTS.walks, () => walkPlaces(db))
  serve(router, ENDPOINTS.walk, ({ params }) => walkSheet(db, place(params.id)))
  accept(router, ENDPOINTS.keepWalk, walkBody, ({ params, body }) =>
    keepWalk({ db, alarms }, place(params.id), body, clock.now()),
  )
  accept(router, ENDPOINTS.takeBack, takeBackBody, ({ params, body }) =>
    takeBack({ db, alarms }, params.position, body, clock.now()),
  )
  return router
}
