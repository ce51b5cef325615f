// @ts-check
import fs, { appendFileSync, readdirSync, readFileSync } from 'node:fs'
import fsp from 'node:fs/promises'
import { syncBuiltinESMExports } from 'node:module'
import { join, resolve, sep } from 'node:path'

/**
 * Loaded before a program (NODE_OPTIONS=--import), in each of its threads: writes down what the program does to the disk
 * below RECORDED_FOLDER, in order, for DiskReplay to say what a power cut would have left of it.
 *
 * @typedef {{ op: 'folder' | 'file' | 'unlink' | 'rmdir' | 'syncPath', path: string, length?: number }
 *   | { op: 'rename', path: string, to: string }
 *   | { op: 'truncate', path: string, size: number }
 *   | { op: 'open', path: string, fd: number, fresh: boolean }
 *   | { op: 'write', fd: number, at: number, length: number }
 *   | { op: 'ftruncate', fd: number, size: number }
 *   | { op: 'sync' | 'close', fd: number }} DiskOp A line of the record; bytes of the given length follow it.
 */

const { RECORDED_FOLDER: folder = '', DISK_RECORD: record = '', DISK_FULL_AT } = process.env

/** With DISK_FULL_AT the disk is full once so much was written to it, bytes of the record. */
function refuseWhenFull() {
  if (DISK_FULL_AT === undefined || real.statSync(record).size < Number(DISK_FULL_AT)) return
  throw Object.assign(new Error('ENOSPC: no space left on device, write'), {
    code: 'ENOSPC',
    errno: -28,
    syscall: 'write',
  })
}

/** @type {Set<number>} handles of files below the folder */
const handles = new Set()
const real = { ...fs, ...{ open: fsp.open } }

/** @param {import('node:fs').PathLike | number} path */
const concerned = (path) => typeof path === 'string' && (resolve(path) + sep).startsWith(folder + sep)

/**
 * @param {DiskOp} op
 * @param {Uint8Array} [bytes]
 */
function note(op, bytes) {
  const line = Buffer.from(`${JSON.stringify(op)}\n`)
  appendFileSync(record, bytes ? Buffer.concat([line, bytes]) : line)
}

/** @type {any} */
const patched = {
  openSync(/** @type {string} */ path, /** @type {any} */ flags, /** @type {any} */ mode) {
    const watched = concerned(path)
    const fresh = watched && !real.existsSync(path)
    const emptied = typeof flags === 'number' ? (flags & fs.constants.O_TRUNC) !== 0 : String(flags).startsWith('w')
    const fd = real.openSync(path, flags, mode)
    if (watched) {
      handles.add(fd)
      note({ op: 'open', path: resolve(path), fd, fresh: fresh || emptied })
    }
    return fd
  },
  closeSync(/** @type {number} */ fd) {
    if (handles.delete(fd)) note({ op: 'close', fd })
    real.closeSync(fd)
  },
  writeSync(/** @type {number} */ fd, /** @type {any} */ data, /** @type {any[]} */ ...rest) {
    if (!handles.has(fd)) return real.writeSync(fd, data, .../** @type {[any]} */ (rest))
    refuseWhenFull()
    const [offset = 0, length = data.length - offset, position] = rest
    if (typeof data === 'string') data = Buffer.from(data)
    const written =
      typeof rest[0] === 'number' ? real.writeSync(fd, data, offset, length, position) : real.writeSync(fd, data)
    // Lock files are written without a position, from their beginning.
    note(
      { op: 'write', fd, at: position ?? 0, length: written },
      Buffer.from(data.buffer, data.byteOffset + offset, written),
    )
    return written
  },
  fsyncSync(/** @type {number} */ fd) {
    real.fsyncSync(fd)
    if (handles.has(fd)) note({ op: 'sync', fd })
  },
  ftruncateSync(/** @type {number} */ fd, /** @type {number} */ size) {
    real.ftruncateSync(fd, size)
    if (handles.has(fd)) note({ op: 'ftruncate', fd, size })
  },
  truncateSync(/** @type {string} */ path, /** @type {number} */ size) {
    real.truncateSync(path, size)
    if (concerned(path)) note({ op: 'truncate', path: resolve(path), size })
  },
  writeFileSync(/** @type {string} */ path, /** @type {any} */ data, /** @type {any} */ options) {
    real.writeFileSync(path, data, options)
    if (concerned(path)) noteFile(path)
  },
  mkdirSync(/** @type {string} */ path, /** @type {any} */ options) {
    const first = real.mkdirSync(path, options)
    if (concerned(path)) note({ op: 'folder', path: resolve(path) })
    return first
  },
  renameSync(/** @type {string} */ path, /** @type {string} */ to) {
    real.renameSync(path, to)
    if (concerned(to)) note({ op: 'rename', path: resolve(path), to: resolve(to) })
  },
  unlinkSync(/** @type {string} */ path) {
    real.unlinkSync(path)
    if (concerned(path)) note({ op: 'unlink', path: resolve(path) })
  },
  rmdirSync(/** @type {string} */ path) {
    real.rmdirSync(path)
    if (concerned(path)) note({ op: 'rmdir', path: resolve(path) })
  },
  rmSync(/** @type {string} */ path, /** @type {any} */ options) {
    const there = concerned(path) && real.existsSync(path)
    real.rmSync(path, options)
    if (there) note({ op: 'unlink', path: resolve(path) })
  },
  cpSync(/** @type {string} */ from, /** @type {string} */ to, /** @type {any} */ options) {
    real.cpSync(from, to, options)
    if (concerned(to)) noteTree(to)
  },
}

/** @param {string} path */
function noteFile(path) {
  const bytes = readFileSync(path)
  note({ op: 'file', path: resolve(path), length: bytes.length }, bytes)
}

/** @param {string} path */
function noteTree(path) {
  note({ op: 'folder', path: resolve(path) })
  for (const entry of readdirSync(path, { withFileTypes: true })) {
    const inside = join(path, entry.name)
    if (entry.isDirectory()) noteTree(inside)
    else noteFile(inside)
  }
}

if (folder && record) {
  Object.assign(fs, patched)
  fsp.open = async (path, ...rest) => {
    const handle = await real.open(path, ...rest)
    if (concerned(/** @type {string} */ (path))) {
      const sync = handle.sync.bind(handle)
      handle.sync = async () => {
        await sync()
        note({ op: 'syncPath', path: resolve(/** @type {string} */ (path)) })
      }
    }
    return handle
  }
  syncBuiltinESMExports()
}
