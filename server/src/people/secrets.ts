import { randomBytes, scrypt, timingSafeEqual } from 'node:crypto'
import { promisify } from 'node:util'

/** Passwords and PINs, as they are stored: scrypt with a salt of its own, and its cost beside it. */

const derive = promisify<string, Buffer, number, object, Buffer>(scrypt)

/** OWASP Password Storage Cheat Sheet, scrypt: N = 2^15, r = 8, p = 3; 32 MiB each. */
const COST = { N: 2 ** 15, r: 8, p: 3 }
const BYTES = 32

const hash = (secret: string, salt: Buffer, { N, r, p }: typeof COST): Promise<Buffer> =>
  // The same word typed on two keyboards may differ in how its accents are composed.
  derive(secret.normalize('NFKC'), salt, BYTES, { N, r, p, maxmem: 256 * N * r })

export async function hashSecret(secret: string): Promise<string> {
  const salt = randomBytes(16)
  const { N, r, p } = COST
  const key = await hash(secret, salt, COST)
  return ['scrypt', N, r, p, salt.toString('base64'), key.toString('base64')].join('$')
}

/** Takes as long where there is none to compare with, so that its time does not tell who has one. */
export async function isSecret(secret: string, stored: string | null | undefined): Promise<boolean> {
  const [, N, r, p, salt = '', key = ''] = (stored ?? NOBODYS).split('$')
  const known = Buffer.from(key, 'base64')
  const given = await hash(secret, Buffer.from(salt, 'base64'), { N: Number(N), r: Number(r), p: Number(p) })
  return timingSafeEqual(given, known) && stored != null
}

/** Of no secret: what is compared with where there is none. */
const NOBODYS = ['scrypt', COST.N, COST.r, COST.p, '', Buffer.alloc(BYTES).toString('base64')].join('$')
