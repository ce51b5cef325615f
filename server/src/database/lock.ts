import { closeSync, openSync, readFileSync, rmSync, writeSync } from 'node:fs'
import { join } from 'node:path'
import { StartProblem } from '../problem.ts'
import { makeFolderLasting } from './lasting.ts'

/** When a process started, in kernel ticks: tells a process from a later one with the same number. null where unknown. */
function startedAt(pid: number): string | null {
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, 'utf8')
    return stat.slice(stat.lastIndexOf(')') + 2).split(' ')[19] ?? null
  } catch {
    return null
  }
}

/** Whether a process runs; with `started` given, whether it is still the same one. */
export function isAlive(pid: number, started: string | null = null): boolean {
  try {
    process.kill(pid, 0)
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'EPERM'
  }
  return started === null || startedAt(pid) === started
}

/**
 * Makes this process the one owner of a data folder. A lock left behind by a process that is gone is taken over.
 * @returns a function that gives the folder free
 * @throws StartProblem when another process has it, or when it cannot be written
 */
export async function lockDataFolder(folder: string): Promise<() => void> {
  const path = join(folder, 'owner.lock')
  try {
    await makeFolderLasting(folder)
    for (let attempt = 0; attempt < 2; attempt++) {
      try {
        const file = openSync(path, 'wx')
        writeSync(file, JSON.stringify({ pid: process.pid, started: startedAt(process.pid) }))
        closeSync(file)
        return () => rmSync(path, { force: true })
      } catch (error) {
        if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error
        const owner = readOwner(path)
        if (owner && isAlive(owner.pid, owner.started)) {
          throw new StartProblem(
            `The data folder ${folder} is in use by process ${owner.pid}. Stop that one first, or set FRUSTUM_DATA to another folder.`,
          )
        }
        rmSync(path, { force: true })
      }
    }
  } catch (error) {
    if (error instanceof StartProblem) throw error
    const { code = 'unknown reason' } = error as NodeJS.ErrnoException
    throw new StartProblem(
      code === 'ENOSPC'
        ? `There is no room on the disk of the data folder ${folder}. Nothing was changed and nothing is lost. Make room and start again.`
        : `The data folder ${folder} cannot be written (${code}). Give it write permission, or set FRUSTUM_DATA to another folder.`,
    )
  }
  throw new StartProblem(`The data folder ${folder} could not be locked. Try again.`)
}

/** The process that has a data folder; null where none does. */
export function ownerOf(folder: string): number | null {
  const owner = readOwner(join(folder, 'owner.lock'))
  return owner && isAlive(owner.pid, owner.started) ? owner.pid : null
}

function readOwner(path: string): { pid: number; started: string | null } | null {
  try {
    const { pid, started } = JSON.parse(readFileSync(path, 'utf8')) as { pid: number; started: string | null }
    return Number.isInteger(pid) ? { pid, started } : null
  } catch {
    return null
  }
}
