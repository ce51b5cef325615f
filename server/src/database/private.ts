import { chmodSync, lstatSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import { isMainThread } from 'node:worker_threads'

const FOLDER = 0o700
const FILE = 0o600

/**
 * Keeps a data folder to the user who runs the server: it holds password hashes and the mail password. What this process
 * creates from now on is private, and a folder from before that is repaired. Windows has no such modes.
 */
export function makePrivate(folder: string): void {
  if (process.platform === 'win32') return
  // The mask belongs to the process: a worker can't set it.
  if (isMainThread) process.umask(0o077)
  restrict(folder, FOLDER)
  for (const entry of readdirSync(folder, { recursive: true, withFileTypes: true })) {
    const path = join(entry.parentPath, entry.name)
    if (entry.isDirectory()) restrict(path, FOLDER)
    else if (entry.isFile()) restrict(path, FILE)
  }
}

function restrict(path: string, mode: number): void {
  const { mode: now } = lstatSync(path, { throwIfNoEntry: false }) ?? { mode }
  if ((now & 0o077) === 0) return
  try {
    chmodSync(path, mode)
  } catch (error) {
    // Deleted meanwhile, or of another user, who protects it.
    if (!['ENOENT', 'EPERM'].includes((error as NodeJS.ErrnoException).code ?? '')) throw error
  }
}
