import { ILLEGAL_FUNCTION, type LineProblem } from '../../../lineProblem.ts'
import type { Block } from '../blocks.ts'
import type { Asking } from '../modbusLine.ts'
import type { RegisterTable } from '../place.ts'
import { readBlock, wordsFor } from '../stretches.ts'
import type { RegisterLog } from './registerLog.ts'

/** What is read of a device while it is searched, and how politely. */
export interface Scanning {
  line: { inTurn<T>(asking: Asking<T>): Promise<T> }
  unit: number
  /** Time from one question to the next, ms, at least: the device has others to answer. */
  everyMs: number
  /** Where what was read is kept. */
  log: RegisterLog
  /** Ends the search at the next question. */
  stopped: () => boolean
  /** Called between questions: what was found already stays in sight meanwhile. */
  between: () => Promise<void>
  /** Told before each question. */
  asking: (what: Block) => void
}

/** Registers at a time in a search, at most; and again where so many are refused. */
const SIZES = [32, 8, 1] as const
/** Registers at a time where all of them were read before. */
const KNOWN_SIZE = 96
/** At most 80 questions a second, ms. */
export const POLITE_MS = 12
/** After so many questions in a row without an answer a table is left. */
const SILENT = 3
/** Where nothing is known to be, one register of so many is asked for. Measured values come in rows of four and more. */
const STRIDE = 4
/** Around a register that was found, so many are looked through on both sides. */
const AROUND = 32

/** Those that hold numbers; what is measured is mostly in the first. */
export const SEARCHED_TABLES = ['input', 'holding'] as const

/** A stretch of addresses, looked through one and all, or by tries that are followed where they meet something. */
export interface Area {
  from: number
  to: number
  whole: boolean
}

/** How many steps it takes to go through an area of one table, at most about as many questions. */
export const stepsOf = ({ from, to, whole }: Area): number => Math.ceil((to - from) / (whole ? SIZES[0] : STRIDE))

/** How far a search is, and how long the rest takes at its pace: steps of whole stretches take longer than tries. */
export class Progress {
  done = 0
  readonly all: number
  private readonly kinds: Record<'whole' | 'tries', { done: number; all: number; ms: number }>
  private since = performance.now()

  constructor(
    stretches: readonly { whole: boolean; steps: number }[],
    private readonly everyMs: number,
  ) {
    const of = (whole: boolean) => stretches.filter((s) => s.whole === whole).reduce((sum, s) => sum + s.steps, 0)
    this.kinds = { whole: { done: 0, all: of(true), ms: 0 }, tries: { done: 0, all: of(false), ms: 0 } }
    this.all = this.kinds.whole.all + this.kinds.tries.all
  }

  step(whole: boolean, steps = 1): void {
    const kind = this.kinds[whole ? 'whole' : 'tries']
    const now = performance.now()
    kind.ms += now - this.since
    this.since = now
    kind.done += steps
    this.done += steps
  }

  get secondsLeft(): number {
    const left = Object.values(this.kinds).map(
      ({ done, all, ms }) => (all - done) * (done > 0 ? ms / done : this.everyMs),
    )
    return Math.ceil(left.reduce((sum, ms) => sum + ms, 0) / 1000)
  }
}

class Stopped extends Error {}

/** Reads what one device lets be read. What it refuses teaches how many registers it gives at a time. */
export class Scan {
  /** Registers that it gives at a time. */
  private most: number = SIZES[0]
  private mostKnown = KNOWN_SIZE
  private silent = 0
  private readonly gone = new Set<string>()

  constructor(private readonly scanning: Scanning) {}

  /**
   * Reads what can be read of an area of a table.
   * @param step called after each step, see stepsOf
   */
  async area(table: RegisterTable, { from, to, whole }: Area, step: () => void): Promise<void> {
    this.silent = 0
    if (whole) return this.whole(table, from, to, step)
    // Every second try first: what is found by it, most of it, is found in half the time.
    for (const start of [from, from + STRIDE])
      for (let address = start; address < to; address += 2 * STRIDE) {
        step()
        if (this.isKnown(table, address, 1) || !(await this.ask(table, address, 1, performance.now()))) continue
        await this.whole(table, Math.max(from, address - AROUND), Math.min(to, address + AROUND), () => undefined)
      }
  }

  /** How many questions it takes to read registers again. */
  questionsFor(wanted: readonly Block[]): number {
    return wanted.reduce((sum, { length }) => sum + Math.ceil(length / this.mostKnown), 0)
  }

  /** Reads all registers again that could be read, of those that are wanted. */
  async again(wanted: readonly Block[]): Promise<void> {
    for (const { table, address, length } of wanted) {
      // The words of a number count as of one moment, also where a device gives one at a time.
      const at = performance.now()
      for (let a = address; a < address + length; a += this.mostKnown) {
        const part = Math.min(this.mostKnown, address + length - a)
        if (await this.ask(table, a, part, at, true)) continue
        if (part <= this.most) continue
        this.mostKnown = this.most
        for (let b = a; b < a + part; b += this.most)
          await this.ask(table, b, Math.min(this.most, a + part - b), at, true)
      }
    }
  }

  private async whole(table: RegisterTable, from: number, to: number, step: () => void): Promise<void> {
    for (let address = from; address < to; address += SIZES[0]) {
      step()
      await this.block(table, address, Math.min(SIZES[0], to - address), performance.now())
    }
  }

  /** Reads a stretch; one that is refused in smaller ones. Returns whether all of it was read. */
  private async block(table: RegisterTable, address: number, length: number, at: number): Promise<boolean> {
    if (this.isKnown(table, address, length)) return true
    if (length <= this.most && (await this.ask(table, address, length, at))) return true
    if (length === 1 || this.silent >= SILENT) return false
    const size = SIZES.find((s) => s < length) ?? 1
    let isWhole = true
    for (let a = address; a < address + length; a += size)
      isWhole = (await this.block(table, a, Math.min(size, address + length - a), at)) && isWhole
    // Refused together, given one by one: it is the number of them that it refuses.
    if (isWhole && size < this.most) this.most = size
    return isWhole
  }

  private isKnown(table: RegisterTable, address: number, length: number): boolean {
    for (let a = address; a < address + length; a++)
      if (!this.scanning.log.has(table, a) && !this.gone.has(`${table} ${a}`)) return false
    return true
  }

  /** Whether a stretch could be read; what it holds is kept. */
  private async ask(
    table: RegisterTable,
    address: number,
    length: number,
    at: number,
    isAgain = false,
  ): Promise<boolean> {
    const { stopped, asking, between, log } = this.scanning
    if (stopped()) throw new Stopped()
    if (!isAgain) {
      await between()
      if (this.silent >= SILENT) return false
    }
    const block: Block = { table, address, length }
    asking(block)
    const bytes = await readPolitely(this.scanning, block).catch((problem: LineProblem) => {
      if (!problem.answered) this.silent++
      else this.silent = problem.exception === ILLEGAL_FUNCTION ? SILENT : 0
      return null
    })
    if (!bytes) {
      if (length === 1 && !isAgain) this.gone.add(`${table} ${address}`)
      return false
    }
    this.silent = 0
    log.add(
      table,
      address,
      Array.from({ length }, (_, i) => bytes.readUInt16BE(2 * i)),
      at,
    )
    return true
  }
}

/** Asks one question, then waits until the next one may follow. */
export async function readPolitely(
  { line, unit, everyMs }: Pick<Scanning, 'line' | 'unit' | 'everyMs'>,
  block: Block,
): Promise<Buffer> {
  const began = performance.now()
  try {
    return await line.inTurn({ unit, words: wordsFor(unit, block), ask: (client) => readBlock(client, block) })
  } finally {
    const rest = everyMs - (performance.now() - began)
    if (rest > 0) await new Promise((resolve) => setTimeout(resolve, rest))
  }
}

export const isStopped = (error: unknown): boolean => error instanceof Stopped
