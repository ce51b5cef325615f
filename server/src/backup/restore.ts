import { rmSync } from 'node:fs'
import { rm } from 'node:fs/promises'
import { join } from 'node:path'
import type { RestoringView } from '@frustum/contract'
import { Engine } from '../database/engine/engine.ts'
import { renameLasting } from '../database/lasting.ts'
import { lockDataFolder } from '../database/lock.ts'
import { openDatabase } from '../database/open.ts'
import { finishRestore, RESTORED } from '../database/restored.ts'
import { sessions } from '../database/schema.ts'
import { checkFolder } from '../database/whole.ts'
import { Problem, StartProblem } from '../problem.ts'
import { leadsWithPassword } from '../rig/things.ts'
import { MANIFEST, unpackInto } from './archive.ts'

/**
 * Unpacks a backup beside the data, brings it up to date, and leaves it to take their place at the next start. Nobody
 * stays signed in by it. @throws Problem where it is none, is damaged, or could not be worked with here
 */
export async function prepareRestore(
  dataFolder: string,
  file: string,
  passphrase: string,
  { needsLead }: { needsLead: boolean },
): Promise<RestoringView> {
  const draft = join(dataFolder, 'restore.tmp')
  await removeDraft(draft)
  try {
    const { site, madeAt } = await unpackInto(file, draft, passphrase)
    await bringUpToDate(join(draft, 'database'), needsLead)
    rmSync(join(draft, MANIFEST))
    rmSync(join(dataFolder, RESTORED), { recursive: true, force: true })
    await renameLasting(draft, join(dataFolder, RESTORED))
    return { site, madeAt: Date.parse(madeAt) }
  } catch (error) {
    await removeDraft(draft)
    if (!(error instanceof StartProblem)) throw error
    throw new Problem(400, 'unfit-backup', error.message, { detail: 'Nothing was changed.' })
  }
}

/** What was being unpacked when it turned out to be damaged may still be written for a moment: then it tries again. */
const removeDraft = (path: string) => rm(path, { recursive: true, force: true, maxRetries: 20, retryDelay: 50 })

async function bringUpToDate(path: string, needsLead: boolean): Promise<void> {
  checkFolder(path)
  const { db, close } = await openDatabase(Promise.resolve({ engine: new Engine(path), path, unlock: () => undefined }))
  try {
    await db.delete(sessions)
    if (needsLead && (await leadsWithPassword(db)).length === 0) {
      throw new Problem(409, 'no-lead', 'In this backup no lead has a password, so nobody could sign in.', {
        detail: 'Nothing was changed.',
        hint: 'Others reach this server. Put it back with npm run restore, then make a lead with npm run lead.',
      })
    }
  } finally {
    await close()
  }
}

/**
 * Puts a backup in the place of a site that is not running.
 * @returns what it is of, and where what was there is now
 */
export async function restoreStopped(dataFolder: string, file: string, passphrase: string) {
  const unlock = await lockDataFolder(dataFolder)
  try {
    const restored = await prepareRestore(dataFolder, file, passphrase, { needsLead: false })
    return { ...restored, before: await finishRestore(dataFolder) }
  } finally {
    unlock()
  }
}
