import type { Piscina } from 'piscina'
import { Problem } from '../problem.ts'
import type { SheetsRead, SheetText } from './readSheets.ts'

/** Seconds after which a file that is not read through is given up. */
const PATIENCE_MS = 60_000
const IDLE_MS = 30_000

let pool: Promise<Piscina> | null = null

async function makePool(): Promise<Piscina> {
  const { Piscina } = await import('piscina')
  return new Piscina({
    filename: new URL('./readSheets.ts', import.meta.url).href,
    execArgv: ['--import', 'tsx'],
    minThreads: 0,
    maxThreads: 1,
    idleTimeout: IDLE_MS,
    // What unpacks to more than it looks like ends the thread and nothing else.
    resourceLimits: { maxOldGenerationSizeMb: 512 },
  })
}

/** The sheets of a file, read in a thread of their own. @throws Problem when it cannot be read */
export async function sheetsOf(bytes: Uint8Array, name: string): Promise<SheetText[]> {
  pool ??= makePool()
  const read = await (await pool)
    .run({ bytes, name }, { signal: AbortSignal.timeout(PATIENCE_MS) })
    .then((answer) => answer as SheetsRead)
    .catch((): SheetsRead => ({ problem: 'It is too large, or damaged.' }))
  if ('sheets' in read) return read.sheets
  throw new Problem(400, 'unreadable-file', `${name || 'The file'} cannot be read. ${read.problem}`, {
    detail: 'Nothing was taken in.',
    hint: 'Save it as CSV or XLSX with one heading row, and try again.',
  })
}
