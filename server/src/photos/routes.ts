import { ENDPOINTS } from '@frustum/contract'
import { Router } from 'express'
import type { RouteContext } from '../http/routeContext.ts'
import { accept } from '../http/serve.ts'
import { keepPhoto, photoOf } from './photos.ts'

/** Pictures of what happened. They never change: their address is what they hold. */
export function photoRoutes({ db, clock }: RouteContext) {
  const router = Router()
  accept(router, ENDPOINTS.addPhoto, null, ({ body }) => keepPhoto(db, body, new Date(clock.now())))
  router.get(ENDPOINTS.photo.path, async (req, res) => {
    const { type, bytes } = await photoOf(db, req.params.sha256 as string)
    res.set('Cache-Control', 'private, max-age=31536000, immutable').type(type).send(bytes)
  })
  return router
}
