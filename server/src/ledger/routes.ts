import { correctionBody, ENDPOINTS } from '@frustum/contract'
import { type Request, Router } from 'express'
import { shownToAll } from '../database/derived.ts'
import { fileIn } from '../http/fileIn.ts'
import type { RouteContext } from '../http/routeContext.ts'
import { accept, isPossibleInstant, isUuid, refuseOtherThanUuid, serve } from '../http/serve.ts'
import { notFound, Problem } from '../problem.ts'
import { exportCsv } from './exportCsv.ts'
import { exportRecords } from './exportRecords.ts'
import { importRecords } from './importRecords.ts'
import { addCorrection, ledger, recordOf } from './ledger.ts'

/** The records: a list, one as a page, out as files and in again. */
export function ledgerRoutes({ db, clock }: RouteContext) {
  const router = Router()
  serve(router, ENDPOINTS.ledger, ({ query }) => {
    if (query.before) {
      const before = Number(query.before)
      if (!isPossibleInstant(before)) {
        throw new Problem(400, 'invalid', '"before" isn\'t a valid time.', { hint: 'Send milliseconds since 1970.' })
      }
      return ledger(db, new Date(before))
    }
    // Closed records never change: the first page stands until something is written.
    return shownToAll(db, 'ledger', { now: 0, freshMs: 1 }, () => ledger(db, null))
  })
  router.get(ENDPOINTS.exportJson.path, async (req, res) => {
    const document = await exportRecords(db, onlyVisit(req))
    res.attachment('frustum-records.json').json(document)
  })
  router.get(ENDPOINTS.exportCsv.path, async (req, res) => {
    const text = await exportCsv(db, onlyVisit(req))
    res.attachment('frustum-records.csv').type('text/csv').send(text)
  })
  accept(router, ENDPOINTS.importRecords, null, ({ body, query }) =>
    importRecords(db, fileIn(body), {
      operator: String(query.operator ?? '').slice(0, 80),
      at: new Date(clock.now()),
      fileName: String(query.name ?? '').slice(0, 200),
      take: query.take !== 'false',
    }),
  )
  router.param('id', refuseOtherThanUuid('visit'))
  serve(router, ENDPOINTS.record, ({ params }) => recordOf(db, params.id))
  accept(router, ENDPOINTS.correct, correctionBody, ({ params, body }) =>
    addCorrection(db, params.id, body, clock.now()),
  )
  return router
}

/** The one visit that is asked for, or null for all. */
function onlyVisit(req: Request): string | null {
  const { visit } = req.query
  if (visit === undefined) return null
  if (!isUuid(visit)) throw notFound('visit')
  return visit
}
