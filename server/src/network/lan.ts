import type { RequestListener } from 'node:http'
import { isIP } from 'node:net'
import { DAY_MS } from '@frustum/core'
import type { Logger } from 'pino'
import type { Config } from '../config.ts'
import type { Database } from '../database/open.ts'
import { sites } from '../database/schema.ts'
import { ownAddresses, ownNames } from '../http/addresses.ts'
import { type Certificates, fingerprintOf, givenCertificates, ownCertificates } from './certificates.ts'
import { onePort } from './onePort.ts'
import { welcome } from './welcome.ts'

/**
 * Has the certificate ready with which an app is served to the local network; it is looked after every day.
 * @returns opens it for an app
 * @throws StartProblem
 */
export async function prepareLan(config: Config, db: Database, log: Logger) {
  const [site] = await db.select({ name: sites.name }).from(sites)
  const name = site?.name ?? 'your site'
  const now = (): Promise<Certificates> => {
    const { lan, dataFolder, names = [] } = config
    if (lan && lan !== 'own') return Promise.resolve(givenCertificates(lan))
    const wanted = [...ownAddresses(), ...ownNames(), ...names]
    return ownCertificates({ dataFolder, site: name, names: wanted, now: Date.now() })
  }
  const first = await now()
  return (app: RequestListener) => {
    const port = onePort(first.server, app, welcome(config, name, first))
    const timer = setInterval(() => {
      // An old one still works until it ends; what went wrong is tried again the next day.
      now()
        .then(({ server }) => port.renew(server))
        .catch((error) => log.error({ err: error }, 'certificate not renewed'))
    }, DAY_MS)
    timer.unref()
    return {
      server: port.server,
      fingerprint: first.authority && fingerprintOf(first.authority),
      addresses: (at: number) => addressesOf(first.names, at),
      stop() {
        clearInterval(timer)
        port.closeAllConnections()
      },
    }
  }
}

/** As one types them: an address in the usual network first, then names; what only this machine knows is left out. */
function addressesOf(names: readonly string[], port: number): string[] {
  const outer = names.filter((n) => !/^(localhost|127\.|::1$)/.test(n) && isIP(n) !== 6)
  const byUse = [...outer.filter((n) => isIP(n)), ...outer.filter((n) => !isIP(n))]
  return byUse.map((n) => `https://${n}:${port}`)
}
