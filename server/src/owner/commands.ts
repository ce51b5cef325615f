import { systemClock } from '@frustum/contract'
import pino from 'pino'
import { Backups } from '../backup/backups.ts'
import { restoreStopped } from '../backup/restore.ts'
import { ownerOf } from '../database/lock.ts'
import { openDatabaseIn } from '../database/open.ts'
import { makeLead, type NewLead, whoIsThere } from '../people/makeLead.ts'
import { StartProblem } from '../problem.ts'
import { askRunning } from './requests.ts'

/** What can be done at the server itself, whether it runs or not. Each throws StartProblem with one clear line. */

export { whoIsThere }

/** Makes a lead with a password; see makeLead. */
export async function leadAtServer(folder: string, lead: NewLead): Promise<void> {
  if ((await askRunning(folder, { kind: 'lead', lead })) !== null) return
  const { db, close } = await openDatabaseIn(folder)
  await makeLead(db, lead, new Date()).finally(close)
}

/** Makes a backup. @param to another folder than the one that is set @returns its file */
export async function backupAtServer(folder: string, to?: string): Promise<string> {
  const made = await askRunning(folder, { kind: 'backup', ...(to === undefined ? {} : { to }) })
  if (made !== null) return made
  const { db, close } = await openDatabaseIn(folder)
  const log = pino({ level: 'silent' })
  const backups = new Backups({ db, clock: systemClock, log, dataFolder: folder, mustSignIn: false })
  return backups.make('At the server', to).finally(close)
}

/** Puts a backup in the place of a site. */
export async function restoreAtServer(folder: string, file: string, passphrase: string) {
  const owner = ownerOf(folder)
  if (owner !== null) {
    throw new StartProblem(
      `The data folder ${folder} is in use by process ${owner}. Stop it first, or restore in the app: Site, Backup. Nothing was changed.`,
    )
  }
  return restoreStopped(folder, file, passphrase).catch((error: Error & { more?: { hint?: string } }) => {
    throw new StartProblem([error.message, error.more?.hint, 'Nothing was changed.'].filter(Boolean).join(' '))
  })
}
