// First: the certificates' library looks for it when it is loaded.
import 'reflect-metadata'
import { randomBytes, webcrypto } from 'node:crypto'
import { isIP } from 'node:net'
import { DAY_MS } from '@frustum/core'
import * as x509 from '@peculiar/x509'

/**
 * An authority of the site's own, and what it certifies: this server, under its names and addresses. What a phone trusts
 * by it is bounded (name constraints, RFC 5280, 4.2.1.10): addresses of private networks, and this machine's names.
 */

export interface Keyed {
  /** PEM. */
  certificate: string
  /** PKCS #8, PEM. */
  key: string
}

const ALGORITHM = { name: 'ECDSA', namedCurve: 'P-256', hash: 'SHA-256' } as const

/** An authority is put into phones by hand: it lasts as long as they do. */
const AUTHORITY_DAYS = 3650
/** What browsers take of a certificate: at most 398 days. */
const CERTIFICATE_DAYS = 397
/** So long before it ends it is made anew. */
const RENEW_DAYS = 30

/** Of private networks and of one machine: address and mask (RFC 1918, 3927, 4193, 4291). */
const PRIVATE_V4 = [
  [10, 0, 0, 0, 255, 0, 0, 0],
  [127, 0, 0, 0, 255, 0, 0, 0],
  [169, 254, 0, 0, 255, 255, 0, 0],
  [172, 16, 0, 0, 255, 240, 0, 0],
  [192, 168, 0, 0, 255, 255, 0, 0],
] as const
const v6 = (first: number[], mask: number[]) => [first, mask].flatMap((b) => [...b, ...Array(16 - b.length).fill(0)])
const LOOPBACK_V6 = [...Array(15).fill(0), 1, ...Array(16).fill(255)]
const PRIVATE_V6 = [v6([0xfc], [0xfe]), v6([0xfe, 0x80], [0xff, 0xc0]), LOOPBACK_V6]

/** DER: a tag, the length of its content, the content. */
function der(tag: number, ...content: (Uint8Array | readonly number[])[]): Uint8Array {
  const bytes = Buffer.concat(content.map((c) => Uint8Array.from(c)))
  const { length } = bytes
  const size = length < 128 ? [length] : length < 256 ? [0x81, length] : [0x82, length >> 8, length & 255]
  return Buffer.concat([Uint8Array.from([tag, ...size]), bytes])
}
const SEQUENCE = 0x30
const PERMITTED = 0xa0
const DNS = 0x82
const ADDRESS = 0x87

const nameConstraints = (names: readonly string[]) =>
  new x509.Extension(
    '2.5.29.30',
    true,
    der(
      SEQUENCE,
      der(
        PERMITTED,
        ...names.map((name) => der(SEQUENCE, der(DNS, Buffer.from(name)))),
        ...[...PRIVATE_V4, ...PRIVATE_V6].map((range) => der(SEQUENCE, der(ADDRESS, range))),
      ),
    ) as Uint8Array<ArrayBuffer>,
  )

const newKeys = () => webcrypto.subtle.generateKey(ALGORITHM, true, ['sign', 'verify'])
const newSerial = () => `01${randomBytes(15).toString('hex')}`
const pemOf = async (key: webcrypto.CryptoKey) =>
  x509.PemConverter.encode(await webcrypto.subtle.exportKey('pkcs8', key), 'PRIVATE KEY')

/** An hour before: clocks of phones differ. */
const span = (now: number, days: number) => ({
  notBefore: new Date(now - 3_600_000),
  notAfter: new Date(now + days * DAY_MS),
})

/** A distinguished name takes no commas and the like unescaped: of the site's name only what needs none. */
const commonName = (text: string) => `CN=${text.replace(/[^\p{L}\p{N} .-]/gu, ' ').trim() || 'Frustum'}`

/** @param names that it may certify besides addresses of private networks */
export async function makeAuthority(site: string, names: readonly string[], now: number): Promise<Keyed> {
  const keys = await newKeys()
  const certificate = await x509.X509CertificateGenerator.createSelfSigned({
    serialNumber: newSerial(),
    name: commonName(`Frustum of ${site}`),
    ...span(now, AUTHORITY_DAYS),
    keys: keys,
    signingAlgorithm: ALGORITHM,
    extensions: [
      new x509.BasicConstraintsExtension(true, 0, true),
      new x509.KeyUsagesExtension(x509.KeyUsageFlags.keyCertSign | x509.KeyUsageFlags.cRLSign, true),
      await x509.SubjectKeyIdentifierExtension.create(keys.publicKey),
      nameConstraints(names),
    ],
  })
  return { certificate: certificate.toString('pem'), key: await pemOf(keys.privateKey) }
}

/** A certificate of the server for its names and addresses. */
export async function certify(authority: Keyed, names: readonly string[], now: number): Promise<Keyed> {
  const issuer = new x509.X509Certificate(authority.certificate)
  const signingKey = await webcrypto.subtle.importKey(
    'pkcs8',
    x509.PemConverter.decodeFirst(authority.key),
    ALGORITHM,
    false,
    ['sign'],
  )
  const keys = await newKeys()
  const certificate = await x509.X509CertificateGenerator.create({
    serialNumber: newSerial(),
    subject: commonName(names[0] ?? 'localhost'),
    issuer: issuer.subject,
    ...span(now, CERTIFICATE_DAYS),
    publicKey: keys.publicKey,
    signingKey: signingKey,
    signingAlgorithm: ALGORITHM,
    extensions: [
      new x509.BasicConstraintsExtension(false, undefined, true),
      new x509.KeyUsagesExtension(x509.KeyUsageFlags.digitalSignature, true),
      new x509.ExtendedKeyUsageExtension([x509.ExtendedKeyUsage.serverAuth]),
      new x509.SubjectAlternativeNameExtension(
        names.map((value) => ({ type: isIP(value) ? ('ip' as const) : ('dns' as const), value })),
      ),
      await x509.SubjectKeyIdentifierExtension.create(keys.publicKey),
      await x509.AuthorityKeyIdentifierExtension.create(issuer.publicKey),
    ],
  })
  return { certificate: certificate.toString('pem'), key: await pemOf(keys.privateKey) }
}

/** Whether a certificate is still good for a while, for all these names. */
export function isGoodFor(pem: string, names: readonly string[], now: number): boolean {
  const certificate = new x509.X509Certificate(pem)
  const san = certificate.getExtension(x509.SubjectAlternativeNameExtension)?.names.toJSON() ?? []
  const known = new Set(san.map(({ value }) => canonical(String(value))))
  const left = certificate.notAfter.getTime() - now
  return (
    left > RENEW_DAYS * DAY_MS && certificate.notBefore.getTime() <= now && names.every((n) => known.has(canonical(n)))
  )
}

/** IPv6 addresses are written in more than one way. */
const canonical = (name: string): string => (isIP(name) === 6 ? new URL(`http://[${name}]`).hostname : name)

/** Whether an authority may certify a name. */
export function mayCertify(names: readonly string[], name: string): boolean {
  const family = isIP(name)
  if (family === 0) return names.some((permitted) => name === permitted || name.endsWith(`.${permitted}`))
  const bytes = family === 4 ? name.split('.').map(Number) : v6Bytes(name)
  return (family === 4 ? PRIVATE_V4 : PRIVATE_V6).some((range) => {
    const [base, mask] = [range.slice(0, bytes.length), range.slice(bytes.length)]
    return bytes.every((byte, i) => (byte & (mask[i] as number)) === base[i])
  })
}

function v6Bytes(address: string): number[] {
  const [head = '', tail] = new URL(`http://[${address}]`).hostname.slice(1, -1).split('::')
  const words = (text: string) => (text === '' ? [] : text.split(':').map((w) => Number.parseInt(w, 16)))
  const [first, last] = [words(head), words(tail ?? '')]
  const all = tail === undefined ? first : [...first, ...Array(8 - first.length - last.length).fill(0), ...last]
  return all.flatMap((w) => [w >> 8, w & 255])
}
