import type { Router } from 'express'
import type { ServerContext } from './context.ts'

/** Something that is added to a server from outside; the product itself has none. */
export interface ServerExtension {
  name: string
  /** Runs once the database is open, before the devices are. */
  prepare?(context: Pick<ServerContext, 'db' | 'clock'>): Promise<void>
  /** Runs once the devices are open, before the first request is answered. */
  start?(context: ServerContext): Promise<void>
  /** Runs when the server ends. */
  stop?(): Promise<void>
  /** Its routes, below /api/extensions/<name>. */
  routes?(context: ServerContext): Router
  /** Its part in the browser: a folder of built files, and the module in it that pages load. */
  web?: { folder: string; entry: string }
}
