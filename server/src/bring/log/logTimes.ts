import { tzOffset } from '@date-fns/tz'
import type { DateOrder } from '../dates.ts'

const MINUTE_MS = 60_000
const HOUR_MS = 60 * MINUTE_MS

const ISO =
  /^(\d{4})[-/.](\d{1,2})[-/.](\d{1,2})(?:[T ,]+(\d{1,2})[:.](\d{2})(?:[:.](\d{2})(?:[.,](\d{1,9}))?)?)?\s*(Z|[+-]\d{2}:?\d{2})?$/i
const NUMBERS =
  /^(\d{1,2})[./-](\d{1,2})[./-](\d{2}|\d{4})(?:[T ,]+(\d{1,2}):(\d{2})(?::(\d{2})(?:[.,](\d{1,9}))?)?\s*([ap]m)?)?$/i
const SINCE_1970 = /^\d{9,19}(?:\.\d+)?$/

/** A time as it is written: an instant where it says its zone, what a clock on the wall showed where it does not. */
export type WrittenTime = { at: number } | { wall: number }

/**
 * Reads a time of a log.
 * @param order of day and month, where both are numbers
 * @returns null for what is none
 */
export function readLogTime(text: string, order: DateOrder): WrittenTime | null {
  if (SINCE_1970.test(text)) {
    const number = Number(text)
    const perMs = number >= 1e17 ? 1e6 : number >= 1e14 ? 1e3 : number >= 1e11 ? 1 : 1e-3
    return { at: Math.round(number / perMs) }
  }
  const iso = ISO.exec(text)
  if (iso) {
    const wall = utc(iso[1], iso[2], iso[3], iso[4], iso[5], iso[6], iso[7])
    const zone = iso[8]
    if (wall === null || !zone) return wall === null ? null : { wall }
    return { at: wall - offsetOf(zone) * MINUTE_MS }
  }
  const found = NUMBERS.exec(text)
  if (!found) return null
  const [day, month] = order === 'dmy' ? [found[1], found[2]] : [found[2], found[1]]
  const year = found[3]?.length === 2 ? `20${found[3]}` : found[3]
  const half = found[8]?.toLowerCase()
  const hour = half ? String((Number(found[4]) % 12) + (half === 'pm' ? 12 : 0)) : found[4]
  const wall = utc(year, month, day, hour, found[5], found[6], found[7])
  return wall === null ? null : { wall }
}

/** Minutes east of Greenwich. */
function offsetOf(zone: string): number {
  if (/^z$/i.test(zone)) return 0
  const [hours, minutes] = [Number(zone.slice(1, 3)), Number(zone.slice(-2))]
  return (zone.startsWith('-') ? -1 : 1) * (60 * hours + minutes)
}

function utc(year = '', month = '', day = '', hour = '0', minute = '0', second = '0', fraction = ''): number | null {
  const [y, mo, d, h, mi, s] = [year, month, day, hour, minute, second].map(Number) as [
    number,
    number,
    number,
    number,
    number,
    number,
  ]
  if (mo < 1 || mo > 12 || d < 1 || h > 24 || mi > 59 || s > 60) return null
  const ms = fraction === '' ? 0 : Math.round(Number(`0.${fraction}`) * 1000)
  const at = Date.UTC(y, mo - 1, d, h, mi, s, ms)
  // The 31st of a month that has none.
  return new Date(Date.UTC(y, mo - 1, d)).getUTCDate() === d ? at : null
}

/**
 * What a clock on the wall showed, as instants. In the night in which it is set back an hour comes twice: rows come in
 * their order, so the second begins where the times go back. In the night in which it is set forward an hour is missing:
 * a logger that writes it was not set, and is read on.
 */
export class WallClock {
  private readonly hours = new Map<number, readonly [first: number, second: number]>()
  private last = Number.NEGATIVE_INFINITY
  private isSecond = false

  constructor(private readonly timeZone: string) {}

  /** @param wall as if it were UTC, ms */
  instant(wall: number): number {
    const [first, second] = this.offsets(wall)
    if (first === second) {
      this.isSecond = false
      this.last = wall
      return wall - first
    }
    if (wall < this.last) this.isSecond = true
    this.last = wall
    return wall - (this.isSecond ? second : first)
  }

  /** ms east of Greenwich for an hour on the wall: before and after the clock is set back; the same twice in all others. */
  private offsets(wall: number): readonly [number, number] {
    const hour = Math.floor(wall / HOUR_MS)
    const known = this.hours.get(hour)
    if (known) return known
    const at = (ms: number) => tzOffset(this.timeZone, new Date(ms)) * MINUTE_MS
    const start = hour * HOUR_MS
    // A day before and after no rule of any zone is still undecided.
    const candidates = [at(start - 24 * HOUR_MS), at(start + 24 * HOUR_MS)]
    const right = candidates.filter((offset) => at(start - offset) === offset)
    const [first = candidates[0] as number, second = first] = right
    const offsets = [first, second] as const
    this.hours.set(hour, offsets)
    return offsets
  }
}
