import type { MessagePort } from 'node:worker_threads'
import type { Piscina } from 'piscina'
import { Problem } from '../problem.ts'

/** Work on files that may be large, or no files at all: in a thread of its own, which may end without any harm. */

/** Milliseconds after which a file that is not read through is given up; one that is written meanwhile takes longer. */
const PATIENCE_MS = 120_000
const PATIENCE_WRITING_MS = 3_600_000
const IDLE_MS = 30_000

const pools = new Map<string, Promise<Piscina>>()

/** What unpacks to more than it looks like ends the thread and nothing else; a log may well be large. */
const MOST_MB = { usual: 512, 'log/logWorker': 2048 }

async function makePool(worker: string): Promise<Piscina> {
  const { Piscina } = await import('piscina')
  return new Piscina({
    filename: new URL(`./${worker}.ts`, import.meta.url).href,
    execArgv: ['--import', 'tsx'],
    minThreads: 0,
    maxThreads: 1,
    idleTimeout: IDLE_MS,
    resourceLimits: { maxOldGenerationSizeMb: worker === 'log/logWorker' ? MOST_MB[worker] : MOST_MB.usual },
  })
}

/**
 * What `worker`, a module beside this one, makes of a task; a problem where the thread ended over it.
 * @param transferList ports over which it hands its work on while it is written
 */
export async function inThread<Answer>(
  worker: 'readSheets' | 'pastWorker' | 'documentWorker' | 'log/logWorker',
  task: object,
  transferList: MessagePort[] = [],
): Promise<Answer | { problem: string }> {
  const pool = pools.get(worker) ?? makePool(worker)
  pools.set(worker, pool)
  return (await pool)
    .run(task, {
      signal: AbortSignal.timeout(transferList.length > 0 ? PATIENCE_WRITING_MS : PATIENCE_MS),
      transferList,
    })
    .then((answer) => answer as Answer | { problem: string })
    .catch(() => ({ problem: 'The file is too large, or damaged.' }))
}

export const unreadable = (name: string, problem: string) =>
  new Problem(400, 'unreadable-file', `${name || 'The file'} cannot be read. ${problem}`, {
    detail: 'Nothing was taken in.',
    hint: 'Save it as CSV or XLSX with one heading row, and try again.',
  })

export const rowsWrong = (wrong: number, of: number) =>
  new Problem(409, 'rows-wrong', `${wrong} of ${of} rows cannot be taken in.`, {
    detail: 'Nothing was taken in.',
    hint: 'Put them right in the file, or leave them out.',
  })
