import {
  causeBody,
  exclusionBody,
  type HourMeterBody,
  hourMeterBody,
  type RulesBody,
  renewBody,
  rulesBody,
  testAnswerBody,
} from '@frustum/contract'
import type { Cause } from '@frustum/core'
import express from 'express'
import type { Database } from '../database/open.ts'
import { exclusions, testAnswers } from '../database/schema.ts'
import { readBody } from '../http/validate.ts'
import { giveNumbersBack } from '../links/deviceNumbers.ts'
import type { LiveValues } from '../links/liveValues.ts'
import { installedAt } from '../sensors.ts'
import { openVisit } from '../visits/records.ts'
import { confirmCause } from './confirm.ts'
import { fleetView } from './fleet.ts'
import { readHourMeter } from './hourMeter.ts'
import { pastCsv, pastOf } from './past.ts'
import { probe } from './probe.ts'
import { starting } from './starting.ts'
import { changeRules, whatIf } from './whatIf.ts'

/** How the sensors age, what is wrong with them, and the rules by which they are visited. */
export function probeRoutes({ db, live }: { db: Database; live: LiveValues }) {
  const router = express.Router()
  router.get('/probes', async (_req, res) => {
    res.json(await fleetView(db, live, Date.now()))
  })
  router.get('/probes/:position', async (req, res) => {
    res.json(await probe(db, live, req.params.position, Date.now()))
  })
  router.get('/probes/:position/starting', async (req, res) => {
    res.json(await starting(db, live, req.params.position, Date.now()))
  })
  router.post('/probes/:position/what-if', async (req, res) => {
    const rules = (await readBody(rulesBody, req.body)) as RulesBody
    res.json(await whatIf(db, req.params.position, rules, Date.now()))
  })
  router.post('/probes/:position/rules', async (req, res) => {
    await changeRules(db, req.params.position, (await readBody(rulesBody, req.body)) as RulesBody)
    res.json(await probe(db, live, req.params.position, Date.now()))
  })
  router.post('/probes/:position/tests', async (req, res) => {
    const { operator, feature, answer } = await readBody(testAnswerBody, req.body)
    const { installation } = await installedAt(db, req.params.position)
    await db.insert(testAnswers).values({ installationId: installation.id, at: new Date(), operator, feature, answer })
    res.json(await probe(db, live, req.params.position, Date.now()))
  })
  router.post('/probes/:position/cause', async (req, res) => {
    const { operator, cause } = await readBody(causeBody, req.body)
    const { installation } = await installedAt(db, req.params.position)
    await confirmCause(db, { installationId: installation.id, operator, cause: cause as Cause }, Date.now())
    res.json(await probe(db, live, req.params.position, Date.now()))
  })
  router.post('/probes/:position/hours', async (req, res) => {
    const body = (await readBody(hourMeterBody, req.body)) as HourMeterBody
    await readHourMeter(db, req.params.position, body, new Date())
    res.json(await probe(db, live, req.params.position, Date.now()))
  })
  router.post('/probes/:position/numbers', async (req, res) => {
    const { operator } = await readBody(renewBody, req.body)
    await giveNumbersBack(db, live, req.params.position, operator)
    res.json(await probe(db, live, req.params.position, Date.now()))
  })
  router.get('/probes/:position/past/:visit.csv', async (req, res) => {
    const { position, visit } = req.params
    res.type('text/csv').attachment(`${position}-corrected.csv`)
    res.send(await pastCsv(db, position, visit as string))
  })
  router.get('/probes/:position/past/:visit', async (req, res) => {
    res.json(await pastOf(db, req.params.position, req.params.visit))
  })
  router.post('/visits/:id/exclusion', async (req, res) => {
    const body = await readBody(exclusionBody, req.body)
    const { row, installed } = await openVisit(db, null, req.params.id)
    await db.insert(exclusions).values({ visitId: row.id, at: new Date(), ...body })
    res.json(await probe(db, live, installed.position.code, Date.now()))
  })
  return router
}
