import { DAY_MS } from '@frustum/core'
import { Problem } from '../problem.ts'
import { isPossibleInstant } from './serve.ts'

const MOST_BINS = 4000
const LONGEST_MS = 40 * 366 * DAY_MS

/** From when to when, in how many bins at most. */
export interface Span {
  from: number
  to: number
  most: number
  /** Whether what is usual by hour of the day is wanted: it is only seen on days that are near. */
  ordinary: boolean
}

/** Reads a span from an address. @throws Problem where it is none */
export function spanOf(query: Record<string, unknown>, now: number): Span {
  const number = (name: string, usual: number) => (query[name] === undefined ? usual : Number(query[name]))
  const to = number('to', now)
  const ordinary = query.ordinary !== undefined
  const span = { from: number('from', to - DAY_MS), to, most: number('most', 600), ordinary }
  const isRight = span.to > span.from && span.to - span.from <= LONGEST_MS && span.most >= 1 && span.most <= MOST_BINS
  if (isRight && isPossibleInstant(span.from) && isPossibleInstant(span.to)) return span
  throw new Problem(400, 'invalid', "This isn't a valid time span.", { hint: 'Start with the last day.' })
}
