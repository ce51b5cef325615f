import { setImmediate } from 'node:timers/promises'
import { type Displayed, decimalsOf } from '../../../finder/display.ts'
import { BYTE_ORDERS, REGISTER_TYPES, type RegisterPlace, wordsOfType } from '../place.ts'
import { type Conversion, converted, type Usual, usualConversions } from './conversions.ts'
import { numberOf, type Reading, type RegisterLog, type Series } from './registerLog.ts'

/** What a display showed, and when someone read it off. */
export interface Look {
  at: number
  shown: Displayed
}

/** One way in which registers could hold what a display shows. */
export interface Hypothesis extends Reading, Conversion {
  /** Negative logarithm of how usual it is. */
  strangeness: number
}

/** A number that was found, by the simplest way to read it. */
export interface Candidate extends Hypothesis {
  /** Other ways, or other places, that read the same at every moment. */
  same: Hypothesis[]
  /** Logarithm of its probability, relative to that of the best. */
  score: number
  /** What it read nearest to each look; null where nothing was read around it. */
  read: (number | null)[]
}

export interface Found {
  /** The likeliest first. */
  candidates: Candidate[]
  /** How many are likely enough to be looked at. */
  left: number
  /** Whether every other register, and none at all, is improbable. */
  certain: boolean
}

/** How far apart looks must be to tell one number from another, in steps of the display. */
const APART_STEPS = 20
/** A display is read off before it is entered, and a register may be renewed later than the display, ms. */
const AROUND = { before: 40_000, after: 8000 } as const
const LIKELY = { before: 20_000, after: 4000 } as const
/** Weight of a moment outside of the likely ones. */
const UNLIKELY_WEIGHT = 0.2
/** If nothing was read around a look, what was read within this time of it counts, ms. */
const FAR_MS = 180_000
/** How a displayed number strays from the register: rounding, a digit's flicker, a filter, a lag. Half-widths in steps. */
const STRAYS = [
  { within: 0.55, share: 0.8 },
  { within: 1.6, share: 0.14 },
  { within: 6, share: 0.05 },
  { within: 30, share: 0.01 },
] as const
/** How many displays follow with a filter of so many seconds (common practice, no source). */
const FILTERS = [
  { seconds: 0, share: 0.8 },
  { seconds: 4, share: 0.08 },
  { seconds: 8, share: 0.08 },
  { seconds: 16, share: 0.04 },
] as const
/** The last word of a measured number takes any value: each change of the first one while it hardly moves speaks against it. */
const NARROW_WORD = { each: 2.5, most: 7.5 } as const
const WORD_RANGE = 65_536
/** The probability that a look is wrong altogether, such as by a mistyped digit, spread over the numbers it could be. */
const WRONG_LOOK = Math.log(1e-4)
/** A look around which a place was not read tells nothing of it: as much as of an average place. */
const UNREAD_LOOK = -3
/** The number is none that was read: prior, and for each look. */
const NONE = { prior: -1, look: Math.log(1 / 500) } as const
/** What is as near to a look is considered: within so many steps, or that share of it. */
const NEAR = { steps: 30, share: 0.01 } as const
/** So many are ranked by all that was read of them; so many at a time, before others get their turn. */
const MOST_RANKED = 500
const TURN = 50
/** Candidates that are kept, and those within this much of the best are likely. */
const KEPT = 300
const LIKELY_SCORE = -6
/** All else together has at most this probability before one is called certain. */
const DOUBT = 1e-3

const TYPES = REGISTER_TYPES.filter((type) => type !== 'bit')
const OF_TYPE: Readonly<Record<RegisterPlace['type'], number>> = {
  int16: 0,
  uint16: 0.1,
  float32: 0,
  float64: 0.6,
  int32: 0.5,
  uint32: 0.6,
  bcd16: 1,
  // With an empty high word both read the same, and only this one still does beyond four digits.
  bcd32: 0.85,
  bit: 9,
}
const OF_ORDER = { ABCD: 0, CDAB: 0.1, BADC: 1, DCBA: 0.8 } as const

const ordersOf = (type: RegisterPlace['type']) =>
  // Of a single word only its bytes can be swapped.
  wordsOfType(type) === 1 ? (['ABCD', 'BADC'] as const) : BYTE_ORDERS

/** Every way to read the registers that was near a look, and how usual everything is together that was considered. */
export class Hypotheses {
  private near: { hypothesis: Hypothesis; score: number }[] = []
  private total = 0
  private readonly ways: readonly Way[]
  /** Of each look, what is near it. */
  private readonly ranges: readonly { low: number; high: number }[]

  /**
   * @param temperature the displayed unit of a temperature; null of all else
   */
  constructor(
    private readonly log: RegisterLog,
    private readonly looks: readonly Look[],
    temperature: string | null,
  ) {
    const [first] = looks
    this.ranges = looks.map(({ shown: { value, step } }) => {
      const by = Math.max(NEAR.steps * step, NEAR.share * Math.abs(value))
      return { low: value - by, high: value + by }
    })
    this.ways = first ? waysOf(decimalsOf(first.shown), temperature) : []
  }

  get all(): readonly Hypothesis[] {
    return this.near.map((n) => n.hypothesis)
  }

  /** Logarithm of how usual everything is together. */
  get logTotal(): number {
    return Math.log(Math.max(this.total, 1))
  }

  /** Adds the ways to read a register that were near one of the looks: a look that was mistyped must not lose the right one. */
  consider({ table, address }: Pick<Reading, 'table' | 'address'>): void {
    const words = this.looks.map((look) => this.log.wordsNear(table, address, look.at))
    for (const { type, order, strangeness, conversions, usual } of this.ways) {
      const reading = { table, address, type, order }
      const raws = words.map((of) => numberOf(of, reading))
      if (raws.every((raw) => raw === null)) continue
      this.total += usual
      const odd = strangeness + (wordsOfType(type) > 1 && address % 2 === 1 ? 0.1 : 0)
      for (const conversion of conversions) this.add(reading, conversion, odd + conversion.strangeness, raws)
      if (order === 'ABCD' && (type === 'int16' || type === 'uint16')) this.addTwoPoints(reading, raws)
    }
  }

  /** Called millions of times, and nearly always false. */
  private isNear(raws: readonly (number | null)[], scale: number, offset: number): boolean {
    for (let i = 0; i < raws.length; i++) {
      const raw = raws[i] as number | null
      if (raw === null) continue
      const { low, high } = this.ranges[i] as { low: number; high: number }
      const value = raw * scale + offset
      if (value >= low && value <= high) return true
    }
    return false
  }

  private add(
    reading: Reading,
    { scale, offset }: Conversion,
    strangeness: number,
    raws: readonly (number | null)[],
  ): void {
    if (!this.isNear(raws, scale, offset)) return
    const score = raws.reduce<number>((sum, raw, i) => {
      const { value, step } = (this.looks[i] as Look).shown
      return sum + (raw === null ? WRONG_LOOK : logOf(density(Math.abs(raw * scale + offset - value) / step)))
    }, -strangeness)
    this.near.push({ hypothesis: { ...reading, scale, offset, strangeness }, score })
    if (this.near.length > 2 * MOST_RANKED) this.drop()
  }

  /** Keeps the likeliest by what was read nearest to each look. */
  private drop(): void {
    this.near = this.near.sort((a, b) => b.score - a.score).slice(0, MOST_RANKED)
  }

  /** A line through the two looks farthest apart: an input with ends of its own. Two looks always fit it, a third tells. */
  private addTwoPoints(reading: Reading, raws: readonly (number | null)[]): void {
    const known = this.looks.flatMap(({ shown }, i) => {
      const raw = raws[i] ?? null
      return raw === null ? [] : { shown, raw }
    })
    const sorted = known.sort((a, b) => a.shown.value - b.shown.value)
    const [low, high] = [sorted[0], sorted.at(-1)]
    if (!low || !high || high.shown.value - low.shown.value < APART_STEPS * high.shown.step) return
    // With fewer counts than steps it cannot be what is displayed.
    if (Math.abs(high.raw - low.raw) < APART_STEPS / 2) return
    const scale = (high.shown.value - low.shown.value) / (high.raw - low.raw)
    this.total += Math.exp(-TWO_POINTS)
    this.add(reading, { scale, offset: low.shown.value - low.raw * scale }, TWO_POINTS, raws)
  }
}

interface Way extends Pick<Reading, 'type' | 'order'> {
  strangeness: number
  conversions: readonly Usual[]
  /** How usual all of its conversions are together. */
  usual: number
}

function waysOf(decimals: number, temperature: string | null): readonly Way[] {
  return TYPES.flatMap((type) =>
    ordersOf(type).map((order): Way => {
      const strangeness = OF_TYPE[type] + OF_ORDER[order]
      // Odd byte orders and odd conversions together are too many to tell apart.
      const isPlain = order === 'ABCD' || order === 'CDAB'
      const conversions = usualConversions(type, decimals, isPlain ? temperature : null).filter(
        (c) => isPlain || c.offset === 0,
      )
      const usual = conversions.reduce((sum, c) => sum + Math.exp(-strangeness - c.strangeness), 0)
      return { type, order, strangeness, conversions, usual }
    }),
  )
}

/** A conversion that no list has; two looks fit it whatever the register is. */
const TWO_POINTS = 16

/** How probable a displayed number is, in share of a step, where the register held a number so many steps away. */
function density(off: number): number {
  let sum = 0
  for (const { within, share } of STRAYS) if (off <= within) sum += (share * 0.5) / within
  return sum
}

/** The mean density of a stretch in which the register went steadily from one number to another, in steps from the look. */
function densityBetween(from: number, to: number): number {
  const [low, high] = from < to ? [from, to] : [to, from]
  if (high - low < 0.2) return density(Math.abs((low + high) / 2))
  let sum = 0
  for (const { within, share } of STRAYS) {
    const overlap = Math.min(high, within) - Math.max(low, -within)
    if (overlap > 0) sum += ((share * 0.5) / within) * (overlap / (high - low))
  }
  return sum
}

const weightAt = (after: number): number =>
  after >= -LIKELY.before && after <= LIKELY.after
    ? 1
    : after >= -AROUND.before && after <= AROUND.after
      ? UNLIKELY_WEIGHT
      : 0

/** Between reads that are further apart nobody knows how it went, ms. */
const JOINED_MS = 5000

/** What a display with a filter makes of what a register held; it begins anew after each gap. */
function filtered(moments: readonly Moment[], seconds: number): readonly Moment[] {
  if (seconds === 0) return moments
  let before: { at: number; value: number } | null = null
  return moments.map(({ at, value }) => {
    if (value === null) before = null
    else if (before && at - before.at <= JOINED_MS) {
      const share = 1 - Math.exp((before.at - at) / 1000 / seconds)
      before = { at, value: before.value + share * (value - before.value) }
    } else before = { at, value }
    return { at, value: before?.value ?? null }
  })
}

interface Moment {
  at: number
  /** Null where the bits were no number. */
  value: number | null
}

/** Logarithm of how probable a look is if the display follows these numbers; and what was read nearest to it. */
function likelihood(moments: readonly Moment[], { at, shown }: Look): { log: number; read: number | null } {
  const steps = (value: number) => (value - shown.value) / shown.step
  let [sum, weights] = [0, 0]
  let read: number | null = null
  let nearest = Number.POSITIVE_INFINITY
  let before: { at: number; value: number } | null = null
  for (const { at: then, value } of moments) {
    const weight = weightAt(then - at)
    if (weight === 0) continue
    weights += weight
    if (value !== null) {
      const off = steps(value)
      if (Math.abs(off) < nearest) [nearest, read] = [Math.abs(off), value]
      const isJoined = before !== null && then - before.at <= JOINED_MS
      sum += weight * (isJoined && before ? densityBetween(steps(before.value), off) : density(Math.abs(off)))
    }
    before = value === null ? null : { at: then, value }
  }
  if (weights > 0) return { log: logOf(sum / weights), read }
  const near = moments.filter((m) => Math.abs(m.at - at) <= FAR_MS)
  const [closest] = near.toSorted((a, b) => Math.abs(a.at - at) - Math.abs(b.at - at))
  if (!closest) return { log: UNREAD_LOOK, read: null }
  if (closest.value === null) return { log: WRONG_LOOK, read: null }
  // It may have moved since: the look tells less of it.
  return { log: Math.max(UNREAD_LOOK - 2, logOf(density(Math.abs(steps(closest.value))))), read: closest.value }
}

const logOf = (probability: number): number => Math.log(Math.max(probability, Math.exp(WRONG_LOOK)))

/** By how much the words of a number speak against it: the first of them changes, and the last one hardly moves with it. */
function narrowness(series: Series, { type, order }: Reading): number {
  const length = wordsOfType(type)
  if (length === 1) return 0
  const [first, last] = order === 'ABCD' || order === 'BADC' ? [0, length - 1] : [length - 1, 0]
  const changed = series.filter(({ words }, i) => i === 0 || words[first] !== series[i - 1]?.words[first])
  const changes = changed.length - 1
  // Once is chance.
  if (changes < 2) return 0
  const lasts = changed.map(({ words }) => words[last] as number)
  const range = (Math.max(...lasts) - Math.min(...lasts) + 1) / WORD_RANGE
  const expected = changes / (changes + 2)
  const each = Math.min(NARROW_WORD.each, Math.max(0, Math.log(expected / range)))
  return Math.min(NARROW_WORD.most, changes * each)
}

/** How well a candidate fits all looks, by the filter of the display that fits best together with it. */
function fitOf(moments: readonly Moment[], looks: readonly Look[]) {
  const isJoined = moments.some(({ at }, i) => i > 0 && at - (moments[i - 1] as Moment).at <= JOINED_MS)
  const fits = (isJoined ? FILTERS : FILTERS.slice(0, 1)).map(({ seconds, share }) => {
    const seen = filtered(moments, seconds)
    const each = looks.map((look) => likelihood(seen, look))
    return { each, log: each.reduce((sum, f) => sum + f.log, isJoined ? Math.log(share) : 0) }
  })
  const best = Math.max(...fits.map((f) => f.log))
  const log = best + Math.log(fits.reduce((sum, f) => sum + Math.exp(f.log - best), 0))
  return { log, each: (fits.find((f) => f.log === best) as (typeof fits)[number]).each }
}

/** Ranks hypotheses by all looks. None is ever thrown out by a look, since a look can be wrong. */
export async function rank(log: RegisterLog, hypotheses: Hypotheses, looks: readonly Look[]): Promise<Found> {
  const known = new Map<string, { series: Series; narrow: number }>()
  const readsOf = (hypothesis: Hypothesis) => {
    const { table, address, type, order } = hypothesis
    const key = `${table} ${address} ${type} ${order}`
    const found = known.get(key)
    if (found) return found
    const series = log.series(hypothesis)
    const reads = { series, narrow: narrowness(series, hypothesis) }
    known.set(key, reads)
    return reads
  }
  const scored: (Candidate & Pick<ReturnType<typeof fitOf>, 'each'> & { moments: readonly Moment[] })[] = []
  for (const [i, hypothesis] of hypotheses.all.entries()) {
    if (i % TURN === TURN - 1) await setImmediate()
    const { series, narrow } = readsOf(hypothesis)
    const moments = series.map(({ at, raw }) => ({ at, value: raw === null ? null : converted(raw, hypothesis) }))
    const { log: fit, each } = fitOf(moments, looks)
    const score = fit - hypothesis.strangeness - narrow
    scored.push({ ...hypothesis, same: [], score, read: each.map((f) => f.read), each, moments })
  }
  const sorted = scored.sort((a, b) => b.score - a.score || a.address - b.address).slice(0, KEPT)
  const candidates = asOne(sorted)
  const [best] = candidates
  if (!best) return { candidates: [], left: 0, certain: false }
  const none = NONE.prior + NONE.look * looks.length + hypotheses.logTotal
  const others = candidates
    .slice(1)
    .reduce((sum, c) => sum + Math.exp(c.score - best.score), Math.exp(none - best.score))
  return {
    candidates: candidates.map(({ each: _, moments: __, ...c }) => ({ ...c, score: c.score - best.score })),
    left: candidates.filter((c) => c.score - best.score > LIKELY_SCORE).length,
    certain: others < DOUBT && areApart(looks.filter((_, i) => (best.each[i]?.log ?? 0) > SURE_MATCH)),
  }
}

/** A look that a candidate matches by rounding, or a digit more. */
const SURE_MATCH = Math.log(density(1.6))

/** Candidates that read the same at every moment are one: a number with an empty high word, a register's mirror. */
function asOne<T extends Hypothesis & { same: Hypothesis[]; moments: readonly Moment[] }>(sorted: readonly T[]): T[] {
  const by = new Map<string, T>()
  for (const candidate of sorted) {
    const series = candidate.moments
      .filter(({ value }, i, all) => i === 0 || value !== all[i - 1]?.value)
      .map(({ value }) => value?.toPrecision(7))
      .join(' ')
    const known = by.get(series)
    if (known) known.same.push(candidate)
    else by.set(series, candidate)
  }
  return [...by.values()]
}

function areApart(looks: readonly Look[]): boolean {
  if (looks.length < 2) return false
  const values = looks.map((l) => l.shown.value)
  const step = Math.max(...looks.map((l) => l.shown.step))
  // Twenty whole steps may differ from twenty by rounding.
  return (Math.max(...values) - Math.min(...values)) / step >= APART_STEPS - 1e-6
}
