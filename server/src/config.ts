import { isIP } from 'node:net'
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
  /** Set where it is served encrypted to the local network: with a certificate that is given, or one of its own. */
  lan?: { certificate: string; key: string } | 'own' | null
  /** Addresses of proxies whose word on where a request came from is taken. */
  proxies?: readonly string[]
}

/** Whether other computers may reach the server; serving to the local network says so, whatever its host is. */
export const isOpenToOthers = ({ host, names = [], lan }: Pick<Config, 'host' | 'names' | 'lan'>): boolean =>
  Boolean(lan) || names.length > 0 || !(host === 'localhost' || host === '::1' || /^127\./.test(host))

const LOG_LEVELS = ['trace', 'debug', 'info', 'warn', 'error', 'fatal', 'silent']

/** Reads the settings from environment variables. @throws StartProblem for a value that makes no sense */
export function readConfig(
  env: NodeJS.ProcessEnv,
  webFolder: string | null,
  lan: NonNullable<Config['lan']> | null = null,
): Config {
  const folder = env.FRUSTUM_DATA ?? 'data'
  if (env.LOG_LEVEL && !LOG_LEVELS.includes(env.LOG_LEVEL)) {
    throw new StartProblem(`LOG_LEVEL is "${env.LOG_LEVEL}"; it must be one of ${LOG_LEVELS.join(', ')}.`)
  }
  return {
    lan,
    host: env.HOST ?? (lan ? '0.0.0.0' : '127.0.0.1'),
    port: portFrom('PORT', env.PORT),
    dataFolder: isAbsolute(folder) ? folder : resolve(folder),
    pollMs: pollMsFrom(env.FRUSTUM_POLL_MS),
    webFolder,
    names: namesFrom(env.FRUSTUM_NAMES ?? ''),
    proxies: proxiesFrom(env.FRUSTUM_PROXY ?? ''),
  }
}

/** How often devices are asked, ms: not so often that they only answer, nor so seldom that nothing settles. */
const POLL_MS = { usual: 500, low: 100, high: 60_000 } as const

function pollMsFrom(text: string | undefined): number {
  if (text === undefined || text === '') return POLL_MS.usual
  const ms = Number(text)
  if (!(ms >= POLL_MS.low && ms <= POLL_MS.high)) {
    throw new StartProblem(`FRUSTUM_POLL_MS is "${text}"; it must be from ${POLL_MS.low} to ${POLL_MS.high} ms.`)
  }
  return ms
}

function portFrom(name: string, text: string | undefined): number | null {
  if (text === undefined || text === '') return null
  const port = Number(text)
  if (!Number.isInteger(port) || port < 1 || port > 65535) {
    throw new StartProblem(`${name} is "${text}"; it must be a whole number from 1 to 65535.`)
  }
  return port
}

const listed = (text: string): string[] =>
  text
    .split(',')
    .map((part) => part.trim().toLowerCase())
    .filter((part) => part !== '')

function proxiesFrom(text: string): string[] {
  const addresses = listed(text)
  const wrong = addresses.find((address) => isIP(address) === 0)
  if (wrong) throw new StartProblem(`FRUSTUM_PROXY has "${wrong}"; write IP addresses with commas between them.`)
  return addresses
}

function namesFrom(text: string): string[] {
  const names = listed(text)
  const wrong = names.find((name) => !/^[a-z0-9]([a-z0-9.-]*[a-z0-9])?$/.test(name))
  if (wrong) {
    throw new StartProblem(`FRUSTUM_NAMES has "${wrong}"; write host names without port, with commas between them.`)
  }
  return names
}
