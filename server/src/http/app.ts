import { existsSync } from 'node:fs'
import { join } from 'node:path'
import {
  abandonBody,
  applyBody,
  captureBody,
  correctionBody,
  decideBody,
  doneBody,
  endTripBody,
  fillBody,
  lotActionBody,
  lotBody,
  redoBody,
  type SiteView,
  schoolsBody,
  skipBody,
  standInBody,
  startTripBody,
  startVisitBody,
  takeOverBody,
  typedReadingBody,
  waitBody,
} from '@frustum/contract'
import type { Schools } from '@frustum/core'
import express, { type ErrorRequestHandler, type Express, type Request } from 'express'
import helmet from 'helmet'
import type { Logger } from 'pino'
import type { Database } from '../database/open.ts'
import { operators, schoolChoices, sites } from '../database/schema.ts'
import { exportCsv } from '../ledger/exportCsv.ts'
import { exportRecords } from '../ledger/exportRecords.ts'
import { importRecords } from '../ledger/importRecords.ts'
import { addCorrection, ledger, recordOf } from '../ledger/ledger.ts'
import type { LiveValues } from '../links/liveValues.ts'
import { planRoutes } from '../plan/routes.ts'
import { probeRoutes } from '../probes/routes.ts'
import { notFound, Problem } from '../problem.ts'
import { overview } from '../rounds/overview.ts'
import { runningWaits } from '../rounds/waits.ts'
import { schoolsAt } from '../sensors.ts'
import { actOnLot, addLot, shelf } from '../shelf/shelf.ts'
import { playStandIn } from '../standins/standIns.ts'
import { endTrip, startTrip, tripOf } from '../trips/trips.ts'
import type { VisitDesk } from '../visits/desk.ts'
import type { LiveDesks } from '../visits/liveDesks.ts'
import type { StartRequest } from '../visits/start.ts'
import { openStream } from './streams.ts'
import { readBody } from './validate.ts'

export interface AppParts {
  db: Database
  live: LiveValues
  desk: VisitDesk
  desks: LiveDesks
  log: Logger
  demo: boolean
  webFolder: string | null
}

const LIVE_EVERY_MS = 500
const UUID = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/i

/** The whole HTTP side. Handlers read, call, answer; what they call does the work. */
export function buildApp(parts: AppParts): Express {
  const app = express()
  app.disable('x-powered-by')
  app.use(
    helmet({
      contentSecurityPolicy: {
        // styled charts set inline style attributes
        directives: { 'style-src': ["'self'", "'unsafe-inline'"], 'upgrade-insecure-requests': null },
      },
      strictTransportSecurity: false,
    }),
  )
  app.use(refuseForeignOrigin)
  // A file of records may be large; everything else that comes in is small.
  app.use('/api/ledger/import', express.json({ limit: '200mb' }))
  app.use(express.json({ limit: '64kb' }))
  app.use(
    '/api',
    siteRoutes(parts),
    probeRoutes(parts),
    planRoutes(parts),
    visitRoutes(parts),
    tripRoutes(parts),
    shelfRoutes(parts),
    ledgerRoutes(parts),
  )
  app.use('/api', (_req, _res, next) => next(notFound('address')))
  serveWeb(app, parts.webFolder)
  app.use(answerProblem(parts.log))
  return app
}

function siteRoutes({ db, live, desks, demo }: AppParts) {
  const router = express.Router()
  router.get('/site', async (_req, res) => {
    const [site] = await db.select().from(sites)
    const names = await db.select().from(operators)
    const view: SiteView = {
      name: site?.name ?? 'Your site',
      timeZone: site?.timeZone ?? 'UTC',
      operators: names.map((n) => n.name),
      demo,
      schools: await schoolsAt(db),
    }
    res.json(view)
  })
  router.post('/site/schools', async (req, res) => {
    const { operator, schools } = await readBody(schoolsBody, req.body)
    await db.insert(schoolChoices).values({ at: new Date(), operator, schools: schools as Schools })
    res.json(await schoolsAt(db))
  })
  router.get('/waits', async (_req, res) => {
    res.json(await runningWaits(db))
  })
  router.get('/rounds', async (_req, res) => {
    res.json(await overview(db, live, Date.now()))
  })
  router.get('/live', (req, res) => {
    const stream = openStream(req, res, () => clearInterval(timer))
    const timer = setInterval(() => stream.send(live.all()), LIVE_EVERY_MS)
    stream.send(live.all())
  })
  router.post('/standins/:position', async (req, res) => {
    const body = await readBody(standInBody, req.body)
    res.json(await playStandIn(db, live, desks, req.params.position, body))
  })
  return router
}

function visitRoutes({ desk }: AppParts) {
  const router = express.Router()
  router.param('id', (_req, _res, next, id) => next(UUID.test(id) ? undefined : notFound('visit')))
  router.post('/visits', async (req, res) => {
    const body = await readBody(startVisitBody, req.body)
    res.status(201).json(await desk.start({ standards: {}, opening: {}, ...body } as StartRequest))
  })
  router.get('/visits/:id', async (req, res) => {
    res.json(await desk.view(req.params.id))
  })
  router.get('/visits/:id/live', async (req, res) => {
    await desk.view(req.params.id)
    let stop: () => void = () => undefined
    let gone = false
    const stream = openStream(req, res, () => {
      gone = true
      stop()
    })
    stop = await desk.watch(req.params.id, (message) => stream.send(message))
    if (gone) stop()
  })
  router.post('/visits/:id/done', async (req, res) => {
    const body = await readBody(doneBody, req.body)
    res.json(await desk.done(req.params.id, body, body.step))
  })
  router.post('/visits/:id/skip', async (req, res) => {
    const body = await readBody(skipBody, req.body)
    res.json(await desk.skip(req.params.id, body, body.step, body.reason))
  })
  router.post('/visits/:id/redo', async (req, res) => {
    const body = await readBody(redoBody, req.body)
    res.json(await desk.redo(req.params.id, body, body.step, body.reason))
  })
  router.post('/visits/:id/capture', async (req, res) => {
    const body = await readBody(captureBody, req.body)
    res.json(await desk.capture(req.params.id, body, body.step, body.earlyReason))
  })
  router.post('/visits/:id/typed', async (req, res) => {
    const body = await readBody(typedReadingBody(await desk.typing(req.params.id)), req.body)
    res.json(await desk.typed(req.params.id, body, body.step, body.value ?? '', body.temperature ?? ''))
  })
  router.post('/visits/:id/wait', async (req, res) => {
    const body = await readBody(waitBody, req.body)
    res.json(await desk.wait(req.params.id, body, body.step, body.minutes))
  })
  router.post('/visits/:id/fill', async (req, res) => {
    const body = await readBody(fillBody, req.body)
    // The values are read by the fields of the step itself.
    res.json(await desk.fill(req.params.id, body, body.step, (req.body as { values: Record<string, unknown> }).values))
  })
  router.post('/visits/:id/decide', async (req, res) => {
    const body = await readBody(decideBody, req.body)
    res.json(await desk.decide(req.params.id, body, body.step, body.decision, body.note))
  })
  router.post('/visits/:id/apply', async (req, res) => {
    const body = await readBody(applyBody(await desk.typing(req.params.id)), req.body)
    res.json(await desk.apply(req.params.id, body, body.way, body.shownAfter))
  })
  router.post('/visits/:id/take-over', async (req, res) => {
    res.json(await desk.takeOver(req.params.id, await readBody(takeOverBody, req.body)))
  })
  router.post('/visits/:id/abandon', async (req, res) => {
    const body = await readBody(abandonBody, req.body)
    res.json(await desk.abandon(req.params.id, body, body.reason))
  })
  return router
}

function tripRoutes({ db }: AppParts) {
  const router = express.Router()
  router.param('id', (_req, _res, next, id) => next(UUID.test(id) ? undefined : notFound('trip')))
  router.post('/trips', async (req, res) => {
    res.status(201).json(await startTrip(db, await readBody(startTripBody, req.body)))
  })
  router.get('/trips/:id', async (req, res) => {
    res.json(await tripOf(db, req.params.id))
  })
  router.post('/trips/:id/end', async (req, res) => {
    await readBody(endTripBody, req.body)
    res.json(await endTrip(db, req.params.id))
  })
  return router
}

function shelfRoutes({ db }: AppParts) {
  const router = express.Router()
  router.get('/shelf', async (_req, res) => {
    res.json(await shelf(db, Date.now()))
  })
  router.post('/shelf', async (req, res) => {
    await addLot(db, await readBody(lotBody, req.body))
    res.status(201).json(await shelf(db, Date.now()))
  })
  router.post('/shelf/:id', async (req, res) => {
    const id = Number(req.params.id)
    if (!Number.isInteger(id)) throw notFound('lot')
    await actOnLot(db, id, await readBody(lotActionBody, req.body))
    res.json(await shelf(db, Date.now()))
  })
  return router
}

function ledgerRoutes({ db }: AppParts) {
  const router = express.Router()
  const one = (req: Request) => {
    const { visit } = req.query
    if (visit === undefined) return null
    if (typeof visit !== 'string' || !UUID.test(visit)) throw notFound('visit')
    return visit
  }
  router.get('/ledger', async (req, res) => {
    const before = Number(req.query.before)
    res.json(await ledger(db, Number.isFinite(before) && req.query.before ? new Date(before) : null))
  })
  router.get('/ledger/export.json', async (req, res) => {
    const document = await exportRecords(db, one(req))
    res.attachment('frustum-records.json').json(document)
  })
  router.get('/ledger/export.csv', async (req, res) => {
    res
      .attachment('frustum-records.csv')
      .type('text/csv')
      .send(await exportCsv(db, one(req)))
  })
  router.post('/ledger/import', async (req, res) => {
    res.json(await importRecords(db, req.body))
  })
  router.param('id', (_req, _res, next, id) => next(UUID.test(id) ? undefined : notFound('visit')))
  router.get('/ledger/:id', async (req, res) => {
    res.json(await recordOf(db, req.params.id))
  })
  router.post('/ledger/:id/corrections', async (req, res) => {
    const { operator, text } = await readBody(correctionBody, req.body)
    res.status(201).json(await addCorrection(db, req.params.id, operator, text))
  })
  return router
}

/** A page of another site must not be able to act here through the operator's browser. */
function refuseForeignOrigin(req: Request, _res: unknown, next: (error?: unknown) => void): void {
  const origin = req.get('origin')
  const host = req.get('host')
  const own = !origin || (URL.canParse(origin) && new URL(origin).host === host)
  const crossSite = req.get('sec-fetch-site') === 'cross-site' && req.path.startsWith('/api')
  if (own && !crossSite) next()
  else next(new Problem(403, 'foreign-origin', 'Requests from another site are refused.'))
}

function serveWeb(app: Express, folder: string | null): void {
  if (!folder || !existsSync(join(folder, 'index.html'))) return
  app.use('/assets', express.static(join(folder, 'assets'), { immutable: true, maxAge: '1y' }))
  app.use(express.static(folder, { index: false }))
  app.get('/{*path}', (_req, res) => {
    res.set('Cache-Control', 'no-cache').sendFile(join(folder, 'index.html'))
  })
}

function answerProblem(log: Logger): ErrorRequestHandler {
  return (error, req, res, _next) => {
    if (res.headersSent) {
      res.end()
      return
    }
    const problem = asProblem(error)
    if (problem.status >= 500 && !(error instanceof Problem))
      log.error({ err: error, path: req.path }, 'request failed')
    res.status(problem.status).json({ code: problem.code, message: problem.message, ...problem.more })
  }
}

function asProblem(error: unknown): Problem {
  if (error instanceof Problem) return error
  const status = (error as { status?: number }).status
  if (status === 400)
    return new Problem(400, 'unreadable', 'The request is not readable JSON.', { detail: 'Nothing was recorded.' })
  if (status === 413)
    return new Problem(413, 'too-large', 'The request is too large.', { detail: 'Nothing was recorded.' })
  return new Problem(500, 'internal', 'Something went wrong on the server.', {
    detail: 'What was captured before is kept.',
    hint: 'Try once more; if it stays, look into the server log.',
  })
}
