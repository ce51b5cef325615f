import { randomUUID } from 'node:crypto'
import { existsSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { setTimeout } from 'node:timers/promises'
import type { Backups } from '../backup/backups.ts'
import type { ServerContext } from '../context.ts'
import { ownerOf } from '../database/lock.ts'
import { makeLead, type NewLead } from '../people/makeLead.ts'
import { StartProblem } from '../problem.ts'

/**
 * What whoever owns the data folder asks of the server that runs on it, by a file in that folder: who may write there
 * needs no password, and a forgotten one is no obstacle.
 */

export type OwnerRequest = { kind: 'backup'; to?: string } | { kind: 'lead'; lead: NewLead }

/** What came of it: the file of a backup, or nothing to tell. */
type OwnerAnswer = { done: string } | { problem: string }

const REQUEST = 'wanted.json'
const answerFile = (folder: string, id: string) => join(folder, `answered-${id}.json`)
const EVERY_MS = 500

/** Written whole or not at all, and for the owner alone. */
function put(path: string, content: object): void {
  writeFileSync(`${path}.tmp`, JSON.stringify(content), { mode: 0o600 })
  renameSync(`${path}.tmp`, path)
}

/** Looks for requests while the server runs. @returns how to stop it */
export function answerRequests(folder: string, context: ServerContext, backups: Backups): () => void {
  const path = join(folder, REQUEST)
  rmSync(path, { force: true })
  const { db, clock, log } = context
  const answer = async (request: OwnerRequest): Promise<OwnerAnswer> => {
    if (request.kind === 'backup') return { done: await backups.make('At the server', request.to) }
    await makeLead(db, request.lead, new Date(clock.now()))
    return { done: '' }
  }
  let busy = false
  const look = async () => {
    if (busy || !existsSync(path)) return
    busy = true
    try {
      const { id, request } = JSON.parse(readFileSync(path, 'utf8')) as { id: string; request: OwnerRequest }
      rmSync(path)
      const answered = await answer(request).catch((error: Error) => ({ problem: error.message }))
      put(answerFile(folder, id), answered)
    } catch (error) {
      log.warn({ why: String(error) }, 'a request in the data folder cannot be read')
      rmSync(path, { force: true })
    } finally {
      busy = false
    }
  }
  const timer = setInterval(() => void look(), EVERY_MS)
  return () => clearInterval(timer)
}

/**
 * Asks the server that runs on a data folder.
 * @returns what it says; null where none runs
 * @throws StartProblem with what went wrong there
 */
export async function askRunning(folder: string, request: OwnerRequest): Promise<string | null> {
  if (ownerOf(folder) === null) return null
  const id = randomUUID()
  put(join(folder, REQUEST), { id, request })
  const path = answerFile(folder, id)
  while (!existsSync(path)) {
    if (ownerOf(folder) === null) throw new StartProblem('The server has ended before it answered. Try once more.')
    await setTimeout(EVERY_MS)
  }
  const answer = JSON.parse(readFileSync(path, 'utf8')) as OwnerAnswer
  rmSync(path, { force: true })
  if ('problem' in answer) throw new StartProblem(answer.problem)
  return answer.done
}
