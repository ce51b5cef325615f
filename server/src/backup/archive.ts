import { createCipheriv, createDecipheriv, createHash, type DecipherGCM, randomBytes, scrypt } from 'node:crypto'
import { createReadStream, createWriteStream } from 'node:fs'
import { mkdir, open, readdir, readFile, stat, writeFile } from 'node:fs/promises'
import { join, relative, sep } from 'node:path'
import { Readable, Transform } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { promisify } from 'node:util'
import { create, extract } from 'tar'
import { Problem } from '../problem.ts'

/**
 * A backup as a file: a gzipped tar (RFC 1952, POSIX.1-2001) with what it holds and the SHA-256 of each file said first;
 * with a passphrase, that within AES-256-GCM (NIST SP 800-38D), whose key comes from it by scrypt (RFC 7914).
 */

export const MANIFEST = 'manifest.json'

export interface Manifest {
  format: 'frustum-backup'
  version: 1
  madeAt: string
  program: string
  site: string
  /** Of each file, by its path with slashes. */
  sha256: Record<string, string>
}

const MAGIC = Buffer.from('FRUSTUMBACKUP001')
const SALT = 16
const NONCE = 12
const TAG = 16
const HEAD = MAGIC.length + SALT + NONCE

const derive = promisify<string, Buffer, number, object, Buffer>(scrypt)
/** As for passwords; it is made once a backup, so that it may cost more: 128 MiB. */
const keyOf = (passphrase: string, salt: Buffer): Promise<Buffer> =>
  derive(passphrase.normalize('NFKC'), salt, 32, { N: 2 ** 17, r: 8, p: 1, maxmem: 2 ** 28 })

export const LOCKED_ENDING = '.tar.gz.aes'
export const OPEN_ENDING = '.tar.gz'

/** Writes a folder into a file, with its manifest first. @returns the SHA-256 of the file and its size, bytes */
export async function packFolder(
  folder: string,
  file: string,
  about: Pick<Manifest, 'madeAt' | 'program' | 'site'>,
  passphrase: string,
): Promise<{ sha256: string; bytes: number }> {
  const manifest: Manifest = { format: 'frustum-backup', version: 1, ...about, sha256: await hashesIn(folder) }
  await writeFile(join(folder, MANIFEST), JSON.stringify(manifest))
  const parts = (await readdir(folder)).filter((name) => name !== MANIFEST)
  const packed = Readable.from(create({ cwd: folder, gzip: { level: 3 }, portable: true }, [MANIFEST, ...parts]))
  const hash = createHash('sha256')
  let bytes = 0
  const counted = new Transform({
    transform(chunk: Buffer, _, done) {
      hash.update(chunk)
      bytes += chunk.length
      done(null, chunk)
    },
  })
  const out = createWriteStream(file, { flags: 'wx', mode: 0o600, flush: true })
  await (passphrase === '' ? pipeline(packed, counted, out) : pipeline(packed, await locking(passphrase), counted, out))
  return { sha256: hash.digest('hex'), bytes }
}

/** Encrypts what goes through: salt and nonce before it, the tag that proves it whole behind it. */
async function locking(passphrase: string): Promise<Transform> {
  const [salt, nonce] = [randomBytes(SALT), randomBytes(NONCE)]
  const cipher = createCipheriv('aes-256-gcm', await keyOf(passphrase, salt), nonce)
  let begun = false
  return new Transform({
    transform(chunk: Buffer, _, done) {
      if (!begun) this.push(Buffer.concat([MAGIC, salt, nonce]))
      begun = true
      done(null, cipher.update(chunk))
    },
    flush(done) {
      this.push(cipher.final())
      done(null, cipher.getAuthTag())
    },
  })
}

/** Whether a file is locked with a passphrase, by how it begins. */
async function isLocked(file: string): Promise<boolean> {
  const handle = await open(file, 'r')
  try {
    const { buffer, bytesRead } = await handle.read(Buffer.alloc(MAGIC.length), 0, MAGIC.length, 0)
    return bytesRead === MAGIC.length && buffer.equals(MAGIC)
  } finally {
    await handle.close()
  }
}

/**
 * Unpacks a backup into a folder that is made for it, and proves it whole: every file that its manifest names, with the
 * content that it had, and none beside. @throws Problem
 */
export async function unpackInto(file: string, folder: string, passphrase: string): Promise<Manifest> {
  await mkdir(folder, { recursive: true })
  const { packed, decipher } = await openedStream(file, passphrase)
  const unpacked = extract({
    cwd: folder,
    strict: true,
    filter: (_, entry) => 'type' in entry && /^(File|Directory)$/.test(entry.type),
  })
  try {
    await (decipher ? pipeline(packed, decipher, unpacked) : pipeline(packed, unpacked))
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ENOSPC') throw error
    throw decipher ? WRONG_PASSPHRASE() : NO_BACKUP()
  }
  const manifest = await readManifest(folder)
  const found = await hashesIn(folder)
  const wrong = [...new Set([...Object.keys(manifest.sha256), ...Object.keys(found)])].filter(
    (path) => manifest.sha256[path] !== found[path],
  )
  if (wrong.length > 0) {
    throw new Problem(400, 'damaged-backup', `This backup is damaged: ${wrong.slice(0, 3).join(', ')}.`, {
      detail: 'Nothing was changed.',
      hint: 'Take an older one.',
    })
  }
  return manifest
}

async function openedStream(
  file: string,
  passphrase: string,
): Promise<{ packed: Readable; decipher: DecipherGCM | null }> {
  if (!(await isLocked(file))) return { packed: createReadStream(file), decipher: null }
  const { size } = await stat(file)
  if (size < HEAD + TAG) throw NO_BACKUP()
  const handle = await open(file, 'r')
  const [salt, nonce, tag] = [Buffer.alloc(SALT), Buffer.alloc(NONCE), Buffer.alloc(TAG)]
  try {
    await handle.read(salt, 0, SALT, MAGIC.length)
    await handle.read(nonce, 0, NONCE, MAGIC.length + SALT)
    await handle.read(tag, 0, TAG, size - TAG)
  } finally {
    await handle.close()
  }
  if (passphrase === '') {
    throw new Problem(400, 'passphrase-needed', 'This backup is locked: type its passphrase.', {
      detail: 'Nothing was changed.',
      fields: { passphrase: 'Type the passphrase.' },
    })
  }
  const decipher: DecipherGCM = createDecipheriv('aes-256-gcm', await keyOf(passphrase, salt), nonce)
  decipher.setAuthTag(tag)
  return { packed: createReadStream(file, { start: HEAD, end: size - TAG - 1 }), decipher }
}

const WRONG_PASSPHRASE = () =>
  new Problem(400, 'wrong-passphrase', 'The passphrase is not the right one, or the file is damaged.', {
    detail: 'Nothing was changed.',
    fields: { passphrase: 'Not the right one, or the file is damaged.' },
  })

const NO_BACKUP = () =>
  new Problem(400, 'no-backup', 'This is no backup of Frustum, or it was cut short.', {
    detail: 'Nothing was changed.',
    hint: 'Choose a file that Frustum made as a backup.',
  })

async function readManifest(folder: string): Promise<Manifest> {
  const read = await readFile(join(folder, MANIFEST), 'utf8')
    .then(JSON.parse)
    .catch(() => null)
  const known = read as Partial<Manifest> | null
  if (known?.format !== 'frustum-backup' || typeof known.sha256 !== 'object') throw NO_BACKUP()
  if (known.version !== 1) {
    throw new Problem(400, 'newer-backup', 'This backup was made by a newer version of Frustum.', {
      detail: 'Nothing was changed.',
      hint: 'Put it back with that version.',
    })
  }
  return known as Manifest
}

/** The SHA-256 of each file below a folder but its manifest. */
async function hashesIn(folder: string): Promise<Record<string, string>> {
  const inside = await readdir(folder, { recursive: true, withFileTypes: true })
  const hashes: Record<string, string> = {}
  for (const entry of inside.filter((e) => e.isFile())) {
    const path = join(entry.parentPath, entry.name)
    const name = relative(folder, path).split(sep).join('/')
    if (name === MANIFEST) continue
    const hash = createHash('sha256')
    await pipeline(createReadStream(path), hash)
    hashes[name] = hash.digest('hex')
  }
  return hashes
}
