import type { Logger } from 'pino'
import type { RouteContext } from './http/routeContext.ts'
import type { VisitDesk } from './visits/desk.ts'

/** What the capabilities of a running server share. */
export interface ServerContext extends RouteContext {
  desk: VisitDesk
  log: Logger
}
