import type { RegisterTable } from '@frustum/contract'
import { ILLEGAL_FUNCTION, type LineProblem } from '../lineProblem.ts'
import type { Block } from '../modbus/blocks.ts'
import type { Asking } from '../modbus/modbusLine.ts'
import { readBlock, wordsFor } from '../modbus/stretches.ts'

/** What is read of a device while it is searched, and how politely. */
export interface Scanning {
  line: { inTurn<T>(asking: Asking<T>): Promise<T> }
  unit: number
  /** Ends the search at the next question. */
  stopped: () => boolean
  /** Called between questions: what was found already is not to be lost from sight meanwhile. */
  between: () => Promise<void>
  /** Told after each question. */
  asked: (what: Block, there: boolean) => void
}

/** So many registers at a time, at most. */
const BLOCK = 32
const QUARTER = 8
/** At most so many questions a second. */
const EVERY_MS = 12
/** After so many questions in a row without an answer a table is left. */
const SILENT = 3
/** Every so many registers one is asked for, where nothing is known to be. */
const STRIDE = 10
/** Where a block was found, it is looked through so far on both sides. */
const AROUND = 64

/** What was found readable, in words by address. */
export type Readable = Map<RegisterTable, Map<number, number>>

/** Those that hold numbers; what is measured stands mostly in the first. */
export const SEARCHED_TABLES = ['input', 'holding'] as const

/** A stretch of addresses, looked through one and all, or by a few tries that are followed where they meet something. */
export interface Area {
  from: number
  to: number
  whole: boolean
}

/** Reads what a device lets be read of a stretch of addresses of a table, into what is known of it. */
export async function scan(
  scanning: Scanning,
  table: RegisterTable,
  { from, to, whole }: Area,
  readable: Readable,
): Promise<void> {
  const words = readable.get(table) ?? new Map<number, number>()
  readable.set(table, words)
  const search = new Search(scanning, table, words)
  if (whole) await search.whole(from, to)
  else await search.sparsely(from, to)
}

class Stopped extends Error {}

class Search {
  private silent = 0
  private readonly gone = new Set<number>()

  constructor(
    private readonly scanning: Scanning,
    private readonly table: RegisterTable,
    private readonly words: Map<number, number>,
  ) {}

  async whole(from: number, to: number): Promise<void> {
    for (let address = from; address < to; address += BLOCK)
      await this.block(address, Math.min(BLOCK, to - address), BLOCK)
  }

  async sparsely(from: number, to: number): Promise<void> {
    for (let address = from; address < to; address += STRIDE) {
      if (this.words.has(address) || !(await this.ask(address, 1))) continue
      const begin = Math.max(from, address - AROUND)
      await this.whole(begin, Math.min(to, address + AROUND))
    }
  }

  /** Reads a stretch; one that is refused in smaller ones: its quarters, then each of its registers. */
  private async block(address: number, length: number, size: number): Promise<void> {
    if (this.known(address, length) || (await this.ask(address, length)) || length === 1) return
    const next = size > QUARTER ? QUARTER : 1
    for (let a = address; a < address + length; a += next)
      await this.block(a, Math.min(next, address + length - a), next)
  }

  private known(address: number, length: number): boolean {
    for (let a = address; a < address + length; a++) if (!this.words.has(a) && !this.gone.has(a)) return false
    return true
  }

  /** Whether a stretch is there; what stands in it is kept. */
  private async ask(address: number, length: number): Promise<boolean> {
    const { stopped, asked } = this.scanning
    if (stopped()) throw new Stopped()
    await this.scanning.between()
    if (this.silent >= SILENT) return false
    const block: Block = { table: this.table, address, length }
    const bytes = await readPolitely(this.scanning, block).catch((problem: LineProblem) => {
      if (!problem.answered) this.silent++
      else this.silent = problem.exception === ILLEGAL_FUNCTION ? SILENT : 0
      return null
    })
    asked(block, bytes !== null)
    if (!bytes) {
      if (length === 1) this.gone.add(address)
      return false
    }
    this.silent = 0
    for (let i = 0; i < length; i++) this.words.set(address + i, bytes.readUInt16BE(2 * i))
    return true
  }
}

/** One question, and a rest after it: a device has others to answer. */
export async function readPolitely({ line, unit }: Pick<Scanning, 'line' | 'unit'>, block: Block): Promise<Buffer> {
  const began = performance.now()
  try {
    return await line.inTurn({ unit, words: wordsFor(unit, block), ask: (client) => readBlock(client, block) })
  } finally {
    const rest = EVERY_MS - (performance.now() - began)
    if (rest > 0) await new Promise((resolve) => setTimeout(resolve, rest))
  }
}

export const isStopped = (error: unknown): boolean => error instanceof Stopped
