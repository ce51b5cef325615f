import { DAY_MS } from '@frustum/core'
import { useSearchParams } from 'react-router'
import { now } from '../../store/clock.ts'

const HOUR_MS = 3_600_000

export interface Span {
  from: number
  to: number
}

/** Spans that are looked at most. */
export const SPANS = [
  ['1 h', HOUR_MS],
  ['1 day', DAY_MS],
  ['1 week', 7 * DAY_MS],
  ['1 month', 30 * DAY_MS],
  ['1 year', 365 * DAY_MS],
] as const

const SHORTEST_MS = 10 * 60_000
const LONGEST_MS = 10 * 366 * DAY_MS
/** Ends that are so near to now go on with it. */
const LIVE_MS = 60_000

/** A span, within what can be looked at. */
export function limited({ from, to }: Span): Span {
  const length = Math.min(LONGEST_MS, Math.max(SHORTEST_MS, to - from))
  const end = Math.min(to, now())
  return { from: end - length, to: end }
}

/** Closer or further, about a place in it: 0 its beginning, 1 its end. */
export function zoomed({ from, to }: Span, factor: number, about = 1): Span {
  const middle = from + about * (to - from)
  const length = Math.min(LONGEST_MS, Math.max(SHORTEST_MS, factor * (to - from)))
  return limited({ from: middle - about * length, to: middle + (1 - about) * length })
}

/** Earlier or later, by a share of its length. */
export const panned = ({ from, to }: Span, share: number): Span => {
  const by = Math.min(share * (to - from), now() - to)
  return { from: from + by, to: to + by }
}

/** The span that is looked at, kept in the address: a link leads back to it. One that ends now goes on with the time. */
export function useSpan(): { span: Span; isLive: boolean; show: (span: Span) => void } {
  const [params, setParams] = useSearchParams()
  const length = Number(params.get('last')) || DAY_MS
  const [from, to] = [Number(params.get('from')), Number(params.get('to'))]
  const isLive = !(from > 0 && to > from)
  const minute = Math.floor(now() / LIVE_MS) * LIVE_MS + LIVE_MS
  const span = isLive ? { from: minute - length, to: minute } : { from, to }
  const show = (next: Span) => {
    const ends = next.to >= now() - LIVE_MS
    const values: Record<string, string> = ends
      ? { last: String(Math.round(next.to - next.from)) }
      : { from: String(Math.round(next.from)), to: String(Math.round(next.to)) }
    // What else is in the address stays: who is drawn over it.
    setParams(
      (before) => {
        for (const key of ['last', 'from', 'to']) before.delete(key)
        for (const [key, value] of Object.entries(values)) before.set(key, value)
        return before
      },
      { replace: true },
    )
  }
  return { span, isLive, show }
}
