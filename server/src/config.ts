import { isAbsolute, resolve } from 'node:path'
import { StartProblem } from './problem.ts'

export interface Config {
  host: string
  /** null: the default one, or the next free one when that is taken. */
  port: number | null
  dataFolder: string
  pollMs: number
  webFolder: string | null
  /** Names under which it is reached besides its own, as through a proxy. */
  names?: readonly string[]
}

/** Reads the settings from environment variables. @throws StartProblem for a value that makes no sense */
export function readConfig(env: NodeJS.ProcessEnv, webFolder: string | null): Config {
  const folder = env.FRUSTUM_DATA ?? 'data'
  return {
    host: env.HOST ?? '127.0.0.1',
    port: portFrom('PORT', env.PORT),
    dataFolder: isAbsolute(folder) ? folder : resolve(folder),
    pollMs: Number(env.FRUSTUM_POLL_MS ?? 500),
    webFolder,
    names: namesFrom(env.FRUSTUM_NAMES ?? ''),
  }
}

function portFrom(name: string, text: string | undefined): number | null {
  if (text === undefined || text === '') return null
  const port = Number(text)
  if (!Number.isInteger(port) || port < 1 || port > 65535) {
    throw new StartProblem(`${name} is "${text}"; it must be a whole number from 1 to 65535.`)
  }
  return port
}

function namesFrom(text: string): string[] {
  const names = text
    .split(',')
    .map((name) => name.trim().toLowerCase())
    .filter((name) => name !== '')
  const wrong = names.find((name) => !/^[a-z0-9]([a-z0-9.-]*[a-z0-9])?$/.test(name))
  if (wrong) {
    throw new StartProblem(`FRUSTUM_NAMES has "${wrong}"; write host names without port, with commas between them.`)
  }
  return names
}
