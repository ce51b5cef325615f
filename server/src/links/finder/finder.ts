import { randomUUID } from 'node:crypto'
import {
  type Channel,
  FINDABLE,
  type Findable,
  type FinderView,
  type FoundView,
  type RegisterTable,
  wordsOfType,
} from '@frustum/contract'
import type { LineProblem } from '../lineProblem.ts'
import { type Block, together } from '../modbus/blocks.ts'
import {
  type Candidate,
  type Found,
  findNumber,
  type Hypothesis,
  type Look,
  numberIn,
  type Snapshot,
} from './candidates.ts'
import type { Displayed } from './display.ts'
import { type Area, isStopped, type Readable, readPolitely, type Scanning, SEARCHED_TABLES, scan } from './scan.ts'

/** Where devices keep what they measure, most of them: the first registers whole, the others by a few tries. */
const USUAL_AREAS: readonly Area[] = [
  { from: 0, to: 300, whole: true },
  { from: 300, to: 2000, whole: false },
  { from: 2000, to: 10_000, whole: false },
  { from: 30_000, to: 30_300, whole: false },
  { from: 40_000, to: 40_300, whole: false },
]
const FURTHER_AREAS: readonly Area[] = [{ from: 10_000, to: 65_536, whole: false }]
/** Once read through, what may be it is read again so often, ms. */
const WATCH_MS = 1000
/** Nobody looks at it any more: it ends, ms. */
const LEFT_ALONE_MS = 90_000
/** What is kept of the last minutes, to hold a look against. */
const KEPT_SNAPSHOTS = 240
/** How many of what is left are shown. */
const SHOWN = 8
const UNITS = Array.from({ length: 247 }, (_, i) => i + 1)

export type Shown = Partial<Record<Findable, Displayed>>
export type Typed = Partial<Record<Findable, string>>

/** Times are those of the process, ms: device and person know no other clock. */
interface Parts {
  line: Scanning['line']
  /** Ends what the line needs, where it was opened for this alone. */
  close: () => void
}

/** Looks for what a display shows among the registers of one device. It only reads. */
export class Finder {
  readonly id = randomUUID()
  private phase: FinderView['phase'] = 'reading'
  private why: string | null = null
  private unit: number | null
  private readonly units: number[] = []
  private asked = 0
  private foreseen = 0
  private asking = ''
  private snapshots: Snapshot[] = []
  private readonly looks: { at: number; shown: Shown; typed: Typed }[] = []
  private found: Partial<Record<Findable, Found>> = {}
  private seenAt = performance.now()
  private watchedAt = 0
  private wake: () => void = () => undefined

  constructor(
    private readonly parts: Parts,
    { unit, shown, typed }: { unit: number | null; shown: Shown; typed: Typed },
  ) {
    this.unit = unit
    this.looks.push({ at: performance.now(), shown, typed })
    void this.run()
  }

  stop(): void {
    this.end(null)
  }

  get ended(): boolean {
    return this.phase === 'stopped'
  }

  /** Another look at the display, or another unit to look at. */
  look({
    shown,
    typed,
    unit,
    further,
  }: {
    shown: Shown
    typed: Typed
    unit?: number | undefined
    further?: boolean | undefined
  }): void {
    this.seenAt = performance.now()
    if (this.ended) return
    if (unit !== undefined && unit !== this.unit) {
      this.unit = unit
      this.snapshots = []
      this.found = {}
      this.todo = 'scan'
    }
    if (Object.keys(shown).length > 0) {
      this.looks.push({ at: performance.now(), shown, typed })
      this.judge()
    }
    if (further) this.todo = 'further'
    this.wake()
  }

  private todo: 'scan' | 'further' | null = 'scan'

  private async run(): Promise<void> {
    try {
      if (this.unit === null) await this.searchUnits()
      while (!this.ended) {
        if (performance.now() - this.seenAt > LEFT_ALONE_MS) return this.end('Nobody looked at it any more.')
        const { todo } = this
        this.todo = null
        if (todo && this.unit !== null) await this.readThrough(todo === 'scan' ? USUAL_AREAS : FURTHER_AREAS)
        else if (this.unit !== null) await this.watch()
        if (!this.todo) await this.rest()
      }
    } catch (error) {
      if (!isStopped(error)) this.end((error as Error).message)
    }
  }

  private rest(): Promise<void> {
    return new Promise((resolve) => {
      const timer = setTimeout(resolve, WATCH_MS)
      this.wake = () => {
        clearTimeout(timer)
        resolve()
      }
    })
  }

  private end(why: string | null): void {
    if (this.ended) return
    this.phase = 'stopped'
    this.why = why
    this.wake()
    this.parts.close()
  }

  private scanning(unit: number): Scanning {
    return {
      line: this.parts.line,
      unit,
      stopped: () => this.ended,
      between: () => this.between(),
      asked: ({ table, address, length }) => {
        this.asked++
        this.asking = `${length} ${table} register${length === 1 ? '' : 's'} from ${address} of unit ${unit}`
      },
    }
  }

  /** Who is there: a device that refuses a question is there too. */
  private async searchUnits(): Promise<void> {
    this.phase = 'units'
    this.foreseen = UNITS.length
    for (const unit of UNITS) {
      if (this.ended || this.unit !== null) break
      this.asked++
      this.asking = `one register of unit ${unit}`
      const there = await readPolitely(
        { line: this.parts.line, unit },
        { table: 'holding', address: 0, length: 1 },
      ).then(
        () => true,
        (problem: LineProblem) => {
          if (problem.code === 'refused' || problem.code === 'no-connection' || problem.code === 'no-port')
            throw problem
          return problem.answered
        },
      )
      if (there) this.units.push(unit)
    }
    if (this.unit === null && this.units.length === 1) this.unit = this.units[0] as number
    if (this.units.length === 0 && this.unit === null) throw new Error('No unit from 1 to 247 answers here.')
    this.phase = 'reading'
  }

  private async readThrough(areas: readonly Area[]): Promise<void> {
    const unit = this.unit as number
    this.phase = 'reading'
    this.asked = 0
    this.foreseen = areas.reduce((sum, { from, to, whole }) => sum + Math.ceil((to - from) / (whole ? 16 : 10)), 0) * 2
    const first = this.snapshots[0] ?? { at: performance.now(), tables: {} }
    const readable: Readable = new Map(
      Object.entries(first.tables).map(([table, words]) => [table as RegisterTable, new Map(words)]),
    )
    for (const [area, table] of areas.flatMap((a) => SEARCHED_TABLES.map((t) => [a, t] as const))) {
      const before = sizeOf(readable)
      await scan(this.scanning(unit), table, area, readable)
      if (sizeOf(readable) === before) continue
      this.snapshots[0] = { at: first.at, tables: Object.fromEntries(readable) }
      // Among more registers there may be more that fit.
      this.found = {}
      this.judge()
    }
    if (sizeOf(readable) === 0) throw new Error(`Unit ${unit} lets no register be read, or does not answer.`)
    this.phase = 'watching'
  }

  /** What was found stays in sight while more is searched. */
  private async between(): Promise<void> {
    if (performance.now() - this.watchedAt > WATCH_MS && Object.keys(this.found).length > 0) await this.watch()
  }

  /** Reads once more what may be it. */
  private async watch(): Promise<void> {
    const unit = this.unit as number
    const tables: Snapshot['tables'] = {}
    const at = performance.now()
    this.watchedAt = performance.now()
    for (const block of this.watched()) {
      if (this.ended) return
      const bytes = await readPolitely({ line: this.parts.line, unit }, block).catch(() => null)
      if (!bytes) continue
      const words = new Map(tables[block.table] ?? [])
      for (let i = 0; i < block.length; i++) words.set(block.address + i, bytes.readUInt16BE(2 * i))
      tables[block.table] = words
    }
    if (this.phase === 'watching') this.asking = `what may be it, of unit ${unit}, once a second`
    this.snapshots.push({ at, tables })
    if (this.snapshots.length > KEPT_SNAPSHOTS) this.snapshots.splice(1, 1)
    this.judge()
  }

  /** Stretches that hold what is left; all that can be read before anything was looked for. */
  private watched(): Block[] {
    const places = Object.values(this.found)
      .flatMap(({ candidates }) => candidates.flatMap((c) => [c, ...c.same]))
      .map(({ table, address, type }) => ({ table, address, length: wordsOfType(type) }))
    const all = places.length > 0 ? places : everything(this.snapshots[0])
    // Registers that are not there between two that are would be refused with them.
    return together(all, 0).flatMap((block) => inParts(block, 100))
  }

  private judge(): void {
    for (const name of FINDABLE) {
      const looks = this.looks.flatMap(({ at, shown }): Look[] => {
        const one = shown[name]
        return one ? [{ at, shown: one }] : []
      })
      if (looks.length === 0 || this.snapshots.length === 0) continue
      const known = this.found[name]?.candidates.flatMap((c): Hypothesis[] => [c, ...c.same])
      this.found[name] = findNumber(this.snapshots, looks, known)
    }
  }

  view(): FinderView {
    this.seenAt = performance.now()
    const [first] = this.snapshots
    return {
      id: this.id,
      phase: this.phase,
      why: this.why,
      unit: this.unit,
      units: this.units,
      asked: this.asked,
      foreseen: this.foreseen,
      asking: this.asking,
      readable: first ? Object.values(first.tables).reduce((sum, words) => sum + words.size, 0) : 0,
      looks: this.looks.map(({ typed }) => typed),
      fields: [],
      found: Object.fromEntries(
        Object.entries(this.found).map(([name, found]) => [name, this.foundView(name as Findable, found)]),
      ),
    }
  }

  private foundView(name: Findable, { candidates, certain }: Found): NonNullable<FinderView['found'][Findable]> {
    const near = candidates.slice(0, SHOWN)
    const typed = this.looks.flatMap((l) => l.typed[name] ?? [])
    return {
      certain,
      left: candidates.length,
      first: near.map((c) => this.viewOf(c, this.looks.find((l) => l.shown[name])?.shown[name]?.unit ?? '')),
      why: whyOf(candidates, certain, typed),
    }
  }

  private viewOf(candidate: Candidate, unit: string): FoundView {
    const { table, address, type, order, power, same, read } = candidate
    const last = this.snapshots.findLast((s) => numberIn(s, candidate) !== null)
    const channel: Channel = { at: { table, address, type, order }, unit, scale: Number(`1e${power}`), offset: 0 }
    return {
      channel,
      raw: last ? rawText(last, candidate) : '',
      reads: last ? numberIn(last, candidate) : null,
      read,
      same: same.map(wayText),
    }
  }
}

const wayText = ({ table, address, type, order, power }: Hypothesis): string =>
  `${table} ${address} as ${type} ${order}${power === 0 ? '' : ` × ${Number(`1e${power}`)}`}`

function rawText(snapshot: Snapshot, { table, address, type }: Hypothesis): string {
  const words = snapshot.tables[table]
  return Array.from({ length: wordsOfType(type) }, (_, i) =>
    (words?.get(address + i) ?? 0).toString(16).toUpperCase().padStart(4, '0'),
  ).join(' ')
}

/** Why the first is thought to be it, in a sentence. */
function whyOf(candidates: readonly Candidate[], certain: boolean, typed: readonly string[]): string {
  const [first] = candidates
  const said = typed.join(', then ')
  if (!first) {
    return `Nothing that can be read was ${said} within a few digits. Look whether it is shown in another unit, or read further addresses.`
  }
  const read = first.read.map((r) => Number(r.toPrecision(6))).join(', then ')
  if (certain) return `It read ${read} when the display said ${said}, and nothing else did.`
  if (typed.length < 2) {
    return `${candidates.length} can be it by one look. Let the display change by twenty of its last digits or more, as by dipping the sensor into something else, and type what it says then.`
  }
  return candidates.length === 1
    ? `It read ${read} when the display said ${said}. The looks are too alike to be sure of it: look once more when the display has changed.`
    : `${candidates.length} went along with the display: ${said}. The first was nearest (${read}); look again when it shows something else.`
}

function everything(snapshot: Snapshot | undefined): Block[] {
  if (!snapshot) return []
  return (Object.entries(snapshot.tables) as [RegisterTable, ReadonlyMap<number, number>][]).flatMap(([table, words]) =>
    [...words.keys()].map((address) => ({ table, address, length: 1 })),
  )
}

const inParts = ({ table, address, length }: Block, most: number): Block[] =>
  Array.from({ length: Math.ceil(length / most) }, (_, i) => ({
    table,
    address: address + i * most,
    length: Math.min(most, length - i * most),
  }))

const sizeOf = (readable: Readable): number => [...readable.values()].reduce((sum, words) => sum + words.size, 0)
