import { movePlanBody, renewBody } from '@frustum/contract'
import express from 'express'
import type { Database } from '../database/open.ts'
import { readBody } from '../http/validate.ts'
import { calendarOf } from './calendar.ts'
import { movePlan, planOf, renew } from './plan.ts'

/** The plan of the coming weeks, and the calendar one subscribes to. */
export function planRoutes({ db }: { db: Database }) {
  const router = express.Router()
  router.get('/plan', async (_req, res) => {
    res.json(await planOf(db, Date.now()))
  })
  router.post('/plan/move', async (req, res) => {
    const { operator, positions, to } = await readBody(movePlanBody, req.body)
    res.json(await movePlan(db, { operator, positions, to }, Date.now()))
  })
  router.post('/plan/consumables/:id/renew', async (req, res) => {
    const { operator } = await readBody(renewBody, req.body)
    res.json(await renew(db, Number(req.params.id) || 0, operator, Date.now()))
  })
  router.get('/calendar/:token.ics', async (req, res) => {
    res.type('text/calendar; charset=utf-8').send(await calendarOf(db, req.params.token as string, Date.now()))
  })
  return router
}
