import type { Clock } from '@frustum/contract'
import type { Logger } from 'pino'
import type { Database } from './database/open.ts'
import type { LiveValues } from './links/liveValues.ts'
import type { VisitDesk } from './visits/desk.ts'

/** What the capabilities of a running server share. */
export interface ServerContext {
  db: Database
  clock: Clock
  live: LiveValues
  desk: VisitDesk
  log: Logger
}
