import type { Request } from 'express'
import type { Config } from '../config.ts'
import { Problem } from '../problem.ts'
import { ownAddresses, ownNames } from './addresses.ts'

/** Names under which a server is asked for; under any other, somebody else's page asks through an operator's browser. */

const LOOPBACK = ['localhost', '127.0.0.1', '::1']
/** Listening on all addresses. */
const ANY = ['0.0.0.0', '::']

/** The name in a Host header: without its port, and an IPv6 address without its brackets. */
function nameIn(header: string | undefined): string {
  const name = /^\[([^\]]*)\](?::\d*)?$/.exec(header ?? '')?.[1] ?? (header ?? '').replace(/:\d*$/, '')
  return name.toLowerCase().replace(/\.$/, '')
}

/** Addresses come and go with the network: they are looked up when they are asked for. */
const isOwnMachine = (name: string): boolean => ownNames().includes(name) || ownAddresses().includes(name)

/**
 * Refuses requests under a name that is not the server's own. A page whose name was made to lead here after it was
 * loaded (DNS rebinding) has an Origin that matches its Host, so that the Origin alone does not tell.
 */
export function refuseForeignHost({ host, names = [] }: Pick<Config, 'host' | 'names'>) {
  const own = new Set([...LOOPBACK, host.toLowerCase(), ...names])
  return (req: Request, _res: unknown, next: (error?: unknown) => void): void => {
    const name = nameIn(req.get('host'))
    if (own.has(name) || (ANY.includes(host) && isOwnMachine(name))) {
      next()
      return
    }
    next(
      new Problem(421, 'foreign-host', 'This server is not known by that name.', {
        detail: 'Nothing was done.',
        hint: 'If it is to be reached so, start it with FRUSTUM_NAMES set to that name.',
      }),
    )
  }
}
