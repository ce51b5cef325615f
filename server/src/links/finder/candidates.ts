import { BYTE_ORDERS, REGISTER_TYPES, type RegisterPlace, type RegisterTable, wordsOfType } from '@frustum/contract'
import { median } from '@frustum/core'
import { decodeRegisters } from '../modbus/registers.ts'
import type { Displayed } from './display.ts'

/** What stood in the registers of a device at one moment: words by address, of each table. */
export interface Snapshot {
  at: number
  tables: Partial<Record<RegisterTable, ReadonlyMap<number, number>>>
}

/** What a display said, and when somebody said so. */
export interface Look {
  at: number
  shown: Displayed
}

/** One way in which registers could hold what a display shows. */
export interface Hypothesis extends Pick<RegisterPlace, 'table' | 'address' | 'type' | 'order'> {
  /** The number is what stands there times ten to this. */
  power: number
}

/** A number that was found, by the simplest way to read it. */
export interface Candidate extends Hypothesis {
  /** Other ways, or other places, that read the same at every moment. */
  same: Hypothesis[]
  /** How far it was off at each look, in steps of the display. */
  off: number[]
  /** What it read nearest to each look. */
  read: number[]
  cost: number
}

export interface Found {
  /** The likeliest first. */
  candidates: Candidate[]
  /** Whether the first is the only one that is left, after looks that differ enough to tell. */
  certain: boolean
}

/** So far apart, in steps of the display, looks must be to tell one number from another. */
const APART_STEPS = 20
/** A display is read and typed some seconds before or after the registers are, ms. */
const LATE_MS = 20_000
/** So long does it take to type what was read, ms. */
const TYPED_WITHIN_MS = 8000
/** What a second beyond that counts, in steps. */
const LATE_COST = 0.1
/** How far a candidate may be off while too little was seen of it, in steps: whoever reads a moving display is late. */
const LOOSE = { steps: 5, share: 0.005 } as const
/** How far a number may be off that stood still: rounding one way or the other, and a digit. */
const TIGHT_STEPS = 1.1
/** So often must a number be seen around a look to tell whether it stood still. */
const SEEN_ENOUGH = 3
/** A display rounds, up or down, and that tells nothing; what it is off beyond weighs this much a step. */
const ROUNDED = 0.55
const OFF_COST = 2
const POWERS = [-6, -5, -4, -3, -2, -1, 0, 1, 2, 3] as const
/** Of floats: as they are, or in a thousandfold unit. */
const FLOAT_POWERS = [-3, 0, 3] as const

const isFloat = (type: RegisterPlace['type']) => type === 'float32' || type === 'float64'
const TYPES = REGISTER_TYPES.filter((type) => type !== 'bit')

/** The number that a hypothesis reads in a snapshot; null where it is not there, or none. */
export function numberIn(snapshot: Snapshot, { table, address, type, order, power }: Hypothesis): number | null {
  const words = snapshot.tables[table]
  if (!words) return null
  const length = wordsOfType(type)
  const bytes = new Uint8Array(2 * length)
  for (let i = 0; i < length; i++) {
    const word = words.get(address + i)
    if (word === undefined) return null
    bytes[2 * i] = word >> 8
    bytes[2 * i + 1] = word & 255
  }
  const raw = decodeRegisters(bytes, { type, order })
  // Multiplied by 0.01 a whole number is not always the nearest to what is meant.
  return raw === null ? null : power < 0 ? raw / 10 ** -power : raw * 10 ** power
}

/** How a look and a hypothesis go together: how far it was off, in steps, at the moment that fits best. */
function fit(snapshots: readonly Snapshot[], hypothesis: Hypothesis, { at, shown }: Look) {
  let best: { off: number; read: number; cost: number } | null = null
  const near: number[] = []
  for (const snapshot of snapshots) {
    const after = snapshot.at - at
    if (Math.abs(after) > LATE_MS) continue
    const read = numberIn(snapshot, hypothesis)
    if (read === null) continue
    near.push(read)
    const off = Math.abs(read - shown.value) / shown.step
    // It is read first and typed then: what stood there in the seconds before is as good as what stands there now.
    const late = after > 0 ? after : Math.max(0, -after - TYPED_WITHIN_MS)
    const cost = off + (late / 1000) * LATE_COST
    if (!best || cost < best.cost) best = { off, read, cost }
  }
  return best && { ...best, stays: couldBe(near, shown, best.off) }
}

/** Whether a number that was seen around a look, oldest first, could be what was shown then. */
function couldBe(near: readonly number[], shown: Displayed, nearest: number): boolean {
  if (near.length < SEEN_ENOUGH) return nearest <= loose(shown)
  const steps = near.map((n) => n / shown.step)
  const total = steps.slice(1).reduce((sum, n, i) => sum + Math.abs(n - (steps[i] as number)), 0)
  const net = Math.abs((steps.at(-1) as number) - (steps[0] as number))
  // What goes one way is taken at any of its moments, and a little before or after them; what only jumps about is not.
  const trend = Math.max(0, 2 * net - total)
  if (trend > TIGHT_STEPS) return nearest <= TIGHT_STEPS + trend
  const middle = median(steps)
  const jitter = median(steps.map((n) => Math.abs(n - middle)))
  return Math.abs(middle - shown.value / shown.step) <= TIGHT_STEPS + Math.min(LOOSE.steps, 1.5 * jitter)
}

const loose = ({ value, step }: Displayed): number => Math.max(LOOSE.steps, (LOOSE.share * Math.abs(value)) / step)

/** How unusual a way of writing numbers is: what is simpler and more common comes first (common practice, no source). */
function strangeness({ type, order, power, address }: Hypothesis, { step }: Displayed): number {
  const decimals = Math.round(-Math.log10(step))
  const ofType = {
    int16: 0,
    uint16: 0.1,
    float32: 0,
    float64: 0.6,
    int32: 0.5,
    uint32: 0.6,
    bcd16: 1,
    bcd32: 1.2,
    bit: 9,
  }
  const ofOrder = { ABCD: 0, CDAB: 0.1, BADC: 1, DCBA: 0.8 }
  const further = isFloat(type) ? Math.abs(power) / 1.5 : Math.abs(-power - decimals) * (-power < decimals ? 1.2 : 0.4)
  const odd = wordsOfType(type) > 1 && address % 2 === 1 ? 0.1 : 0
  return ofType[type] + ofOrder[order] + further + odd
}

/** Every way in which the registers could hold about what was shown. */
function* hypotheses(snapshot: Snapshot, { value, step }: Displayed): Generator<Hypothesis> {
  const [low, high] = [
    value - 3 * loose({ value, step, unit: '' }) * step,
    value + 3 * loose({ value, step, unit: '' }) * step,
  ]
  for (const [table, words] of Object.entries(snapshot.tables) as [RegisterTable, ReadonlyMap<number, number>][]) {
    for (const address of words.keys()) {
      for (const type of TYPES) {
        // Of a single word only its bytes can be swapped.
        const orders = wordsOfType(type) === 1 ? (['ABCD', 'BADC'] as const) : BYTE_ORDERS
        for (const order of orders) {
          const raw = numberIn(snapshot, { table, address, type, order, power: 0 })
          if (raw === null) continue
          for (const power of isFloat(type) ? FLOAT_POWERS : POWERS) {
            const read = raw * 10 ** power
            if (read >= low && read <= high) yield { table, address, type, order, power }
          }
        }
      }
    }
  }
}

/** Whether a hypothesis can be what the display showed at every look. */
function staying(snapshots: readonly Snapshot[], looks: readonly Look[], hypothesis: Hypothesis) {
  const fits: { off: number; read: number; cost: number }[] = []
  for (const look of looks) {
    // Nothing was read around it: it tells nothing.
    if (!snapshots.some((s) => Math.abs(s.at - look.at) <= LATE_MS)) continue
    const one = fit(snapshots, hypothesis, look)
    if (!one?.stays) return null
    fits.push(one)
  }
  return fits
}

/**
 * What of a device's registers can be the number that its display shows, by one look or several.
 * @param snapshots what stood in the registers, oldest first
 * @param known what was left by the looks before; missing: everything is tried
 */
export function findNumber(
  snapshots: readonly Snapshot[],
  looks: readonly Look[],
  known?: readonly Hypothesis[],
): Found {
  const [first] = looks
  const snapshot = first && nearest(snapshots, first.at)
  if (!first || !snapshot) return { candidates: [], certain: false }
  const left: Candidate[] = []
  for (const hypothesis of known ?? hypotheses(snapshot, first.shown)) {
    const fits = staying(snapshots, looks, hypothesis)
    if (!fits) continue
    const off = fits.map((f) => f.off)
    const cost =
      strangeness(hypothesis, first.shown) + fits.reduce((sum, f) => sum + OFF_COST * Math.max(0, f.cost - ROUNDED), 0)
    left.push({ ...hypothesis, same: [], off, read: fits.map((f) => f.read), cost })
  }
  const candidates = asOne(
    snapshots,
    left.sort((a, b) => a.cost - b.cost || a.address - b.address),
  )
  return { candidates, certain: isCertain(snapshots, candidates, looks) }
}

const nearest = (snapshots: readonly Snapshot[], at: number): Snapshot | undefined =>
  snapshots.reduce<Snapshot | undefined>(
    (best, s) => (best && Math.abs(best.at - at) <= Math.abs(s.at - at) ? best : s),
    undefined,
  )

/** Candidates that read the same at every moment are one: a number with an empty high word, a register's mirror. */
function asOne(snapshots: readonly Snapshot[], sorted: readonly Candidate[]): Candidate[] {
  const by = new Map<string, Candidate>()
  for (const candidate of sorted) {
    const series = snapshots.map((s) => numberIn(s, candidate)).join(' ')
    const known = by.get(series)
    if (known) known.same.push(candidate)
    else by.set(series, candidate)
  }
  return [...by.values()]
}

function isCertain(snapshots: readonly Snapshot[], candidates: readonly Candidate[], looks: readonly Look[]): boolean {
  const [only, ...others] = candidates
  if (!only || others.length > 0) return false
  const values = looks.filter((l) => snapshots.some((s) => Math.abs(s.at - l.at) <= LATE_MS)).map((l) => l.shown.value)
  const step = Math.max(...looks.map((l) => l.shown.step))
  const apart = (Math.max(...values) - Math.min(...values)) / step
  // A float's dust apart from twenty whole steps is twenty.
  return apart >= APART_STEPS - 1e-6 && only.off.every((off) => off <= TIGHT_STEPS)
}
