import { PayloadProblem, type Scalar } from './message.ts'

/** An ISO 8601 time with its zone, as RFC 3339 has it; the T may be a space. */
const WITH_ZONE = /^\d{4}-\d{2}-\d{2}[T ]\d{2}:\d{2}(:\d{2}(\.\d+)?)? ?(Z|[+-]\d{2}:?\d{2})$/i

/** So many of each make a ms; by their size it is seen which they are, for times from 1973 on. */
const SINCE_1970: readonly (readonly [from: number, perMs: number])[] = [
  [1e17, 1e6],
  [1e14, 1e3],
  [1e11, 1],
  [0, 1e-3],
]

/**
 * A time as a device writes it, epoch ms: ISO 8601 with its zone, or the s, ms, us or ns since 1970.
 * @throws PayloadProblem where it is none, or one of no zone: an hour off is worse than none
 */
export function readTime(said: Scalar, now: number): number {
  const text = String(said ?? '').trim()
  if (text === '') return now
  if (/^\d+(\.\d+)?$/.test(text)) {
    const number = Number(text)
    const [, perMs] = SINCE_1970.find(([from]) => number >= from) as readonly [number, number]
    return Math.round(number / perMs)
  }
  if (WITH_ZONE.test(text)) {
    const at = Date.parse(text.replace(' ', 'T').replace(/ /g, ''))
    if (Number.isFinite(at)) return at
  }
  const short = text.slice(0, 40)
  if (/^\d{4}-\d{2}-\d{2}[T ]\d/.test(text)) {
    throw new PayloadProblem(`Its time “${short}” has no zone: let the device write Z or +01:00 after it.`)
  }
  throw new PayloadProblem(`Its time “${short}” is none.`)
}
