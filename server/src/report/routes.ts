import { ENDPOINTS } from '@frustum/contract'
import { type Request, Router } from 'express'
import type { RouteContext } from '../http/routeContext.ts'
import { serve } from '../http/serve.ts'
import { reportCsv, reportPdf } from './files.ts'
import { type ReportAsked, reportOf } from './report.ts'

/** For who has to show it: how all sensors stand, and what happened in a span. */
export function reportRoutes({ db, clock }: RouteContext) {
  const router = Router()
  const report = (query: Request['query']) => reportOf(db, askedIn(query), clock.now())
  serve(router, ENDPOINTS.report, ({ query }) => report(query))
  router.get(ENDPOINTS.reportCsv.path, async (req, res) => {
    const text = reportCsv(await report(req.query))
    res.attachment('frustum-report.csv').type('text/csv').send(text)
  })
  router.get(ENDPOINTS.reportPdf.path, async (req, res) => {
    const pdf = await reportPdf(await report(req.query))
    res.attachment('frustum-report.pdf').type('application/pdf').send(pdf)
  })
  return router
}

const askedIn = (query: Request['query']): ReportAsked =>
  Object.fromEntries(
    (['on', 'from', 'to'] as const).flatMap((key) => (query[key] === undefined ? [] : [[key, String(query[key])]])),
  )
