import { cpSync, existsSync, mkdtempSync, rmSync } from 'node:fs'
import { createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { type Config, isOpenToOthers } from './config.ts'
import { Engine } from './database/engine/engine.ts'
import { ownerOf } from './database/lock.ts'
import { RESTORED } from './database/restored.ts'
import { hasLead, readInventory } from './database/whole.ts'
import { StartProblem } from './problem.ts'

/** What a program needs to set a server going before it loads the rest: light, so that nothing waits for it. */
export { type Config, readConfig } from './config.ts'
export { beginDatabase } from './database/begin.ts'
export { StartProblem }

/** Checks that a requested port is free, before the data folder is touched. @throws StartProblem */
export async function checkPort({ host, port }: Pick<Config, 'host' | 'port'>): Promise<void> {
  if (port === null) return
  const server = createServer()
  await new Promise<void>((resolve, reject) => {
    server.once('error', (error: NodeJS.ErrnoException) => reject(portProblem(port, host, error)))
    server.listen(port, host, resolve)
  })
  await new Promise((resolve) => server.close(resolve))
}

export const portProblem = (port: number, host: string, { code, message }: NodeJS.ErrnoException): StartProblem =>
  new StartProblem(
    code === 'EADDRINUSE'
      ? `Port ${port} is in use by another program. Stop that program, or set PORT to a free port.`
      : `Port ${port} on ${host} can't be used (${code ?? message}). Set PORT to another port.`,
  )

/**
 * Checks that there is a lead if other computers can reach the server. Done before the data folder is touched, since the
 * engine changes files as soon as it opens a database. @throws StartProblem
 */
export async function checkLead(config: Config): Promise<void> {
  const { dataFolder } = config
  // A restored backup is checked when it is opened, and a folder in use is refused then.
  if (!isOpenToOthers(config) || existsSync(join(dataFolder, RESTORED)) || ownerOf(dataFolder) !== null) return
  const path = join(dataFolder, 'database')
  const isKnown = existsSync(path) && (readInventory(path)?.lead || (await hasLeadInCopy(path)))
  if (!isKnown) throw needsLead(config)
}

/** Whether a database has a lead, read from a copy. True if the copy can't be opened: the start itself explains that. */
async function hasLeadInCopy(path: string): Promise<boolean> {
  const copy = mkdtempSync(join(tmpdir(), 'frustum-'))
  try {
    cpSync(path, copy, { recursive: true, filter: (from) => !from.endsWith('postmaster.pid') })
    const engine = new Engine(copy)
    try {
      await engine.ready
      return await hasLead(engine)
    } finally {
      await engine.close()
    }
  } catch {
    return true
  } finally {
    rmSync(copy, { recursive: true, force: true })
  }
}

export const needsLead = ({ host, names = [], dataFolder }: Config): StartProblem =>
  new StartProblem(
    `Other computers can reach this server ${names.length > 0 ? `as ${names.join(', ')}` : `at ${host}`}, so people have to sign in, but no lead has a password yet. ` +
      `Add the first lead with npm run lead (FRUSTUM_DATA=${dataFolder}), then start again. Nothing was started.`,
  )
