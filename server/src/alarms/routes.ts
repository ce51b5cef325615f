import { ENDPOINTS, limitsBody, operatorBody, shelveBody } from '@frustum/contract'
import type { AlarmLimits } from '@frustum/core'
import { type Request, Router } from 'express'
import type { RouteContext } from '../http/routeContext.ts'
import { accept, rowNumber, serve } from '../http/serve.ts'
import { spanOf } from '../http/span.ts'
import { currentCode } from '../sensors.ts'
import { noteOfAlarm } from './alarmStore.ts'
import { alarmHistory, alarmHistoryCsv, alarmViews } from './alarmViews.ts'
import { setLimits } from './limits.ts'
import type { SensorAlarms } from './sensorAlarms.ts'

const MINUTE_MS = 60_000

/** Active alarms and what operators do with them, the alarms of a period, and the limits of a sensor. */
export function alarmRoutes({ db, clock, alarms }: Pick<RouteContext, 'db' | 'clock'> & { alarms: SensorAlarms }) {
  const router = Router()
  const by = (operator: string) => ({ operator, at: new Date(clock.now()) })
  const alarm = (id: string) => rowNumber(id, 'alarm')
  serve(router, ENDPOINTS.learning, () => alarms.learning())
  serve(router, ENDPOINTS.alarms, () => alarmViews(db, clock.now()))
  accept(router, ENDPOINTS.acknowledgeAlarm, operatorBody, async ({ params, body }) => {
    await noteOfAlarm(db, alarm(params.id), by(body.operator), { what: 'acknowledged' })
    return alarmViews(db, clock.now())
  })
  accept(router, ENDPOINTS.shelveAlarm, shelveBody, async ({ params, body: { operator, minutes, reason } }) => {
    const until = new Date(clock.now() + minutes * MINUTE_MS)
    await noteOfAlarm(db, alarm(params.id), by(operator), { what: 'shelved', until, reason })
    return alarmViews(db, clock.now())
  })
  accept(router, ENDPOINTS.unshelveAlarm, operatorBody, async ({ params, body }) => {
    await noteOfAlarm(db, alarm(params.id), by(body.operator), { what: 'unshelved' })
    return alarmViews(db, clock.now())
  })
  const history = (query: Request['query']) => alarmHistory(db, { ...spanOf(query, clock.now()), now: clock.now() })
  serve(router, ENDPOINTS.alarmHistory, ({ query }) => history(query))
  router.get(ENDPOINTS.alarmHistoryCsv.path, async ({ query }, res) => {
    res
      .attachment('frustum-alarms.csv')
      .type('text/csv')
      .send(alarmHistoryCsv(await history(query)))
  })
  accept(router, ENDPOINTS.setLimits, limitsBody, async ({ params, body }) =>
    setLimits(db, await currentCode(db, params.position), body.limits as AlarmLimits | null, by(body.operator)),
  )
  return router
}
