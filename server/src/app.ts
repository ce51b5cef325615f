import { createHash } from 'node:crypto'
import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { DECIMAL_MARK_HEADER, ENDPOINTS, INGEST_PATH } from '@frustum/contract'
import { inOneWay, VisitRefusal } from '@frustum/core'
import express, { type ErrorRequestHandler, type Express, type Request, type RequestHandler } from 'express'
import helmet from 'helmet'
import type { Logger } from 'pino'
import { alarmRoutes } from './alarms/routes.ts'
import type { Backups } from './backup/backups.ts'
import { backupRoutes } from './backup/routes.ts'
import { bringRoutes } from './bring/routes.ts'
import type { Config } from './config.ts'
import type { Finders } from './connections/finders.ts'
import { connectionRoutes } from './connections/routes.ts'
import type { ServerContext } from './context.ts'
import type { ServerExtension } from './extension.ts'
import { holdRoutes } from './holds/routes.ts'
import { cleaning, refuseNul } from './http/cleanText.ts'
import { doneOnce } from './http/doneOnce.ts'
import { Jobs } from './http/jobs.ts'
import { refuseForeignHost } from './http/ownNames.ts'
import { ingestRoutes } from './ingest/routes.ts'
import { instrumentRoutes } from './instruments/routes.ts'
import { ledgerRoutes } from './ledger/routes.ts'
import type { Access } from './people/access.ts'
import { guard } from './people/guard.ts'
import { peopleRoutes } from './people/routes.ts'
import { photoRoutes } from './photos/routes.ts'
import { planRoutes } from './plan/routes.ts'
import { probeRoutes } from './probes/routes.ts'
import { notFound, Problem } from './problem.ts'
import { reportRoutes } from './report/routes.ts'
import { rigRoutes } from './rig/routes.ts'
import { roundsRoutes } from './rounds/routes.ts'
import { shelfRoutes } from './shelf/routes.ts'
import { siteRoutes } from './site/routes.ts'
import { tellingRoutes } from './telling/routes.ts'
import { tripRoutes } from './trips/routes.ts'
import { visitRoutes } from './visits/routes.ts'
import { walkRoutes } from './walk/routes.ts'

interface AppParts {
  finders: Finders
  context: ServerContext
  access: Access
  backups: Backups
  /** Ends the server and starts it again. */
  restart: () => void
  extensions: readonly ServerExtension[]
  config: Config
}

/** Of a photo, once the browser has made it smaller. */
const PHOTO_LIMIT = '2mb'

/** A file of records with what was read every second, or a set-up with its photos. */
const DOCUMENT_LIMIT = '200mb'

/** A workbook or a table of text. */
const SHEET_LIMIT = '20mb'

/** The whole HTTP side: only wired here; each capability has its routes in its own folder. */
export function buildApp({ context, finders, access, backups, restart, extensions, config }: AppParts): Express {
  const app = express()
  const jobs = new Jobs()
  app.locals.doneOnce = doneOnce(context.db)
  app.locals.jobs = jobs
  app.disable('x-powered-by')
  app.set('trust proxy', config.proxies ?? [])
  app.use(
    helmet({
      contentSecurityPolicy: {
        // styled charts set inline style attributes
        directives: { 'style-src': ["'self'", "'unsafe-inline'"], 'upgrade-insecure-requests': null },
      },
      strictTransportSecurity: false,
    }),
  )
  app.use(refuseForeignHost(config))
  app.use(refuseForeignOrigin)
  app.use(refuseNul)
  const cookie = cookieName(config.dataFolder)
  app.use('/api', guard(access, cookie))
  // Before anything that is done after each request of a person: devices send every second.
  app.use(ingestRoutes(context))
  app.use(ENDPOINTS.addPhoto.path, express.raw({ type: 'image/*', limit: PHOTO_LIMIT }))
  // Files are read in a thread; everything else that comes in is small.
  for (const { path } of [ENDPOINTS.importRecords, ENDPOINTS.importSetUp, ENDPOINTS.bringLog]) {
    app.use(path, express.raw({ type: () => true, limit: DOCUMENT_LIMIT }))
  }
  for (const { path } of [ENDPOINTS.bringSensors, ENDPOINTS.bringPast]) {
    app.use(path, express.raw({ type: () => true, limit: SHEET_LIMIT }))
  }
  app.use(express.json({ limit: '64kb', reviver: cleaning }))
  app.use(readAsTyped)
  app.use('/api', followLines(context.links))
  app.get(ENDPOINTS.job.path, (req, res) => jobs.outcome(String(req.params.id), res))
  app.use(
    peopleRoutes(context, access, cookie),
    backupRoutes(context, backups, restart),
    siteRoutes(context, pageExtensions(extensions)),
    connectionRoutes(context, finders),
    holdRoutes(context),
    alarmRoutes(context),
    tellingRoutes(context),
    walkRoutes(context),
    rigRoutes(context),
    bringRoutes(context),
    roundsRoutes(context, () => backups.warning()),
    probeRoutes(context),
    planRoutes(context),
    visitRoutes(context),
    tripRoutes(context),
    shelfRoutes(context, () => context.desk.lotsChanged()),
    instrumentRoutes(context),
    photoRoutes(context),
    reportRoutes(context),
    ledgerRoutes(context),
  )
  for (const extension of extensions) {
    if (extension.routes) app.use(`/api/extensions/${extension.name}`, extension.routes(context))
    if (extension.web) app.use(`/extensions/${extension.name}`, express.static(extension.web.folder))
  }
  app.use('/api', (_req, _res, next) => next(notFound('address')))
  serveWeb(app, config.webFolder)
  app.use(answerProblem(context.log))
  return app
}

/** Browsers keep cookies by host, not by port: two sites on one machine must not sign each other out. */
const cookieName = (dataFolder: string): string =>
  `frustum-${createHash('sha256').update(dataFolder).digest('hex').slice(0, 8)}`

/** What pages load of the extensions. */
const pageExtensions = (extensions: readonly ServerExtension[]) =>
  extensions.flatMap(({ name, web }) => (web ? [{ name, module: `/extensions/${name}/${web.entry}` }] : []))

/** A page of another site must not be able to act here through the operator's browser. */
function refuseForeignOrigin(req: Request, _res: unknown, next: (error?: unknown) => void): void {
  const origin = req.get('origin')
  const host = req.get('host')
  const own = !origin || (URL.canParse(origin) && new URL(origin).host === host)
  const crossSite = req.get('sec-fetch-site') === 'cross-site' && req.path.startsWith('/api')
  if (own && !crossSite) next()
  else next(new Problem(403, 'foreign-origin', 'Requests from another site are refused.'))
}

/** "1,413" means one thing to whoever typed it, where the page says what they mark decimals by. */
function readAsTyped(req: Request, _res: unknown, next: () => void): void {
  if (req.get(DECIMAL_MARK_HEADER) === 'comma' && !Buffer.isBuffer(req.body)) req.body = inOneWayAll(req.body)
  next()
}

function inOneWayAll(body: unknown): unknown {
  if (typeof body === 'string') return inOneWay(body, 'comma')
  if (Array.isArray(body)) return body.map(inOneWayAll)
  if (typeof body !== 'object' || body === null) return body
  return Object.fromEntries(Object.entries(body).map(([key, value]) => [key, inOneWayAll(value)]))
}

/** Sensors that were added, moved, put away or brought in are read, or no longer read, from then on. */
function followLines(links: ServerContext['links']): RequestHandler {
  return (req, res, next) => {
    // What took longer than its sender waited has changed something when it is done.
    if (req.method === 'POST' || req.path.startsWith('/jobs/')) {
      res.once('finish', () => {
        if (res.statusCode < 300) void links.follow()
      })
    }
    next()
  }
}

function serveWeb(app: Express, folder: string | null): void {
  if (!folder || !existsSync(join(folder, 'index.html'))) return
  app.use('/assets', express.static(join(folder, 'assets'), { immutable: true, maxAge: '1y' }))
  app.use(express.static(folder, { index: false }))
  app.get('/licenses', (_req, res) => res.sendFile(join(folder, 'licenses.txt')))
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
      log.error({ err: error, path: withoutToken(req.path) }, 'request failed')
    res.status(problem.status).json({ code: problem.code, message: problem.message, ...problem.more })
  }
}

/** Whoever reads the log must not be able to send in the name of a device. */
const withoutToken = (path: string): string => (path.startsWith(INGEST_PATH) ? INGEST_PATH : path)

function asProblem(error: unknown): Problem {
  if (error instanceof Problem) return error
  if (error instanceof VisitRefusal) {
    const { because, code, ...more } = error.refusal
    return new Problem(because === 'input' ? 400 : 409, code, error.message, more)
  }
  const status = (error as { status?: number }).status
  if (status === 400)
    return new Problem(400, 'unreadable', 'The request is not readable JSON.', { detail: 'Nothing was recorded.' })
  if (status === 413)
    return new Problem(413, 'too-large', 'The request is too large.', { detail: 'Nothing was recorded.' })
  if (hasNoRoom(error))
    return new Problem(507, 'disk-full', 'The disk of the server is full.', {
      detail: 'This was not recorded; all that was recorded before is kept.',
      hint: 'Make room on the disk, then try once more.',
    })
  return new Problem(500, 'internal', 'Something went wrong on the server.', {
    detail: 'What was captured before is kept.',
    hint: 'Try once more; if it stays, look into the server log.',
  })
}

/** PostgreSQL's disk_full, which the query builder wraps. */
const hasNoRoom = (error: unknown): boolean =>
  [error, (error as Error).cause].some((e) => (e as { code?: unknown } | undefined)?.code === '53100')
