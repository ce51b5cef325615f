import { cpSync, mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

/** Where a data folder with the whole station stands ready to be copied. */
export const SEEDED = 'FRUSTUM_SEEDED'

/** A new data folder with the whole station in it, where that stands ready; an empty one otherwise. */
export function seededFolder(): string {
  const folder = mkdtempSync(join(tmpdir(), 'frustum-station-'))
  const seeded = process.env[SEEDED]
  if (seeded) cpSync(seeded, folder, { recursive: true })
  return folder
}
