import { randomUUID } from 'node:crypto'
import { FINDABLE, type FieldView, type Findable, type FinderView, type MessageFormat } from '@frustum/contract'
import type { Displayed } from '../../finder/display.ts'
import { LEFT_ALONE, LEFT_ALONE_MS, type Shown, type Typed } from '../modbus/finder/finder.ts'
import type { FieldSource } from './fieldSources.ts'
import { foundOf } from './messageSensors.ts'
import { formatOf, readPayload } from './payload.ts'

/** So long is it listened before what came is thought to be all, ms. */
const LISTEN_MS = 30_000
const MOST_FIELDS = 2000
const SHOWN_FIELDS = 300
const KEPT_VALUES = 120
const LONGEST_RAW = 60
/** A display is read some seconds before it is typed, and may be ahead of what is sent, ms. */
const AROUND_LOOK = { before: 15_000, after: 3000 } as const
/** Powers of ten by which a device may send what it shows. */
const POWERS = [0, -1, 1, -2, 2, -3, 3]
const MOST_MESSAGE = 200_000

interface Field {
  topic: string
  format: MessageFormat
  field: string
  raw: string
  unit: string
  retained: boolean
  /** Epoch ms when it came last. */
  at: number
  /** What it was, each with the ms of the process. */
  values: { at: number; value: number }[]
}

/** Listens to what devices say, and looks among their fields for what a display shows. It asks for nothing else. */
export class FieldFinder {
  readonly id = randomUUID()
  private readonly fields = new Map<string, Field>()
  private looks: { id: number; at: number; shown: Shown; typed: Typed }[] = []
  private lookIds = 0
  private readonly began = performance.now()
  private readonly close: () => void
  private readonly watch: NodeJS.Timeout
  seenAt = performance.now()
  private heard = 0
  private why: string | null = null
  private stopped = false
  private silentWhy: string | null = null

  constructor(
    private readonly source: FieldSource,
    { shown, typed }: { shown: Shown; typed: Typed },
  ) {
    this.looks.push({ id: ++this.lookIds, at: performance.now(), shown, typed })
    this.close = source.open({
      heard: (topic, text, retained) => this.hear(topic, text, retained),
      failed: (why) => {
        this.silentWhy = why
      },
    })
    this.watch = setInterval(() => {
      if (performance.now() - this.seenAt > LEFT_ALONE_MS) this.end(LEFT_ALONE)
    }, 1000)
  }

  get ended(): boolean {
    return this.stopped
  }

  stop(): void {
    this.end(null)
  }

  private end(why: string | null): void {
    if (this.stopped) return
    this.stopped = true
    this.why = why
    clearInterval(this.watch)
    this.close()
  }

  look({ shown, typed, withdraw }: { shown: Shown; typed: Typed; withdraw?: number | undefined }): void {
    this.seenAt = performance.now()
    if (this.stopped) return
    if (Object.keys(shown).length > 0) this.looks.push({ id: ++this.lookIds, at: performance.now(), shown, typed })
    this.looks = this.looks.filter((l) => l.id !== withdraw)
  }

  private hear(topic: string, text: string, retained: boolean): void {
    if (this.stopped || text.length > MOST_MESSAGE) return
    this.heard++
    this.silentWhy = null
    const format = this.source.format ?? formatOf(text)
    const at = Date.now()
    for (const { field, value, unit } of leavesOf(text, format)) {
      const key = `${topic}\n${format}\n${field}`
      const known = this.fields.get(key)
      if (!known && this.fields.size >= MOST_FIELDS) continue
      const one = known ?? { topic, format, field, raw: '', unit, retained, at, values: [] }
      this.fields.set(key, one)
      Object.assign(one, { raw: String(value).slice(0, LONGEST_RAW), retained, at })
      const number = foundOf(value).value
      if (number === null) continue
      one.values.push({ at: performance.now(), value: number })
      if (one.values.length > KEPT_VALUES) one.values.shift()
    }
  }

  view(): FinderView {
    this.seenAt = performance.now()
    const listening = performance.now() - this.began < LISTEN_MS
    const fields = [...this.fields.values()].map((field) => this.viewOf(field))
    fields.sort((a, b) => b.fits.length - a.fits.length || compare(a.topic, b.topic) || compare(a.field, b.field))
    return {
      id: this.id,
      phase: this.stopped ? 'stopped' : listening ? 'listening' : 'watching',
      why: this.why ?? this.silentWhy,
      unit: null,
      units: [],
      asked: this.heard,
      foreseen: 0,
      secondsLeft: null,
      asking: this.source.words,
      readable: this.fields.size,
      looks: this.looks.map(({ id, typed }) => ({ id, typed })),
      found: {},
      fields: fields.slice(0, SHOWN_FIELDS),
    }
  }

  private viewOf(field: Field): FieldView {
    const { topic, format, raw, at, retained } = field
    const powers = FINDABLE.map((name) => [name, this.powerOf(field, name)] as const)
    const fits = powers.filter(([, power]) => power !== null)
    const [first] = fits
    const typed = this.looks.map(({ shown }) => shown[first?.[0] ?? 'value']?.unit).find(Boolean)
    return {
      topic,
      format,
      field: field.field,
      raw,
      at,
      retained,
      fits: fits.map(([name]) => name),
      channel: {
        at: { ...(topic === '' ? {} : { topic }), field: field.field },
        unit: field.unit || typed || '',
        scale: Number(`1e${first?.[1] ?? 0}`),
        offset: 0,
      },
    }
  }

  /** The power of ten by which a field went along with every look at a display; null where there is none. */
  private powerOf(field: Field, name: Findable): number | null {
    const looks = this.looks.flatMap(({ at, shown }) => (shown[name] ? [{ at, shown: shown[name] }] : []))
    if (looks.length === 0) return null
    return POWERS.find((power) => looks.every((look) => fits(field, look, 10 ** power))) ?? null
  }
}

function fits({ values }: Field, { at, shown }: { at: number; shown: Displayed }, factor: number): boolean {
  const before = values.findLast((v) => v.at <= at)
  const around = values.filter((v) => v.at >= at - AROUND_LOOK.before && v.at <= at + AROUND_LOOK.after)
  // What came long before the look and not again since is what it still reads.
  const candidates = before && !around.includes(before) ? [before, ...around] : around
  // What is heard for the first time after a look is of the same moments, as long as it goes on as it was.
  const [first] = values
  const heard = candidates.length > 0 ? candidates : first ? [first] : []
  return heard.some(({ value }) => Math.abs(value * factor - shown.value) <= shown.step * 1.001)
}

/** What stands in a message; nothing where it is not read. */
function leavesOf(text: string, format: MessageFormat) {
  try {
    const records = readPayload(text, { format, now: Date.now() })
    return records.at(-1)?.leaves() ?? []
  } catch {
    return []
  }
}

const compare = (a: string, b: string) => (a < b ? -1 : a > b ? 1 : 0)
