import { createWriteStream, existsSync, mkdirSync, rmSync, statSync } from 'node:fs'
import { isAbsolute, join, resolve } from 'node:path'
import type { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { TZDate } from '@date-fns/tz'
import type { BackupView, Clock, RestoringView } from '@frustum/contract'
import { DAY_MS, type Sentence, say } from '@frustum/core'
import { and, asc, desc, eq, isNull } from 'drizzle-orm'
import type { Logger } from 'pino'
import { noteChanges } from '../changes/changes.ts'
import type { Database } from '../database/open.ts'
import { backupSettings, backups, changes, sites } from '../database/schema.ts'
import { notFound, Problem } from '../problem.ts'
import { backupName, CHECKSUM_ENDING, goodBackups } from './files.ts'
import { makeBackup } from './makeBackup.ts'
import { prepareRestore } from './restore.ts'
import { keptBackups } from './rotation.ts'

/** `id` is null while nothing was set. */
export type BackupSettings = Omit<typeof backupSettings.$inferSelect, 'id'> & { id: number | null }

const USUAL: BackupSettings = {
  id: null,
  folder: '',
  nightly: true,
  hour: 2,
  keepDays: 7,
  keepWeeks: 4,
  keepMonths: 12,
  passphrase: '',
}

const MINUTE = 60_000
/** A start has enough to do; and what is cut off again and again shall not begin with a backup each time. */
const FIRST_LOOK = 10 * MINUTE
/** After one that failed the next is tried. */
const TRY_AGAIN = 60 * MINUTE
/** How old the last good one may be, where one is made every night. */
const TOO_OLD_DAYS = 2

interface Parts {
  db: Database
  clock: Clock
  log: Logger
  dataFolder: string
  /** Whether a restored site needs a lead who can sign in. */
  mustSignIn: boolean
}

/** Backups of a running site: by themselves every night, and when asked for. */
export class Backups {
  readonly #parts: Parts
  #running: Promise<string> | null = null
  #restoring = false
  #timer: NodeJS.Timeout | null = null

  constructor(parts: Parts) {
    this.#parts = parts
  }

  /** Looks every minute whether one is due. */
  everyNight(): () => void {
    const look = async () => {
      if (await this.#isDue()) await this.make(null)
    }
    const again = (wait: number) => {
      this.#timer = setTimeout(() => {
        look()
          .catch((error) => this.#parts.log.error({ err: error }, 'backup failed'))
          .finally(() => again(MINUTE))
      }, wait)
      this.#timer.unref()
    }
    again(FIRST_LOOK)
    return () => clearTimeout(this.#timer ?? undefined)
  }

  /** Makes one, or waits for that which is being made. @returns its file. @throws Problem */
  make(operator: string | null, to?: string): Promise<string> {
    this.#running ??= this.#make(operator, to).finally(() => {
      this.#running = null
    })
    return this.#running
  }

  /** Resolves when none is being made. */
  async idle(): Promise<void> {
    await this.#running?.catch(() => undefined)
  }

  async #make(operator: string | null, to?: string): Promise<string> {
    const { db, clock, dataFolder } = this.#parts
    const at = new Date(clock.now())
    const settings = await this.settings()
    const folder = to === undefined ? this.#folder(settings) : resolve(to)
    const site = await this.#site()
    const name = backupName(site, at, settings.passphrase !== '')
    const file = join(folder, name)
    try {
      // A folder that is set and not there is a disk that is not there: nothing is written in its stead.
      if (settings.folder === '' && to === undefined) makeFolder(folder)
      await makeBackup({
        engine: db.$client,
        dataFolder,
        file,
        site: site.name,
        passphrase: settings.passphrase,
        at,
      })
    } catch (error) {
      const problem = words(error, folder)
      await db.insert(backups).values({ at, operator, file: name, problem })
      throw new Problem(500, 'no-backup-made', problem, {
        detail: 'The site itself is as it was.',
        hint: 'Set another folder, or make room, and try once more.',
      })
    }
    await db.insert(backups).values({ at, operator, file: name, settingsId: settings.id })
    if (to === undefined) await this.#rotate(folder, site, settings)
    return file
  }

  /**
   * Deletes scheduled backups beyond those to keep; one made by hand is its maker's. The newest of each earlier
   * passphrase stays: the present one may be mistyped.
   */
  async #rotate(folder: string, site: { uid: string; timeZone: string }, settings: BackupSettings): Promise<void> {
    const scheduled = await this.#parts.db
      .select({ file: backups.file, passphrase: backupSettings.passphrase })
      .from(backups)
      .leftJoin(backupSettings, eq(backupSettings.id, backups.settingsId))
      .where(and(isNull(backups.operator), isNull(backups.problem)))
    const passphrases = new Map(scheduled.map((b) => [b.file, b.passphrase]))
    const files = goodBackups(folder, site.uid, this.#parts.clock.now()).filter(({ file }) => passphrases.has(file))
    const kept = keptBackups(
      files.map((f) => f.at),
      settings,
      site.timeZone,
    )
    const newestOf = new Map(files.toReversed().map((f) => [passphrases.get(f.file), f.at]))
    for (const at of newestOf.values()) kept.add(at)
    for (const { file } of files.filter((f) => !kept.has(f.at))) {
      // The checksum first: what has none is not listed, and is no good backup.
      rmSync(join(folder, file + CHECKSUM_ENDING), { force: true })
      rmSync(join(folder, file), { force: true })
    }
  }

  async view(): Promise<BackupView> {
    const { db, clock, dataFolder } = this.#parts
    const { passphrase, id: _, ...settings } = await this.settings()
    const path = this.#folder(settings)
    const site = await this.#site()
    const [last] = await db.select().from(backups).orderBy(desc(backups.id)).limit(1)
    return {
      settings,
      hasPassphrase: passphrase !== '',
      path,
      sameDisk: settings.folder === '' || isSameDisk(path, dataFolder),
      files: goodBackups(path, site.uid, clock.now()),
      problem: last?.problem ? { at: last.at.getTime(), text: last.problem } : null,
      running: this.#running !== null,
      nextAt: settings.nightly ? lastNight(settings.hour, site.timeZone, clock.now()) + DAY_MS : null,
    }
  }

  /** What Rounds says where the last good one is too old; null where all is well, or it is in other hands. */
  async warning(): Promise<Sentence | null> {
    const { db, clock } = this.#parts
    const settings = await this.settings()
    const [site] = await db.select().from(sites)
    if (!settings.nightly || !site) return null
    const [newest] = goodBackups(this.#folder(settings), site.uid, clock.now())
    const [first] = await db.select({ at: changes.at }).from(changes).orderBy(asc(changes.id)).limit(1)
    const since = newest?.at ?? first?.at.getTime() ?? clock.now()
    if (clock.now() - since < TOO_OLD_DAYS * DAY_MS) return null
    const [last] = await db.select().from(backups).orderBy(desc(backups.id)).limit(1)
    const why = last?.problem ? say` ${last.problem}` : ''
    return newest ? say`Last good backup: ${{ at: newest.at }}.${why}` : say`There is no backup yet.${why}`
  }

  async settings(): Promise<BackupSettings> {
    const [known] = await this.#parts.db.select().from(backupSettings).orderBy(desc(backupSettings.id)).limit(1)
    return known ?? USUAL
  }

  /** @throws Problem where nothing can be written to the folder */
  async set(
    next: Omit<BackupSettings, 'id' | 'passphrase'> & { passphrase?: string },
    operator: string,
  ): Promise<void> {
    const { db, clock } = this.#parts
    const { id: _, ...before } = await this.settings()
    const after = { ...before, ...next, passphrase: next.passphrase ?? before.passphrase }
    if (after.folder !== '' && !isAbsolute(after.folder)) throw wrongFolder('Type the whole path, from the root on.')
    try {
      makeFolder(this.#folder(after))
      const probe = join(this.#folder(after), '.frustum-probe')
      await pipeline([], createWriteStream(probe))
      rmSync(probe)
    } catch (error) {
      throw wrongFolder(words(error, after.folder))
    }
    const shown = ({ passphrase, ...rest }: typeof before) => ({
      ...rest,
      passphrase: passphrase === '' ? 'none' : 'set',
    })
    await db.transaction(async (tx) => {
      await tx.insert(backupSettings).values(after)
      const author = { operator, at: new Date(clock.now()) }
      await noteChanges(tx, { subject: 'site', id: null }, author, {
        before: named(shown(before)),
        after: named(shown(after)),
      })
    })
  }

  /** The path of a good backup. @throws Problem 404 */
  async pathOf(name: string): Promise<string> {
    const folder = this.#folder(await this.settings())
    const found = goodBackups(folder, (await this.#site()).uid, this.#parts.clock.now()).find((f) => f.file === name)
    if (!found) throw notFound('backup')
    return join(folder, found.file)
  }

  /** Puts a backup in the place of the site, for the next start. */
  async restore(file: string, passphrase: string): Promise<RestoringView> {
    return this.#alone(() => this.#prepare(file, passphrase))
  }

  async #prepare(file: string, passphrase: string): Promise<RestoringView> {
    await this.idle()
    const { dataFolder, mustSignIn } = this.#parts
    return prepareRestore(dataFolder, file, passphrase, { needsLead: mustSignIn })
  }

  /** One at a time: each unpacks into the same place. @throws Problem 409 */
  async #alone(work: () => Promise<RestoringView>): Promise<RestoringView> {
    if (this.#restoring) {
      throw new Problem(409, 'restoring', 'A backup is being put back already.', { detail: 'Nothing was changed.' })
    }
    this.#restoring = true
    try {
      return await work()
    } finally {
      this.#restoring = false
    }
  }

  /** The same with a file that is sent, of any size. */
  async restoreSent(sent: Readable, passphrase: string): Promise<RestoringView> {
    const file = join(this.#parts.dataFolder, 'restore-sent.tmp')
    return this.#alone(async () => {
      try {
        await pipeline(sent, createWriteStream(file, { mode: 0o600 }))
        return await this.#prepare(file, passphrase)
      } finally {
        rmSync(file, { force: true })
      }
    })
  }

  async #isDue(): Promise<boolean> {
    const { db, clock } = this.#parts
    const settings = await this.settings()
    const [site] = await db.select().from(sites)
    if (!settings.nightly || !site) return false
    const now = clock.now()
    const [newest] = goodBackups(this.#folder(settings), site.uid, now)
    if (newest && newest.at >= lastNight(settings.hour, site.timeZone, now)) return false
    const [last] = await db.select().from(backups).orderBy(desc(backups.id)).limit(1)
    // A clock that was set back does not hold it up.
    return !last?.problem || Math.abs(now - last.at.getTime()) > TRY_AGAIN
  }

  #folder({ folder }: Pick<BackupSettings, 'folder'>): string {
    return folder === '' ? join(this.#parts.dataFolder, 'backups') : folder
  }

  async #site(): Promise<typeof sites.$inferSelect> {
    const [site] = await this.#parts.db.select().from(sites)
    if (!site) throw new Problem(409, 'no-site', 'There is no site yet.', { hint: 'Set it up, or put a backup back.' })
    return site
  }
}

/** The names under which settings stand in the list of changes. */
const named = (settings: Readonly<Record<string, string | number | boolean>>) =>
  Object.fromEntries(Object.entries(settings).map(([key, value]) => [`backup: ${key}`, value]))

const wrongFolder = (message: string) =>
  new Problem(400, 'invalid', message, { detail: 'Nothing was changed.', fields: { folder: message } })

/** The last time, epoch ms, that a clock in a time zone showed a full hour. */
function lastNight(hour: number, timeZone: string, now: number): number {
  const local = new TZDate(now, timeZone)
  const at = new TZDate(local.getFullYear(), local.getMonth(), local.getDate(), hour, 0, 0, 0, timeZone)
  if (at.getTime() > now) at.setDate(at.getDate() - 1)
  return at.getTime()
}

/** Within one that is there: what is missing of a longer path is likelier a disk than a folder. */
function makeFolder(path: string): void {
  if (!existsSync(path)) mkdirSync(path)
}

function isSameDisk(folder: string, dataFolder: string): boolean | null {
  const [there, here] = [folder, dataFolder].map((path) => statSync(path, { throwIfNoEntry: false }))
  return there && here ? there.dev === here.dev : null
}

/** What went wrong with the disk, in words. */
function words(error: unknown, folder: string): string {
  const { code, message } = error as NodeJS.ErrnoException
  if (code === 'ENOSPC') return `There is no room for a backup on the disk of ${folder}.`
  if (code === 'EACCES' || code === 'EPERM' || code === 'EROFS') return `${folder} cannot be written.`
  if (code === 'ENOENT' || code === 'ENOTDIR' || code === 'EEXIST') return `${folder} is not there, or is no folder.`
  return `The backup could not be made (${code ?? message}).`
}
