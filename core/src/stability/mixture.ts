import { normalCdf } from '../statistics/normalDistribution.ts'

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
export function probabilityWithin(parts: readonly WeightedNormal[], centre: number, half: number): number {
  let mass = 0
  for (const p of parts) {
    const sd = Math.max(p.sd, 1e-12)
    mass += p.weight * (normalCdf((centre + half - p.mean) / sd) - normalCdf((centre - half - p.mean) / sd))
  }
  return mass
}

/** Half-width around `centre` that holds 95 % of a mixture of normals, by bisection to 1 %. */
export function halfWidth95(parts: readonly WeightedNormal[], centre: number): number {
  let high = 0
  for (const p of parts) if (p.weight > 1e-4) high = Math.max(high, Math.abs(p.mean - centre) + 2.5 * p.sd)
  let low = 0
  for (let i = 0; i < 40 && high - low > 0.01 * high; i++) {
    const middle = (low + high) / 2
    if (probabilityWithin(parts, centre, middle) < 0.95) low = middle
    else high = middle
  }
  return high
}
