import {
  causeBody,
  changeRulesBody,
  ENDPOINTS,
  exclusionBody,
  hourMeterBody,
  operatorBody,
  rulesBody,
  sensorEventBody,
  testAnswerBody,
} from '@frustum/contract'
import { Router } from 'express'
import { recordConfirmedCause } from '../ageing/confirmedCauses.ts'
import { LIVE_MS, shownToAll } from '../database/derived.ts'
import { exclusions, testAnswers } from '../database/schema.ts'
import { restoreDeviceCalibration } from '../devices/deviceCalibration.ts'
import type { RouteContext } from '../http/routeContext.ts'
import { accept, isUuid, rowNumber, serve } from '../http/serve.ts'
import { spanOf } from '../http/span.ts'
import { notFound } from '../problem.ts'
import { openVisit } from '../records/openVisit.ts'
import { undoEdit } from '../rig/edit.ts'
import { currentCode, installedAt } from '../sensors.ts'
import { fleetView } from './fleet.ts'
import { readHourMeter } from './hourMeter.ts'
import { lastDays } from './lastDays.ts'
import { pastCsv, pastOf } from './past.ts'
import { probe, probeNow } from './probe.ts'
import { noteEvent } from './sensorEvents.ts'
import { seriesOf } from './series.ts'
import { seriesFile } from './seriesFile.ts'
import { starting } from './starting.ts'
import { changeRules, whatIf } from './whatIf.ts'

/** How the sensors age, what is wrong with them, and the rules by which they are visited. */
export function probeRoutes({ db, live, links, clock }: RouteContext) {
  const router = Router()
  // What was printed or kept of a code that a position had before leads there, too.
  router.param('position', async (req, _res, next, code: string) => {
    req.params.position = await currentCode(db, code)
    next()
  })
  const pageOf = (position: string) => probe(db, live, position, clock.now())
  const shown = <T>(name: string, compute: () => Promise<T>) =>
    shownToAll(db, name, { now: clock.now(), freshMs: LIVE_MS }, compute)
  serve(router, ENDPOINTS.fleet, () => shown('fleet', () => fleetView(db, live, clock.now())))
  serve(router, ENDPOINTS.probe, ({ params }) => probeNow(db, live, params.position, clock.now()))
  serve(router, ENDPOINTS.starting, ({ params }) =>
    shown(`starting ${params.position}`, () => starting(db, live, params.position, clock.now())),
  )
  accept(router, ENDPOINTS.whatIf, rulesBody, ({ params, body }) => whatIf(db, params.position, body, clock.now()))
  accept(router, ENDPOINTS.changeRules, changeRulesBody, async ({ params, body }) => {
    await changeRules(db, params.position, body, new Date(clock.now()))
    return pageOf(params.position)
  })
  accept(router, ENDPOINTS.undoRule, operatorBody, async ({ params, body }) => {
    const { position } = await installedAt(db, params.position)
    await undoEdit(db, 'position', String(position.id), rowNumber(params.id, 'change'), {
      ...body,
      at: new Date(clock.now()),
    })
    return pageOf(params.position)
  })
  accept(router, ENDPOINTS.answerTest, testAnswerBody, async ({ params, body }) => {
    const { installation } = await installedAt(db, params.position)
    await db.insert(testAnswers).values({ installationId: installation.id, at: new Date(clock.now()), ...body })
    return pageOf(params.position)
  })
  accept(router, ENDPOINTS.noteEvent, sensorEventBody, async ({ params, body }) => {
    await noteEvent(db, params.position, body, clock.now())
    return pageOf(params.position)
  })
  accept(router, ENDPOINTS.confirmCause, causeBody, async ({ params, body }) => {
    const { installation } = await installedAt(db, params.position)
    await recordConfirmedCause(db, { installationId: installation.id, ...body }, clock.now())
    return pageOf(params.position)
  })
  accept(router, ENDPOINTS.readHourMeter, hourMeterBody, async ({ params, body }) => {
    await readHourMeter(db, params.position, body, new Date(clock.now()))
    return pageOf(params.position)
  })
  accept(router, ENDPOINTS.restoreDeviceCalibration, operatorBody, async ({ params, body }) => {
    await restoreDeviceCalibration(db, links, params.position, body.operator, new Date(clock.now()))
    return pageOf(params.position)
  })
  serve(router, ENDPOINTS.series, ({ params, query }) =>
    seriesOf(db, params.position, spanOf(query, clock.now()), clock.now()),
  )
  serve(router, ENDPOINTS.lastDays, () => lastDays(db, clock.now()))
  router.get(ENDPOINTS.seriesFile.path, async (req, res) => {
    const { position = '', format = '' } = req.params as Record<string, string>
    const every = String(req.query.every ?? 'readings')
    const now = clock.now()
    const { type, body } = await seriesFile(db, position, spanOf(req.query, now), { format, every, now })
    res.attachment(`${position}-${every}.${format}`).type(type).send(body)
  })
  router.get(ENDPOINTS.pastCsv.path, async (req, res) => {
    const { position, visit } = req.params as { position: string; visit: string }
    const text = await pastCsv(db, position, visit)
    res.type('text/csv').attachment(`${position}-corrected.csv`).send(text)
  })
  serve(router, ENDPOINTS.past, ({ params }) => pastOf(db, params.position, params.visit))
  accept(router, ENDPOINTS.exclude, exclusionBody, async ({ params, body }) => {
    if (!isUuid(params.id)) throw notFound('visit')
    const { row, installed } = await openVisit(db, params.id)
    await db.insert(exclusions).values({ visitId: row.id, at: new Date(clock.now()), ...body })
    return pageOf(installed.position.code)
  })
  return router
}
