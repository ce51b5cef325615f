import {
  abandonBody,
  applyBody,
  captureBody,
  decideBody,
  doneBody,
  ENDPOINTS,
  fillBody,
  redoBody,
  skipBody,
  startVisitBody,
  takeOverBody,
  typedReadingBody,
  waitBody,
} from '@frustum/contract'
import { Router } from 'express'

import { accept, refuseOtherThanUuid, serve } from '../http/serve.ts'
import { openStream } from '../http/streams.ts'

import type { VisitDesk } from './desk.ts'

/** Visits: begun, led step by step, watched live. */
export function visitRoutes({ desk }: { desk: VisitDesk }) {
  const router = Router()
  router.param('id', refuseOtherThanUuid('visit'))
  accept(router, ENDPOINTS.startVisit, startVisitBody, ({ body }) => desk.start(body))
  serve(router, ENDPOINTS.visit, ({ params }) => desk.view(params.id))
  router.get(ENDPOINTS.visitLive.path, async (req, res) => {
    const id = req.params.id as string
    await desk.view(id)
    let stop: () => void = () => undefined
    let gone = false
    const stream = openStream(req, res, () => {
      gone = true
      stop()
    })
    stop = await desk.watch(id, (message) => stream.send(message))
    if (gone) stop()
  })
  accept(router, ENDPOINTS.done, doneBody, ({ params, body }) => desk.done(params.id, body, body.step))
  accept(router, ENDPOINTS.skip, skipBody, ({ params, body }) => desk.skip(params.id, body, body.step, body.reason))
  accept(router, ENDPOINTS.redo, redoBody, ({ params, body }) => desk.redo(params.id, body, body))
  accept(router, ENDPOINTS.wait, waitBody, ({ params, body }) => desk.wait(params.id, body, body.step, body.minutes))
  accept(router, ENDPOINTS.capture, captureBody, ({ params, body }) => desk.capture(params.id, body, body.step, body))
  accept(
    router,
    ENDPOINTS.typed,
    async ({ id }) => {
      const { bounds, assumed } = await desk.typing(id)
      return typedReadingBody(bounds, assumed)
    },
    ({ params, body }) => desk.typed(params.id, body, body.step, body),
  )
  accept(router, ENDPOINTS.fill, fillBody, ({ params, body }) => desk.fill(params.id, body, body.step, body.values))
  accept(router, ENDPOINTS.decide, decideBody, ({ params, body }) =>
    desk.decide(params.id, body, body.step, { decision: body.decision, note: body.note }),
  )
  accept(
    router,
    ENDPOINTS.apply,
    async ({ id }) => applyBody(await desk.display(id)),
    ({ params, body }) => desk.apply(params.id, body, body),
  )
  accept(router, ENDPOINTS.takeOver, takeOverBody, ({ params, body }) => desk.takeOver(params.id, body))
  accept(router, ENDPOINTS.abandon, abandonBody, ({ params, body }) => desk.abandon(params.id, body, body.reason))
  return router
}
