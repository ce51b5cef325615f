import { createServer } from 'node:net'
import type { Config } from './config.ts'
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
