import { randomUUID } from 'node:crypto'
import { setImmediate } from 'node:timers/promises'
import { type Channel, FINDABLE, type Findable, type FinderView, type FoundView } from '@frustum/contract'
import { render } from '@frustum/core'
import { type Displayed, decimalsOf } from '../../../finder/display.ts'
import type { LineProblem } from '../../../lineProblem.ts'
import { LEFT_ALONE, LEFT_ALONE_MS, type Search, type Shown, type Typed } from '../../protocol.ts'
import { type Block, together } from '../blocks.ts'
import { type RegisterType, wordsOfType } from '../place.ts'
import { type Candidate, type Found, Hypotheses, type Hypothesis, type Look, rank } from './candidates.ts'
import { converted } from './conversions.ts'
import { RegisterLog } from './registerLog.ts'
import { type Area, isStopped, Progress, readPolitely, Scan, type Scanning, SEARCHED_TABLES, stepsOf } from './scan.ts'

/** Where devices keep what they measure, most of them: the first registers whole, the others by tries. */
const USUAL_AREAS: readonly Area[] = [
  { from: 0, to: 300, whole: true },
  { from: 300, to: 2000, whole: false },
  { from: 30_000, to: 30_300, whole: false },
  { from: 40_000, to: 40_300, whole: false },
  { from: 2000, to: 10_000, whole: false },
]
const FURTHER_AREAS: readonly Area[] = [{ from: 10_000, to: 65_536, whole: false }]
/** What was read is read again so often, ms. */
const WATCH_MS = 1000
/** All of it where that takes so few questions; otherwise so many of the likeliest registers. */
const WATCHED = 24
const WATCH_QUESTIONS = 8
/** What is read later after a look tells nothing of it, ms. */
const JUDGED_MS = 10_000
/** How many of what is left are shown. */
const SHOWN = 5
/** Registers that are considered before others get their turn. */
const TURN = 100
const UNITS = Array.from({ length: 247 }, (_, i) => i + 1)

/** Times are those of the process, ms: device and person know no other clock. */
interface Parts {
  line: Scanning['line']
  everyMs: Scanning['everyMs']
  /** Ends what the line needs, where it was opened for this alone. */
  close: () => void
}

interface Entered {
  id: number
  at: number
  shown: Shown
  typed: Typed
}

/** Looks for what a display shows among the registers of one device. It only reads. */
export class Finder implements Search {
  readonly id = randomUUID()
  private phase: 'units' | 'reading' | 'watching' | 'stopped' = 'reading'
  private why: string | null = null
  private unit: number | null
  private readonly units: number[] = []
  private asking = ''
  /** Of the search that is under way. */
  private progress = new Progress([], 0)
  private log = new RegisterLog()
  private scan: Scan | null = null
  private looks: Entered[] = []
  private lookIds = 0
  private readonly hypotheses: Partial<Record<Findable, Hypotheses>> = {}
  private readonly considered = new Set<string>()
  private found: Partial<Record<Findable, Found>> = {}
  seenAt = performance.now()
  private watchedAt = 0
  /** What is to be done next: the registers again for a look, all looks anew, or a search. */
  private readonly todo = { scan: true, further: false, again: false, judge: false }
  private wake: () => void = () => undefined

  constructor(
    private readonly parts: Parts,
    { unit, shown, typed }: { unit: number | null; shown: Shown; typed: Typed },
  ) {
    this.unit = unit
    this.enter(shown, typed)
    void this.run()
  }

  stop(): void {
    this.end(null)
  }

  get ended(): boolean {
    return this.phase === 'stopped'
  }

  private enter(shown: Shown, typed: Typed): void {
    if (Object.keys(shown).length === 0) return
    this.looks.push({ id: ++this.lookIds, at: performance.now(), shown, typed })
  }

  /** Another look at the display, one that was wrong, another unit, or more addresses. */
  look({ shown, typed, address, further, withdraw }: Parameters<Search['look']>[0]): void {
    const unit = address?.unit === undefined ? undefined : Number(address.unit)
    this.seenAt = performance.now()
    if (this.ended) return
    if (unit !== undefined && unit !== this.unit) {
      this.unit = unit
      this.why = null
      this.log = new RegisterLog()
      this.scan = null
      this.found = {}
      for (const name of FINDABLE) delete this.hypotheses[name]
      this.considered.clear()
      this.todo.scan = true
    }
    const before = this.looks.length
    this.enter(shown, typed)
    if (this.looks.length > before) this.todo.again = true
    if (withdraw !== undefined) {
      this.looks = this.looks.filter((l) => l.id !== withdraw)
      this.todo.judge = true
    }
    if (further) this.todo.further = true
    this.wake()
  }

  private async run(): Promise<void> {
    try {
      while (!this.ended) {
        if (performance.now() - this.seenAt > LEFT_ALONE_MS) return this.end(LEFT_ALONE)
        await this.turn()
      }
    } catch (error) {
      if (!isStopped(error)) this.end((error as Error).message)
    }
  }

  private async turn(): Promise<void> {
    const { todo } = this
    if (this.unit === null) {
      if (this.units.length === 0) await this.searchUnits()
      else await this.rest()
    } else if (todo.again || todo.judge) await this.judgeAnew()
    else if (todo.scan || todo.further) {
      const areas = todo.scan ? USUAL_AREAS : FURTHER_AREAS
      if (todo.scan) todo.scan = false
      else todo.further = false
      await this.readThrough(areas)
    } else {
      await this.watch()
      await this.rest()
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

  private scanOf(unit: number): Scan {
    this.scan ??= new Scan({
      line: this.parts.line,
      unit,
      everyMs: this.parts.everyMs,
      log: this.log,
      stopped: () => this.ended || this.unit !== unit,
      between: () => this.between(),
      asking: ({ table, address, length }) => {
        this.asking = `${length} ${table} ${length === 1 ? 'register' : 'registers'} from ${address}`
      },
    })
    return this.scan
  }

  /** Who is there: a device that refuses a question is there too. */
  private async searchUnits(): Promise<void> {
    this.phase = 'units'
    this.progress = new Progress([{ whole: false, steps: UNITS.length }], this.parts.everyMs)
    for (const unit of UNITS) {
      if (this.ended || this.unit !== null) break
      this.progress.step(false)
      this.asking = `unit ${unit}`
      if (await this.isThere(unit)) this.units.push(unit)
    }
    if (this.unit === null && this.units.length === 0) throw new Error('No unit from 1 to 247 answers.')
    if (this.unit === null && this.units.length === 1 && this.why === null) this.unit = this.units[0] as number
    this.phase = 'reading'
  }

  private isThere(unit: number): Promise<boolean> {
    return readPolitely({ ...this.parts, unit }, { table: 'holding', address: 0, length: 1 }).then(
      () => true,
      (problem: LineProblem) => {
        if (problem.code === 'refused' || problem.code === 'no-connection' || problem.code === 'no-port') throw problem
        return problem.answered
      },
    )
  }

  private async readThrough(areas: readonly Area[]): Promise<void> {
    const unit = this.unit as number
    const scan = this.scanOf(unit)
    this.phase = 'reading'
    const searched = areas.flatMap((area) => SEARCHED_TABLES.map((table) => ({ area, table })))
    const progress = new Progress(
      searched.map(({ area }) => ({ whole: area.whole, steps: stepsOf(area) })),
      this.parts.everyMs,
    )
    this.progress = progress
    try {
      for (const { area, table } of searched) {
        const { done } = progress
        await scan.area(table, area, () => progress.step(area.whole))
        // A table that doesn't answer is left early.
        progress.step(area.whole, stepsOf(area) - (progress.done - done))
        await this.considerNew()
        await this.rank()
      }
    } catch (error) {
      // Another unit was chosen meanwhile.
      if (isStopped(error) && !this.ended) return
      throw error
    }
    if (this.log.size === 0) {
      if (this.units.length > 0) throw new Error(`Unit ${unit} doesn't give any registers.`)
      this.unit = null
      this.why = `Unit ${unit} doesn't answer.`
      return
    }
    this.phase = 'watching'
  }

  /** Adds what was read since to what is considered. */
  private async considerNew(): Promise<void> {
    let turn = 0
    for (const place of this.log.places()) {
      const key = `${place.table} ${place.address}`
      if (this.considered.has(key)) continue
      this.considered.add(key)
      for (const name of FINDABLE) this.hypothesesOf(name)?.consider(place)
      if (++turn % TURN === 0) await setImmediate()
    }
  }

  private hypothesesOf(name: Findable): Hypotheses | null {
    const looks = this.looksOf(name)
    const [first] = looks
    if (!first) return null
    this.hypotheses[name] ??= new Hypotheses(this.log, looks, name === 'temperature' ? first.shown.unit || '°C' : null)
    return this.hypotheses[name]
  }

  private looksOf(name: Findable): Look[] {
    return this.looks.flatMap(({ at, shown }) => {
      const one = shown[name]
      return one ? [{ at, shown: one }] : []
    })
  }

  /** All that can be read is read near a look, and considered by all looks. */
  private async judgeAnew(): Promise<void> {
    const { again } = this.todo
    this.todo.again = false
    this.todo.judge = false
    if (again && this.log.size > 0) await this.scanOf(this.unit as number).again(this.everything())
    for (const name of FINDABLE) delete this.hypotheses[name]
    this.considered.clear()
    await this.considerNew()
    await this.rank()
  }

  /** What was found stays in sight while more is searched, and a look is not kept waiting. */
  private async between(): Promise<void> {
    if (performance.now() - this.seenAt > LEFT_ALONE_MS) this.end(LEFT_ALONE)
    if (this.todo.again || this.todo.judge) await this.judgeAnew()
    else if (performance.now() - this.watchedAt > WATCH_MS && this.isNearLook()) await this.watch()
  }

  private isNearLook(): boolean {
    return performance.now() - (this.looks.at(-1)?.at ?? 0) < JUDGED_MS
  }

  /** Reads registers again: what the display shows next is compared with what they held up to then. */
  private async watch(): Promise<void> {
    this.watchedAt = performance.now()
    const scan = this.scanOf(this.unit as number)
    const all = this.everything()
    const isFew = scan.questionsFor(all) <= WATCH_QUESTIONS
    await scan.again(isFew ? all : this.likeliest())
    if (this.phase === 'watching') this.asking = `${isFew ? 'all' : 'the likeliest'} registers, once a second`
    if (this.isNearLook()) await this.rank()
  }

  private likeliest(): Block[] {
    const places = Object.values(this.found)
      .flatMap(({ candidates }) => candidates.slice(0, WATCHED))
      .map(({ table, address, type }) => ({ table, address, length: wordsOfType(type) }))
    return together(places, 8).slice(0, WATCH_QUESTIONS)
  }

  private everything(): Block[] {
    // Registers that are not there between two that are would be refused with them.
    return together(
      [...this.log.places()].map((place) => ({ ...place, length: 1 })),
      0,
    )
  }

  private async rank(): Promise<void> {
    for (const name of FINDABLE) {
      const looks = this.looksOf(name)
      const hypotheses = this.hypotheses[name]
      if (looks.length === 0 || !hypotheses) delete this.found[name]
      else this.found[name] = await rank(this.log, hypotheses, looks)
    }
  }

  view(): FinderView {
    this.seenAt = performance.now()
    const { phase, progress } = this
    const isSearching = phase === 'units' || phase === 'reading'
    return {
      id: this.id,
      phase: isSearching ? 'searching' : phase,
      status: this.status(),
      why: this.why,
      done: isSearching && progress.all > 0 ? Math.min(1, progress.done / progress.all) : null,
      secondsLeft: progress.done === 0 ? null : progress.secondsLeft,
      readable: this.log.size,
      address: this.unit === null ? null : { unit: this.unit },
      addresses: this.unit === null ? this.units.map((unit) => ({ label: `Unit ${unit}`, address: { unit } })) : [],
      further: phase === 'watching' ? 'Search all addresses (about 6 min)' : null,
      looks: this.looks.map(({ id, typed }) => ({ id, typed })),
      fields: [],
      found: Object.fromEntries(
        Object.entries(this.found).map(([name, found]) => [name, this.foundView(name as Findable, found)]),
      ),
    }
  }

  private status(): string {
    if (this.phase === 'stopped') return 'Stopped.'
    if (this.phase === 'units') return `Scanning unit IDs: ${this.asking}`
    if (this.unit === null) return this.units.length === 1 ? 'This unit answers:' : 'These units answer:'
    if (this.phase === 'reading') return `Reading registers of unit ${this.unit}: ${this.asking}`
    const registers = render([{ count: this.log.size, one: 'register', many: 'registers' }])
    return `${registers} of unit ${this.unit} can be read.`
  }

  private foundView(name: Findable, { candidates, left, certain }: Found): NonNullable<FinderView['found'][Findable]> {
    const shown = this.looks.find((l) => l.shown[name])?.shown[name]
    return {
      certain,
      left,
      first: candidates.slice(0, Math.min(SHOWN, left)).map((c) => this.viewOf(c, shown)),
      looks: this.looksOf(name).length,
    }
  }

  private viewOf(candidate: Candidate, shown: Displayed | undefined): FoundView {
    const { table, address, type, order, scale, offset, same, read } = candidate
    const raw = this.log.near(candidate, performance.now())
    const channel: Channel = { at: { table, address, type, order }, unit: shown?.unit ?? '', scale, offset }
    const words = this.log.latest(candidate).map((word) => word.toString(16).toUpperCase().padStart(4, '0'))
    return {
      channel,
      title: `${table === 'input' ? 'Input register' : 'Register'} ${address}`,
      type: TYPE_NAMES[type] ?? type,
      details: [
        { label: 'Table', text: table },
        { label: 'Type', text: `${type}, byte order ${order}` },
        { label: 'Scale', text: String(Number(scale.toPrecision(6))) },
        { label: 'Offset', text: String(Number(offset.toPrecision(6))) },
        { label: 'Raw', text: words.join(' ') },
      ],
      reads: raw === null ? null : Number(converted(raw, { scale, offset }).toFixed(shown ? decimalsOf(shown) : 2)),
      read,
      same: same.map(wayText),
    }
  }
}

const TYPE_NAMES: Partial<Record<RegisterType, string>> = {
  int16: '16-bit signed',
  uint16: '16-bit',
  int32: '32-bit signed',
  uint32: '32-bit',
  float32: '32-bit decimal',
  float64: '64-bit decimal',
  bcd16: '16-bit BCD',
  bcd32: '32-bit BCD',
}

const wayText = ({ table, address, type, order, scale, offset }: Hypothesis): string =>
  `${table} ${address} as ${type} ${order}${scale === 1 ? '' : ` × ${Number(scale.toPrecision(6))}`}${
    offset === 0 ? '' : ` + ${Number(offset.toPrecision(6))}`
  }`
