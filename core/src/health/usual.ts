import { median } from '../statistics/median.ts'

/** What a figure of a sensor usually is, and by how much it scatters (sd). */
export interface Usual {
  middle: number
  scatter: number
}

/** The scatter that is expected counts like so many looks; judgement, no source. */
const EXPECTED_COUNTS = 4
/** One wild look says little of the usual scatter: beyond so many times the expected one it is cut. */
const CUT = 3

/**
 * What is usual of a figure by a sensor's own earlier looks, its scatter drawn towards the one that is expected.
 * @param looks in any order; none give zero with twice the expected scatter
 */
export function usualOf(looks: readonly number[], expected: number): Usual {
  if (looks.length === 0) return { middle: 0, scatter: 2 * expected }
  const middle = median(looks)
  const squares = looks.map((v) => Math.min(Math.abs(v - middle), CUT * expected) ** 2)
  const own = squares.reduce((a, b) => a + b, 0)
  const scatter = Math.sqrt((EXPECTED_COUNTS * expected ** 2 + own) / (EXPECTED_COUNTS + looks.length - 1))
  // The middle of few looks is uncertain as well.
  return { middle, scatter: scatter * Math.sqrt(1 + 1 / looks.length) }
}

/** Density with the heavy tails that figures of everyday work have: Student's t of five degrees of freedom. */
export function density(x: number, middle: number, sd: number): number {
  const z = (x - middle) / sd
  return (0.37961 / sd) * (1 + (z * z) / 5) ** -3
}
