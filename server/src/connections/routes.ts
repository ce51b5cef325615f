import {
  connectionBody,
  ENDPOINTS,
  findBody,
  lineBody,
  lookBody,
  operatorBody,
  profileBody,
  tokenBody,
} from '@frustum/contract'
import { Router } from 'express'
import { LineProblem } from '../devices/lineProblem.ts'
import { protocolForm, protocols } from '../devices/protocols/registry.ts'
import type { RouteContext } from '../http/routeContext.ts'
import { accept, rowNumber, serve } from '../http/serve.ts'
import type { Finders } from './finders.ts'
import { askedLine, deleteConnection, editConnection, readMapping, removeLine, setLine, setToken } from './lines.ts'
import { deleteProfile, keepProfile } from './profiles.ts'
import { connectionPage, connectionViews, lineView } from './views.ts'

/** How devices are reached: connections, and what each sensor is read by. */
export function connectionRoutes({ db, links, clock }: RouteContext, finders: Finders) {
  const router = Router()
  const by = (operator: string) => ({ operator, at: new Date(clock.now()) })
  const connection = (id: string) => rowNumber(id, 'connection')
  const position = (id: string) => rowNumber(id, 'position')
  serve(router, ENDPOINTS.protocols, () => Promise.all(protocols().map(protocolForm)))
  serve(router, ENDPOINTS.connections, () => connectionViews(db, links))
  serve(router, ENDPOINTS.connection, ({ params }) =>
    connectionPage(db, links, { id: connection(params.id), now: clock.now() }),
  )
  accept(router, ENDPOINTS.editConnection, connectionBody, async ({ params, body }) => {
    const { name, settings, secret } = body
    await editConnection(db, links, connection(params.id), { name, settings, secret }, by(body.operator))
    return connectionPage(db, links, { id: connection(params.id), now: clock.now() })
  })
  accept(router, ENDPOINTS.deleteConnection, operatorBody, async ({ params, body }) => {
    await deleteConnection(db, links, connection(params.id), by(body.operator))
    return connectionViews(db, links)
  })
  serve(router, ENDPOINTS.line, ({ params }) => lineView(db, links, position(params.id)))
  accept(router, ENDPOINTS.setLine, lineBody, async ({ params, body }) => {
    await setLine(db, links, position(params.id), body, by(body.operator))
    return lineView(db, links, position(params.id))
  })
  accept(router, ENDPOINTS.tryLine, lineBody, async ({ params, body }) => {
    const { connectionId, device, ...bus } = await askedLine(db, position(params.id), body)
    try {
      return await links.tryOnce(connectionId, bus, device)
    } catch (error) {
      // That it does not answer is what was asked.
      if (error instanceof LineProblem) return { raw: [], reading: null, why: error.message }
      throw error
    }
  })
  accept(router, ENDPOINTS.removeLine, operatorBody, async ({ params, body }) => {
    await removeLine(db, links, position(params.id), by(body.operator))
    return lineView(db, links, position(params.id))
  })
  accept(router, ENDPOINTS.keepProfile, profileBody, ({ body }) =>
    keepProfile(db, body.name, readMapping(body.mapping), by(body.operator)),
  )
  accept(router, ENDPOINTS.deleteProfile, operatorBody, ({ params, body }) =>
    deleteProfile(db, rowNumber(params.id, 'mapping'), by(body.operator)),
  )
  accept(router, ENDPOINTS.setToken, tokenBody, async ({ params, body }) => {
    await setToken(db, position(params.id), body.token, by(body.operator))
    return lineView(db, links, position(params.id))
  })
  accept(router, ENDPOINTS.find, findBody, async ({ body }) => (await finders.start(body)).view())
  serve(router, ENDPOINTS.finders, () => finders.list())
  serve(router, ENDPOINTS.finder, ({ params }) => finders.of(params.id).view())
  accept(router, ENDPOINTS.look, lookBody, ({ params, body }) => finders.look(params.id, body).view())
  accept(router, ENDPOINTS.stopFinder, operatorBody, ({ params }) => {
    const finder = finders.of(params.id)
    finder.stop()
    return finder.view()
  })
  return router
}
