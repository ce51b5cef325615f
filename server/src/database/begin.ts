import { existsSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { Engine } from './engine/engine.ts'
import { lockDataFolder } from './lock.ts'
import { makePrivate } from './private.ts'
import { finishRestore } from './restored.ts'
import { createDatabase } from './template.ts'
import { checkFolder } from './whole.ts'

/** A database whose engine is starting, in a thread of its own. */
export interface BegunDatabase {
  engine: Engine
  path: string
  /** Gives the data folder free. */
  unlock: () => void
}

/**
 * Makes a data folder this process's own and sets its database going, which takes about as long as loading the program
 * that uses it: the two go side by side.
 * @throws StartProblem when the folder cannot be had
 */
export function beginDatabase(folder: string): Promise<BegunDatabase> {
  const begun = begin(folder)
  // Who waits for it learns of a failure; it may fail before anybody does.
  begun.catch(() => undefined)
  return begun
}

async function begin(folder: string): Promise<BegunDatabase> {
  const unlock = await lockDataFolder(folder)
  try {
    makePrivate(folder)
    await finishRestore(folder)
    const path = join(folder, 'database')
    if (existsSync(path)) checkFolder(path)
    else await createDatabase(path)
    // Of a process that was cut off, perhaps half written: that there is no other one is known by the folder's own lock.
    rmSync(join(path, 'postmaster.pid'), { force: true })
    return { engine: new Engine(path), path, unlock }
  } catch (error) {
    unlock()
    throw error
  }
}
