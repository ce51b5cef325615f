import { normalCdf, Z95 } from '../statistics/normalDistribution.ts'

export interface WeightedNormal {
  weight: number
  mean: number
  sd: number
}

/** Mean of a mixture of normals whose weights sum to 1. */
export function mixtureMean(parts: readonly WeightedNormal[]): number {
  return parts.reduce((sum, p) => sum + p.weight * p.mean, 0)
}

/** Probability that a mixture of normals lies within centre +- half. */
function probabilityWithin(parts: readonly WeightedNormal[], centre: number, half: number): number {
  let mass = 0
  for (const p of parts) {
    const sd = Math.max(p.sd, 1e-12)
    mass += p.weight * (normalCdf((centre + half - p.mean) / sd) - normalCdf((centre - half - p.mean) / sd))
  }
  return mass
}

/** Parts lighter than this do not move a 95 % interval. */
const LIGHT = 1e-3

/**
 * Half-width around `centre` that holds 95 % of a mixture of normals, by bisection to 1 %.
 * Far above `interest` the normal interval of the same spread is answered instead: nobody needs it exactly there.
 */
export function halfWidth95(parts: readonly WeightedNormal[], centre: number, interest: number): number {
  let variance = 0
  for (const p of parts) variance += p.weight * (p.sd * p.sd + (p.mean - centre) ** 2)
  const sd = Math.sqrt(variance)
  if (sd > 4 * interest) return Z95 * sd
  const heavy = parts.filter((p) => p.weight > LIGHT)
  const mass = heavy.reduce((sum, p) => sum + p.weight, 0)
  let low = 0
  let high = 5 * sd
  while (high - low > 0.01 * high) {
    const middle = (low + high) / 2
    if (probabilityWithin(heavy, centre, middle) < 0.95 * mass) low = middle
    else high = middle
  }
  return high
}
