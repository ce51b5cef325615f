import type { Clock } from '@frustum/contract'
import type { Database } from '../database/open.ts'
import type { Links } from '../devices/links.ts'
import type { LiveValues } from '../devices/liveValues.ts'

/** What the routes of every capability may use. */
export interface RouteContext {
  db: Database
  clock: Clock
  live: LiveValues
  links: Links
}
