import { ENDPOINTS, mailServerBody, operatorBody, recipientBody, stopBody, tryTellingBody } from '@frustum/contract'
import { Router } from 'express'
import type { RouteContext } from '../http/routeContext.ts'
import { accept, rowNumber, serve } from '../http/serve.ts'
import {
  addRecipient,
  changeRecipient,
  dropRecipient,
  setMailServer,
  stopByLink,
  tellingTries,
  tellingView,
  toldByLink,
  tryTelling,
} from './settings.ts'

/** Who is told of alarms and of what is due, and how. */
export function tellingRoutes({ db, clock }: RouteContext) {
  const router = Router()
  const by = (operator: string) => ({ operator, at: new Date(clock.now()) })
  const recipient = (id: string) => rowNumber(id, 'recipient')
  serve(router, ENDPOINTS.telling, () => tellingView(db))
  accept(router, ENDPOINTS.setMailServer, mailServerBody, async ({ body }) => {
    await setMailServer(db, body, by(body.operator))
    return tellingView(db)
  })
  accept(router, ENDPOINTS.addRecipient, recipientBody, async ({ body }) => {
    await addRecipient(db, body, by(body.operator))
    return tellingView(db)
  })
  accept(router, ENDPOINTS.changeRecipient, recipientBody, async ({ params, body }) => {
    await changeRecipient(db, recipient(params.id), body, by(body.operator))
    return tellingView(db)
  })
  accept(router, ENDPOINTS.dropRecipient, operatorBody, async ({ params, body }) => {
    await dropRecipient(db, recipient(params.id), by(body.operator))
    return tellingView(db)
  })
  serve(router, ENDPOINTS.told, ({ params }) => toldByLink(db, params.token))
  accept(router, ENDPOINTS.stopTelling, stopBody, ({ params, body }) =>
    stopByLink(db, params.token, body.what, new Date(clock.now())),
  )
  const tries = tellingTries()
  accept(router, ENDPOINTS.tryTelling, tryTellingBody, ({ body }) => tryTelling(db, tries, body, clock.now()))
  return router
}
