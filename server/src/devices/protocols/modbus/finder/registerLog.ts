import { type RegisterPlace, type RegisterTable, wordsOfType } from '../place.ts'
import { decodeRegisters } from '../registers.ts'

/** A place in a device, and how its bits are read. */
export type Reading = Pick<RegisterPlace, 'table' | 'address' | 'type' | 'order'>

/** What a place held, oldest first: its words, and null for bits that are no number. */
export type Series = readonly { at: number; words: readonly number[]; raw: number | null }[]

/** Words of the longest number. */
const LONGEST = 4
/** Reads that are kept of a register. */
const MOST_READS = 240

/** What the registers of a device held, and when. Times are those of the process, ms. */
export class RegisterLog {
  private readonly tables = new Map<RegisterTable, Map<number, { at: number; word: number }[]>>()

  /** How many registers were read. */
  get size(): number {
    return [...this.tables.values()].reduce((sum, words) => sum + words.size, 0)
  }

  add(table: RegisterTable, address: number, words: readonly number[], at: number): void {
    const of = this.tables.get(table) ?? new Map<number, { at: number; word: number }[]>()
    this.tables.set(table, of)
    words.forEach((word, i) => {
      const reads = of.get(address + i)
      if (!reads) of.set(address + i, [{ at, word }])
      else if (reads.push({ at, word }) > MOST_READS) reads.splice(1, 1)
    })
  }

  has(table: RegisterTable, address: number): boolean {
    return this.tables.get(table)?.has(address) ?? false
  }

  /** All registers that were read, table by table. */
  *places(): Generator<{ table: RegisterTable; address: number }> {
    for (const [table, words] of this.tables) for (const address of words.keys()) yield { table, address }
  }

  series({ table, address, type, order }: Reading): Series {
    const words = this.tables.get(table)
    const first = words?.get(address)
    if (!words || !first) return []
    const length = wordsOfType(type)
    const others = Array.from({ length: length - 1 }, (_, i) => words.get(address + i + 1) ?? [])
    const next = others.map(() => 0)
    let last: Series[number] | undefined
    return first.flatMap(({ at, word }) => {
      const all = [word]
      for (const [i, reads] of others.entries()) {
        // The words of one number have to be of one answer.
        while ((reads[next[i] as number]?.at ?? Number.POSITIVE_INFINITY) < at) next[i] = (next[i] as number) + 1
        const other = reads[next[i] as number]
        if (other?.at !== at) return []
        all.push(other.word)
      }
      // Most registers stand still, and most of the time is spent here.
      const isSame = last?.words.every((w, i) => w === all[i])
      last = isSame && last ? { ...last, at } : { at, words: all, raw: numberOf(all, { type, order }) }
      return last
    })
  }

  /** The words from an address on that were read together nearest to an instant: up to four, fewer where the rest was not. */
  wordsNear(table: RegisterTable, address: number, at: number): number[] {
    const words = this.tables.get(table)
    const first = nearest(words?.get(address), at)
    if (!words || !first) return []
    const found = [first.word]
    for (let i = 1; i < LONGEST; i++) {
      const word = nearest(words.get(address + i), first.at)
      // The words of one number have to be of one answer.
      if (word?.at !== first.at) break
      found.push(word.word)
    }
    return found
  }

  /** The number that a place held nearest to an instant; null where it was not read, or was no number. */
  near({ table, address, type, order }: Reading, at: number): number | null {
    return numberOf(this.wordsNear(table, address, at), { type, order })
  }

  /** The words that a place held last. */
  latest({ table, address, type }: Reading): number[] {
    const words = this.tables.get(table)
    return Array.from({ length: wordsOfType(type) }, (_, i) => words?.get(address + i)?.at(-1)?.word ?? 0)
  }
}

function nearest<T extends { at: number }>(reads: readonly T[] | undefined, at: number): T | undefined {
  let best: T | undefined
  for (const read of reads ?? []) if (!best || Math.abs(read.at - at) < Math.abs(best.at - at)) best = read
  return best
}

/** The number that words hold; null where they are too few, or no number. */
export function numberOf(words: readonly number[], { type, order }: Pick<Reading, 'type' | 'order'>): number | null {
  const length = wordsOfType(type)
  if (words.length < length) return null
  const bytes = new Uint8Array(2 * length)
  for (let i = 0; i < length; i++) {
    bytes[2 * i] = (words[i] as number) >> 8
    bytes[2 * i + 1] = (words[i] as number) & 255
  }
  return decodeRegisters(bytes, { type, order })
}
