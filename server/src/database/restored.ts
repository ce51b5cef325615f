import { existsSync, mkdirSync, renameSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { syncFolder } from './lasting.ts'

/** A backup that was unpacked and found good waits here to take the place of what is there. */
export const RESTORED = 'restored'

/** What a data folder holds that a backup holds, too. */
const KEPT_PARTS = ['database', 'network'] as const

/**
 * Puts a restored backup in its place, and what was there aside. Each rename is whole or not made, and the next start
 * goes on where a power cut stopped: there is the database of before until its name is taken, and the new one after it.
 * @returns where what was there is now; null where nothing was to be done, or nothing was there
 */
export async function finishRestore(dataFolder: string, now = new Date()): Promise<string | null> {
  const restored = join(dataFolder, RESTORED)
  if (!existsSync(restored)) return null
  const aside = join(dataFolder, `before-${now.toISOString().slice(0, 19).replaceAll(':', '-')}`)
  let put: string | null = null
  for (const part of KEPT_PARTS) {
    const [from, to] = [join(restored, part), join(dataFolder, part)]
    if (!existsSync(from)) continue
    if (existsSync(to)) {
      mkdirSync(aside, { recursive: true })
      renameSync(to, join(aside, part))
      await syncFolder(aside)
      await syncFolder(dataFolder)
      put = aside
    }
    renameSync(from, to)
    await syncFolder(dataFolder)
    await syncFolder(restored)
  }
  rmSync(restored, { recursive: true, force: true })
  await syncFolder(dataFolder)
  return put
}
