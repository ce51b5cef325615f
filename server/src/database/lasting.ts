import { cpSync, mkdirSync, readdirSync, renameSync, rmSync } from 'node:fs'
import { open } from 'node:fs/promises'
import { dirname, join, resolve } from 'node:path'

/** How many files are synced at a time: a disk does several in little more than the time of one. */
const AT_ONCE = 8

/**
 * Puts a copy of a folder at a path, so that it is there whole or not at all, through a power cut at any instant: the
 * copy is made beside the path, synced, and renamed.
 */
export async function copyLasting(from: string, to: string): Promise<void> {
  const draft = `${to}.new`
  rmSync(draft, { recursive: true, force: true })
  try {
    cpSync(from, draft, { recursive: true })
    await renameLasting(draft, to)
  } catch (error) {
    rmSync(draft, { recursive: true, force: true })
    throw error
  }
}

/** Gives a folder that was just made its final name; it has it only when all that is in it is on the disk. */
export async function renameLasting(draft: string, to: string): Promise<void> {
  await syncTree(draft)
  renameSync(draft, to)
  await syncFolder(dirname(to))
}

/** As mkdir -p; the folders are on the disk when it resolves. */
export async function makeFolderLasting(path: string): Promise<void> {
  const first = mkdirSync(path, { recursive: true })
  if (!first) return
  for (let made = resolve(path); made.length >= first.length; made = dirname(made)) await syncFolder(dirname(made))
}

async function syncTree(folder: string): Promise<void> {
  const inside = readdirSync(folder, { recursive: true, withFileTypes: true })
  const files = inside.filter((e) => e.isFile()).map((e) => join(e.parentPath, e.name))
  for (let i = 0; i < files.length; i += AT_ONCE) await Promise.all(files.slice(i, i + AT_ONCE).map(sync))
  for (const e of inside) if (e.isDirectory()) await syncFolder(join(e.parentPath, e.name))
  await syncFolder(folder)
}

/** Windows makes names lasting by itself and opens no folder. */
export const syncFolder = (path: string): Promise<void> =>
  process.platform === 'win32' ? Promise.resolve() : sync(path)

async function sync(path: string): Promise<void> {
  const file = await open(path, 'r')
  try {
    await file.sync()
  } finally {
    await file.close()
  }
}
