import { TZDate } from '@date-fns/tz'
import { clock, day } from '../../components/format.ts'
import type { Span } from './useSpan.ts'

const MINUTE = 60_000
const HOUR = 60 * MINUTE
const DAY = 24 * HOUR
const STEPS = [5 * MINUTE, 10 * MINUTE, 30 * MINUTE, HOUR, 2 * HOUR, 3 * HOUR, 6 * HOUR, 12 * HOUR]
const DAY_STEPS = [1, 2, 3, 5, 7, 14, 30, 61, 91, 183, 365, 730]

/** Round times of the site's own clock within a span, and how each is called. */
export function timeTicks({ from, to }: Span, timeZone: string, most: number): { at: number; label: string }[] {
  const step = STEPS.find((s) => (to - from) / s <= most)
  if (step) {
    const offset = new TZDate(from, timeZone).getTimezoneOffset() * MINUTE
    const first = Math.ceil((from - offset) / step) * step + offset
    return Array.from({ length: Math.floor((to - first) / step) + 1 }, (_, i) => {
      const at = first + i * step
      const isMidnight = new TZDate(at, timeZone).getHours() === 0 && new TZDate(at, timeZone).getMinutes() === 0
      return { at, label: isMidnight ? day(at, timeZone) : clock(at, timeZone) }
    })
  }
  const days = DAY_STEPS.find((d) => (to - from) / (d * DAY) <= most) ?? DAY_STEPS.at(-1) ?? 1
  const ticks: { at: number; label: string }[] = []
  const midnight = new TZDate(from, timeZone)
  midnight.setHours(0, 0, 0, 0)
  for (let at = midnight.getTime(); at <= to; midnight.setDate(midnight.getDate() + days), at = midnight.getTime())
    if (at >= from) ticks.push({ at, label: day(at, timeZone) })
  return ticks
}
