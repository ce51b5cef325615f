import { requireWithin } from '../quantities/outOfRange.ts'
import type { Measured } from '../uncertainty/propagation.ts'

/**
 * Normalised error of two results: En = (a - b) / sqrt(Ua^2 + Ub^2) (ISO 13528:2022, 9.7; ISO/IEC 17043).
 * Up to 1 in size they agree within their stated 95 % uncertainties.
 * @throws OutOfRange when neither states an uncertainty
 * @example normalisedError({ value: 8.1, uncertainty: 0.03 }, { value: 8.2, uncertainty: 0.04 }) // -2
 */
export function normalisedError(a: Measured, b: Measured): number {
  const together = Math.hypot(a.uncertainty, b.uncertainty)
  requireWithin('Uncertainty of the two together', together, 1e-12, 1e12)
  return requireWithin('Difference of the two', a.value - b.value, -1e12, 1e12) / together
}

export interface Agreement {
  agree: boolean
  /** Largest size of En over all pairs. */
  worst: number
  /** Index of the one that is out of line: without it the others agree. null when they agree, or when nobody can tell. */
  odd: number | null
  /** Weighted mean of those that agree; null when nobody can tell. */
  consensus: Measured | null
}

/**
 * Weighted mean with its 95 % half-width, weights 1 / U^2 (JCGM 100; ISO 13528).
 * @example weightedMean([{ value: 8, uncertainty: 0.1 }, { value: 8.2, uncertainty: 0.1 }]) // { value: 8.1, uncertainty: 0.070711 }
 */
export function weightedMean(results: readonly Measured[]): Measured {
  if (results.length === 0) throw new RangeError('A mean needs at least one result.')
  const weights = results.map((r) => 1 / requireWithin('Uncertainty', r.uncertainty, 1e-12, 1e12) ** 2)
  const total = weights.reduce((a, b) => a + b, 0)
  return {
    value: results.reduce((sum, r, i) => sum + r.value * (weights[i] as number), 0) / total,
    uncertainty: 1 / Math.sqrt(total),
  }
}

/**
 * Do sensors and meters in the same water agree, and if not, which one is out of line?
 * Two that differ cannot tell between themselves; of three or more the one is odd whose absence makes the others agree.
 * @example compareResults([{ value: 8, uncertainty: 0.05 }, { value: 8.02, uncertainty: 0.05 }, { value: 8.5, uncertainty: 0.05 }]).odd // 2
 */
export function compareResults(results: readonly Measured[]): Agreement {
  if (results.length < 2) throw new RangeError('Agreement needs at least two results.')
  const worst = worstPair(results)
  if (worst <= 1) return { agree: true, worst, odd: null, consensus: weightedMean(results) }
  const without = (i: number) => results.filter((_, j) => j !== i)
  const candidates = results.length < 3 ? [] : results.map((_, i) => i).filter((i) => worstPair(without(i)) <= 1)
  // When leaving out either of two would do, nobody can tell which.
  const [odd] = candidates
  if (odd === undefined || candidates.length > 1) return { agree: false, worst, odd: null, consensus: null }
  return { agree: false, worst, odd, consensus: weightedMean(without(odd)) }
}

function worstPair(results: readonly Measured[]): number {
  let worst = 0
  results.forEach((a, i) => {
    for (const b of results.slice(i + 1)) worst = Math.max(worst, Math.abs(normalisedError(a, b)))
  })
  return worst
}
