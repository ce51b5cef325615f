import { ENDPOINTS, limitsBody, quietBody, seenBody } from '@frustum/contract'
import type { AlarmLimits } from '@frustum/core'
import { Router } from 'express'
import type { RouteContext } from '../http/routeContext.ts'
import { accept, rowNumber, serve } from '../http/serve.ts'
import { currentCode } from '../sensors.ts'
import { alarmViews, noteOfAlarm } from './alarmStore.ts'
import { setLimits } from './limits.ts'

const MINUTE_MS = 60_000

/** What is wrong with what sensors read, and what became of it. */
export function alarmRoutes({ db, clock }: RouteContext) {
  const router = Router()
  const by = (operator: string) => ({ operator, at: new Date(clock.now()) })
  const alarm = (id: string) => rowNumber(id, 'alarm')
  serve(router, ENDPOINTS.alarms, () => alarmViews(db, clock.now()))
  accept(router, ENDPOINTS.seeAlarm, seenBody, async ({ params, body }) => {
    await noteOfAlarm(db, alarm(params.id), by(body.operator), { what: 'seen' })
    return alarmViews(db, clock.now())
  })
  accept(router, ENDPOINTS.quietAlarm, quietBody, async ({ params, body: { operator, minutes, reason } }) => {
    const until = new Date(clock.now() + minutes * MINUTE_MS)
    await noteOfAlarm(db, alarm(params.id), by(operator), { what: 'quiet', until, reason })
    return alarmViews(db, clock.now())
  })
  accept(router, ENDPOINTS.setLimits, limitsBody, async ({ params, body }) =>
    setLimits(db, await currentCode(db, params.position), body.limits as AlarmLimits | null, by(body.operator)),
  )
  return router
}
