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

import type { Actor } from './actor.ts'
import type { VisitDesk } from './desk.ts'

/** Visits: begun, led step by step, watched live. */
export function visitRoutes({ desk }: { desk: VisitDesk }) {
  const router = Router()
  router.param('id', refuseOtherThanUuid('visit'))
  accept(router, ENDPOINTS.startVisit, startVisitBody, ({ body }) => desk.start(body))
  serve(router, ENDPOINTS.visit, ({ params }) => desk.view(params.id))
  serve(router, ENDPOINTS.visitSnapshot, ({ params }) => desk.snapshot(params.id))
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
  const act = (asked: { body: Actor; fingerprint: string }): Actor => ({
    ...asked.body,
    fingerprint: asked.fingerprint,
  })
  accept(router, ENDPOINTS.done, doneBody, (asked) => desk.done(asked.params.id, act(asked), asked.body.step))
  accept(router, ENDPOINTS.skip, skipBody, (asked) => {
    const { step, reason } = asked.body
    return desk.act(asked.params.id, act(asked), { type: 'skip', step, reason })
  })
  accept(router, ENDPOINTS.redo, redoBody, (asked) => {
    const { step, reason, keeps } = asked.body
    return desk.act(asked.params.id, act(asked), { type: 'redo', step, reason, ...(keeps ? { keeps } : {}) })
  })
  accept(router, ENDPOINTS.wait, waitBody, (asked) => {
    const { step, minutes } = asked.body
    return desk.act(asked.params.id, act(asked), { type: 'wait', step, minutes })
  })
  accept(router, ENDPOINTS.capture, captureBody, (asked) =>
    desk.capture(asked.params.id, act(asked), asked.body.step, asked.body),
  )
  accept(
    router,
    ENDPOINTS.typed,
    async ({ id }) => {
      const { bounds, assumed } = await desk.typing(id)
      return typedReadingBody(bounds, assumed)
    },
    (asked) => desk.typed(asked.params.id, act(asked), asked.body.step, asked.body),
  )
  accept(router, ENDPOINTS.fill, fillBody, (asked) =>
    desk.fill(asked.params.id, act(asked), asked.body.step, asked.body.values),
  )
  accept(router, ENDPOINTS.decide, decideBody, (asked) => {
    const { step, decision, note } = asked.body
    return desk.act(asked.params.id, act(asked), { type: 'decide', step, decision, note })
  })
  accept(
    router,
    ENDPOINTS.apply,
    async ({ id }) => applyBody(await desk.display(id)),
    (asked) => desk.apply(asked.params.id, act(asked), asked.body),
  )
  accept(router, ENDPOINTS.takeOver, takeOverBody, (asked) => desk.takeOver(asked.params.id, act(asked)))
  accept(router, ENDPOINTS.abandon, abandonBody, (asked) =>
    desk.act(asked.params.id, act(asked), { type: 'abandon', reason: asked.body.reason }),
  )
  return router
}
