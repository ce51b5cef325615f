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

/** Looks whether a port that was asked for can be had, before the data folder is touched. @throws StartProblem */
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
 * Looks for a lead where others may reach the server, before the data folder is touched: the engine changes files as soon
 * as it opens a database. @throws StartProblem
 */
export async function checkLead(config: Config): Promise<void> {
  const { dataFolder } = config
  // A restored backup, and a folder that is in use, are judged when it is opened.
  if (!isOpenToOthers(config) || existsSync(join(dataFolder, RESTORED)) || ownerOf(dataFolder) !== null) return
  const path = join(dataFolder, 'database')
  const isKnown = existsSync(path) && (readInventory(path)?.lead || (await hasLeadInCopy(path)))
  if (!isKnown) throw needsLead(config)
}

/** Whether a copy of a database has a lead; true where it can't be opened, which its own start then explains. */
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
    `Others reach this server ${names.length > 0 ? `as ${names.join(', ')}` : `at ${host}`}, so people have to sign in, and nobody can yet. ` +
      `Make the first lead, who gets a password: npm run lead (with FRUSTUM_DATA=${dataFolder}). Nothing was started.`,
  )
