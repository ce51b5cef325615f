import { existsSync, readdirSync, statSync } from 'node:fs'
import { join } from 'node:path'
import type { BackupFile } from '@frustum/contract'
import { DAY_MS } from '@frustum/core'
import { LOCKED_ENDING, OPEN_ENDING } from './archive.ts'

/** Backups in a folder: what a file says of itself by its name, and that it was read back, by the checksum beside it. */

export const CHECKSUM_ENDING = '.sha256'

/** Whose a file is, and from when. */
const NAME = /^frustum-.*-([0-9a-f]{8})-(\d{4}-\d{2}-\d{2})T(\d{2})(\d{2})(\d{2})Z(\.tar\.gz(?:\.aes)?)$/

export function backupName(site: { name: string; uid: string }, at: Date, locked: boolean): string {
  const slug = site.name
    .normalize('NFKD')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '')
    .slice(0, 40)
  const time = `${at.toISOString().slice(0, 19).replaceAll(':', '')}Z`
  return `frustum-${slug || 'site'}-${site.uid.slice(0, 8)}-${time}${locked ? LOCKED_ENDING : OPEN_ENDING}`
}

/** Those of a site that are good, newest first; none where the folder cannot be read. */
export function goodBackups(folder: string, uid: string, now: number): BackupFile[] {
  if (!existsSync(folder)) return []
  const files = readdirSync(folder).flatMap((file) => {
    const [, own, day, h, m, s, ending] = NAME.exec(file) ?? []
    if (own !== uid.slice(0, 8) || !existsSync(join(folder, file + CHECKSUM_ENDING))) return []
    const at = Date.parse(`${day}T${h}:${m}:${s}Z`)
    // Made while the clock was wrong: it says nothing of how old the last one is.
    if (Number.isNaN(at) || at > now + DAY_MS) return []
    return [{ file, at, bytes: statSync(join(folder, file)).size, locked: ending === LOCKED_ENDING }]
  })
  return files.sort((a, b) => b.at - a.at)
}
