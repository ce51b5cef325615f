import { X509Certificate } from 'node:crypto'
import { chmodSync, existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { createSecureContext } from 'node:tls'
import { StartProblem } from '../problem.ts'
import { certify, isGoodFor, type Keyed, makeAuthority, mayCertify } from './authority.ts'

/** Certificates of this server: one that was given, or one by an authority that lives in the data folder. */

export interface Certificates {
  server: Keyed
  /** That of the site's own, for phones to trust; null where a certificate was given. */
  authority: string | null
  /** Names and addresses that it certifies. */
  names: string[]
}

/** Loopback is certified as well, for whoever sits at the server. */
const LOOPBACK = ['localhost', '127.0.0.1', '::1']

/** Written whole or not at all; a key is for its owner alone. */
function put(folder: string, name: string, { certificate, key }: Keyed): void {
  for (const [file, text, mode] of [
    [`${name}.key`, key, 0o600],
    [`${name}.crt`, certificate, 0o644],
  ] as const) {
    const path = join(folder, file)
    writeFileSync(`${path}.new`, text, { mode, flush: true })
    chmodSync(`${path}.new`, mode)
    renameSync(`${path}.new`, path)
  }
}

function get(folder: string, name: string): Keyed | null {
  const [key, certificate] = [join(folder, `${name}.key`), join(folder, `${name}.crt`)]
  if (!existsSync(key) || !existsSync(certificate)) return null
  return { key: readFileSync(key, 'utf8'), certificate: readFileSync(certificate, 'utf8') }
}

interface Wanted {
  dataFolder: string
  site: string
  /** Names and addresses of the machine. */
  names: readonly string[]
  now: number
}

/**
 * The server's certificate, made or renewed where it must be; and the authority, which is made once and lasts ten
 * years; one that may certify all of `.local` is replaced. What the authority may not certify, as the address of a public network, is left out.
 */
export async function ownCertificates({ dataFolder, site, names, now }: Wanted): Promise<Certificates> {
  const folder = join(dataFolder, 'network')
  mkdirSync(folder, { recursive: true, mode: 0o700 })
  const permitted = ['localhost', ...names.filter((name) => /[a-z]/.test(name) && !name.includes(':'))]
  let authority = get(folder, 'authority')
  if (!authority || !isStillGood(authority.certificate, now) || permittedBy(folder).includes('local')) {
    authority = await makeAuthority(site, permitted, now)
    put(folder, 'authority', authority)
    writeFileSync(join(folder, 'permitted.json'), JSON.stringify(permitted))
  }
  const may = permittedBy(folder)
  const certified = [...new Set([...names, ...LOOPBACK])].filter((name) => mayCertify(may, name))
  let server = get(folder, 'server')
  if (!server || !isGoodFor(server.certificate, certified, now) || !isOf(server, authority)) {
    server = await certify(authority, certified, now)
    put(folder, 'server', server)
  }
  return { server, authority: authority.certificate, names: certified }
}

const permittedBy = (folder: string): string[] => JSON.parse(readFileSync(join(folder, 'permitted.json'), 'utf8'))

const isStillGood = (pem: string, now: number): boolean => Date.parse(new X509Certificate(pem).validTo) > now

const isOf = (server: Keyed, authority: Keyed): boolean =>
  new X509Certificate(server.certificate).verify(new X509Certificate(authority.certificate).publicKey)

/** A certificate that was given as files. @throws StartProblem where they do not go together */
export function givenCertificates(paths: { certificate: string; key: string }): Certificates {
  try {
    const server = { certificate: readFileSync(paths.certificate, 'utf8'), key: readFileSync(paths.key, 'utf8') }
    createSecureContext({ cert: server.certificate, key: server.key })
    const san = new X509Certificate(server.certificate).subjectAltName ?? ''
    const names = san.split(', ').map((name) => name.replace(/^(DNS|IP Address):/, '').toLowerCase())
    return { server, authority: null, names }
  } catch (error) {
    throw new StartProblem(
      `The certificate ${paths.certificate} and the key ${paths.key} cannot be used (${(error as Error).message}). Nothing was started.`,
    )
  }
}

/** SHA-256 of a certificate, as devices show it. */
export const fingerprintOf = (pem: string): string => new X509Certificate(pem).fingerprint256
