import { existsSync, rmSync } from 'node:fs'
import { cp, mkdir, open, rename } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'
import { Engine } from '../database/engine/engine.ts'
import { syncFolder } from '../database/lasting.ts'
import { checkFolder, checkTables } from '../database/whole.ts'
import { PROGRAM_VERSION } from '../version.ts'
import { packFolder, unpackInto } from './archive.ts'
import { CHECKSUM_ENDING } from './files.ts'

interface Making {
  engine: Engine
  dataFolder: string
  /** The file that it is to become. */
  file: string
  site: string
  passphrase: string
  at: Date
}

/**
 * Makes a backup of a running site and reads it back: what has its name and its checksum was opened as a database after
 * it was written. What is cut short leaves a file that ends in `.part`, and no checksum.
 */
export async function makeBackup({ engine, dataFolder, file, site, passphrase, at }: Making): Promise<void> {
  const draft = join(dataFolder, 'backup.tmp')
  const check = join(dataFolder, 'backup-check.tmp')
  const part = `${file}.part`
  const clear = () => {
    for (const path of [draft, check, part]) rmSync(path, { recursive: true, force: true })
  }
  clear()
  try {
    await mkdir(draft, { recursive: true })
    await engine.copyTo(join(draft, 'database'))
    const network = join(dataFolder, 'network')
    if (existsSync(network)) await cp(network, join(draft, 'network'), { recursive: true })
    const about = { madeAt: at.toISOString(), program: PROGRAM_VERSION, site }
    const { sha256 } = await packFolder(draft, part, about, passphrase)
    rmSync(draft, { recursive: true, force: true })
    await unpackInto(part, check, passphrase)
    await openOnce(join(check, 'database'))
    await rename(part, file)
    await writeChecksum(file, sha256)
  } finally {
    clear()
  }
}

/** @throws Error where it is not a database that opens, or a table of it is not whole */
async function openOnce(path: string): Promise<void> {
  checkFolder(path)
  const engine = new Engine(path)
  try {
    await engine.ready
    await checkTables(engine, path)
    await engine.query('select count(*) from visits')
  } finally {
    await engine.close()
  }
}

/** As `sha256sum` writes it, so that anybody can check. */
async function writeChecksum(file: string, sha256: string): Promise<void> {
  const handle = await open(file + CHECKSUM_ENDING, 'w', 0o600)
  try {
    await handle.writeFile(`${sha256}  ${basename(file)}\n`)
    await handle.sync()
  } finally {
    await handle.close()
  }
  await syncFolder(dirname(file))
}
