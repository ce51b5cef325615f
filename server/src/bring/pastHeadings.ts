import { type ColumnChoice, PAST_COLUMNS, type PastColumn } from '@frustum/contract'
import { guessColumns } from './columns.ts'

/** Headings such as "pH 7.00 before" or "1413 µS/cm, as left": the standard and the moment in one. */

const BEFORE = /\b(before|found|initial|pre|in|reads?|reading|shown)\b/i
const AFTER = /\b(after|left|final|post|adjusted)\b/i
const STANDARD = /\b(ph|buffer|standard|std|solution|orp|ec)\b/i

/** The standard that a heading names, with its unit where it has one; null where it names none. */
export function standardIn(heading: string): string | null {
  const found = /(\d+(?:[.,]\d+)?)\s*(ms|µs|us|mv)?/i.exec(heading)
  return found ? [found[1], found[2]].filter(Boolean).join(' ') : null
}

interface PointHeading {
  standard: string
  when: 'before' | 'after'
}

function pointHeading(heading: string): PointHeading | null {
  const standard = standardIn(heading)
  if (standard === null) return null
  if (AFTER.test(heading)) return { standard, when: 'after' }
  // A bare number, or one with the name of a standard, is what was read in it.
  const isPoint = BEFORE.test(heading) || STANDARD.test(heading) || /^[\d.,\s]+$/.test(heading)
  return isPoint ? { standard, when: 'before' } : null
}

/** Which column holds what, by the headings; up to three standards that are named in them. */
export function guessPastColumns(headers: readonly string[]): ColumnChoice<PastColumn> {
  const found: ColumnChoice<PastColumn> = {}
  const standards: string[] = []
  const taken = new Set<number>()
  headers.forEach((heading, at) => {
    const point = numbered(heading) ? null : pointHeading(heading)
    if (!point) return
    if (!standards.includes(point.standard)) standards.push(point.standard)
    const number = standards.indexOf(point.standard) + 1
    const column = `${point.when}${number}` as PastColumn
    if (number > 3 || found[column] !== undefined) return
    found[column] = at
    taken.add(at)
  })
  return { ...guessColumns(PAST_COLUMNS, headers, taken), ...found }
}

/** "Buffer 1" counts, and names no standard. */
const numbered = (heading: string) => /^[a-z ]+ [123]$/i.test(heading.trim()) && !/^(ph|ec|orp) /i.test(heading.trim())
