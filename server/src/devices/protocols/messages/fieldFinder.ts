import { randomUUID } from 'node:crypto'
import { type Clock, FINDABLE, type FieldView, type Findable, type FinderView } from '@frustum/contract'
import { render } from '@frustum/core'
import type { Displayed } from '../../finder/display.ts'
import { LEFT_ALONE, LEFT_ALONE_MS, type Search, type Shown, type Typed } from '../protocol.ts'
import type { MessageFormat } from './message.ts'
import { foundOf } from './messageSensors.ts'
import { formatOf, readPayload } from './payload.ts'
import { isTimed } from './scheme.ts'

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

interface Hearer {
  heard(topic: string, text: string, retained: boolean): void
  failed(why: string): void
}

/** Where fields are looked for. */
export interface FieldSource {
  /** What it does, as a sentence begins: "Listening to all topics". */
  words: string
  /** What its messages are written in, where that is known. */
  format?: MessageFormat | undefined
  /** Returns the way to end it. */
  open(hearer: Hearer): () => void
}

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

/** Listens to what devices send, and looks among its fields for what a display shows. */
export class FieldFinder implements Search {
  readonly id = randomUUID()
  private readonly clock: Clock
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
    { shown, typed, clock }: { shown: Shown; typed: Typed; clock: Clock },
  ) {
    this.clock = clock
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
    const at = this.clock.now()
    for (const { field, value, unit } of leavesOf(text, format, at)) {
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
    fields.sort((a, b) => b.fits.length - a.fits.length || compare(a.group, b.group) || compare(a.name, b.name))
    const messages = render([{ count: this.heard, one: 'message', many: 'messages' }])
    const fieldCount = render([{ count: this.fields.size, one: 'field', many: 'fields' }])
    return {
      id: this.id,
      phase: this.stopped ? 'stopped' : listening ? 'searching' : 'watching',
      status: `${this.source.words}: ${messages}, ${fieldCount}${listening ? ' so far' : ''}.`,
      why: this.why ?? this.silentWhy,
      done: null,
      secondsLeft: null,
      readable: this.fields.size,
      address: null,
      addresses: [],
      further: null,
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
      group: topic,
      name: field.field || 'whole payload',
      note: format,
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
      options: { format },
      asTime: isTimed(format) && isTime(raw) ? { format, time: { field: field.field } } : null,
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

/** An ISO 8601 time, or a number of this century's seconds or parts of them. */
const isTime = (raw: string): boolean =>
  /^\d{4}-\d{2}-\d{2}[T ]\d/.test(raw) || /^1[5-9]\d{8}(\d{3}|\d{6}|\d{9})?(\.\d+)?$/.test(raw)

/** The fields of a message; none where it can't be read. */
function leavesOf(text: string, format: MessageFormat, now: number) {
  try {
    const records = readPayload(text, { format, now })
    return records.at(-1)?.leaves() ?? []
  } catch {
    return []
  }
}

const compare = (a: string, b: string) => (a < b ? -1 : a > b ? 1 : 0)
