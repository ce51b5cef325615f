import { spawn } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync } from 'node:fs'
import { createRequire } from 'node:module'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { threadId } from 'node:worker_threads'
import { StartProblem } from '../problem.ts'
import { copyLasting, renameLasting } from './lasting.ts'
import { isAlive } from './lock.ts'
import { MIGRATIONS } from './migrations.ts'

const CREATE = fileURLToPath(new URL('./create.ts', import.meta.url))
const CACHE = fileURLToPath(new URL('../../../node_modules/.cache/frustum', import.meta.url))

/**
 * Where an empty database with all tables stands ready to be copied. Its name changes with the version of PGlite and
 * with the migrations, so that an old one is never taken.
 */
function templatePath(): string {
  const engine = join(dirname(createRequire(import.meta.url).resolve('@electric-sql/pglite')), '..', 'package.json')
  const { version } = JSON.parse(readFileSync(engine, 'utf8')) as { version: string }
  const journal = readFileSync(join(MIGRATIONS, 'meta', '_journal.json'))
  const key = createHash('sha256').update(version).update(journal).digest('hex').slice(0, 16)
  return join(CACHE, `database-${key}`)
}

let making: Promise<string> | null = null

/** Makes the template unless it is there; resolves with its path. @throws StartProblem where there is no room */
export function prepareTemplate(): Promise<string> {
  const path = templatePath()
  if (existsSync(path)) return Promise.resolve(path)
  making ??= make(path).finally(() => {
    making = null
  })
  return making
}

/**
 * Making a database takes seconds and some 450 MB that the process would not give back, so another one does it. It
 * works beside the final name, which it takes when it is done: what is cut short leaves no half template behind.
 */
async function make(path: string): Promise<string> {
  const draft = `${path}.${process.pid}.${threadId}`
  const failed = () => new StartProblem(`The database could not be made in ${CACHE}. Is there room on the disk?`)
  try {
    mkdirSync(CACHE, { recursive: true })
  } catch {
    throw failed()
  }
  clearAbandonedDrafts()
  const maker = spawn(process.execPath, ['--import', 'tsx', CREATE, draft], { stdio: ['ignore', 'ignore', 'inherit'] })
  const status = await new Promise((resolve) => maker.once('exit', resolve))
  if (status !== 0) throw failed()
  try {
    await renameLasting(draft, path)
  } catch (error) {
    rmSync(draft, { recursive: true, force: true })
    // Another process was faster: its template is as good.
    if (!existsSync(path)) throw error
  }
  return path
}

/** What was left by a process that was killed while it made a template. */
function clearAbandonedDrafts(): void {
  for (const name of readdirSync(CACHE)) {
    const pid = /^database-\w+\.(\d+)(?:\.\d+)?$/.exec(name)?.[1]
    if (pid && !isAlive(Number(pid))) rmSync(join(CACHE, name), { recursive: true, force: true })
  }
}

/** Puts an empty database at a path, whole or not at all. @throws StartProblem */
export async function createDatabase(path: string): Promise<void> {
  const template = await prepareTemplate()
  try {
    await copyLasting(template, path)
  } catch {
    throw new StartProblem(`The database could not be made in ${path}. Is there room on the disk?`)
  }
}
