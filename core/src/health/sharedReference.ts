import { requireWithin } from '../quantities/outOfRange.ts'
import { Z95 } from '../statistics/normalDistribution.ts'
import { solveSymmetric } from '../statistics/solveSymmetric.ts'

/** What one visit found of the electrodes that share a reference: how far each zero moved since the visit before, mV. */
export interface BodyVisit {
  /** Epoch ms or days: any rising measure of time. */
  at: number
  /** Days since the visit before. */
  days: number
  shifts: readonly { electrode: string; shift: number; uncertainty: number }[]
}

interface SeparatedVisit {
  at: number
  /** What all electrodes share, mV: the reference. With its 95 % half-width. */
  common: number
  commonUncertainty: number
  /** What is each one's own, mV. */
  own: { electrode: string; shift: number; uncertainty: number }[]
}

export interface SharedReference {
  visits: SeparatedVisit[]
  /** Own drift of each electrode, mV per day, with its 95 % half-width. */
  rates: { electrode: string; rate: number; uncertainty: number }[]
}

/** An electrode of its own drifts by this much a day, either way, mV (one sigma). Common practice, no source. */
const OWN_RATE_SD = 0.05
/** Its own random walk before anything is known, mV^2 per day, and how many visits that guess counts for. */
const OWN_WALK = 0.01
const GUESS_COUNTS = 2
const ROUNDS = 30

/**
 * Separates the shift that all electrodes of a body have in common, which is their shared reference's, from what is
 * each one's own. For electrode i at visit v: shift = common_v + rate_i days_v + own walk + error of the reading.
 * Least squares over all visits at once, with the electrodes' own rates held near zero by what is usual, and each
 * electrode's own walk estimated from its residuals, so that a restless one weighs less (variance components by
 * expectation and maximisation; S. R. Searle et al., Variance Components, 1992, ch. 8).
 * @param visits of at least two electrodes each; visits with one only tell nothing and are left out
 * @throws OutOfRange for an uncertainty that is not above zero
 */
export function separateSharedReference(visits: readonly BodyVisit[]): SharedReference {
  const used = visits.filter((v) => v.shifts.length >= 2)
  const electrodes = [...new Set(used.flatMap((v) => v.shifts.map((s) => s.electrode)))].sort()
  for (const { shifts } of used) for (const s of shifts) requireWithin('Uncertainty', s.uncertainty, 1e-9, 1e6, 'mV')
  const walks = new Map(electrodes.map((e) => [e, OWN_WALK]))
  let solved = solve(used, electrodes, walks)
  for (let round = 0; round < ROUNDS; round++) {
    for (const [k, electrode] of electrodes.entries()) {
      let sum = GUESS_COUNTS * OWN_WALK
      let count = GUESS_COUNTS
      used.forEach((visit, v) => {
        const s = visit.shifts.find((x) => x.electrode === electrode)
        if (!s) return
        const walk = (walks.get(electrode) as number) * visit.days
        const noise = (s.uncertainty / Z95) ** 2
        const residual = s.shift - (solved.x[v] as number) - (solved.x[used.length + k] as number) * visit.days
        const spread = spreadOf(solved.covariance, v, used.length + k, visit.days)
        // Expected square of the own walk, given what is left over and how well the rest is known.
        const gain = walk / (walk + noise)
        sum += (gain * gain * (residual * residual + spread) + gain * noise) / visit.days
        count++
      })
      walks.set(electrode, sum / count)
    }
    solved = solve(used, electrodes, walks)
  }
  const { x, covariance } = solved
  const half = (i: number) => Z95 * Math.sqrt(Math.max(covariance[i]?.[i] ?? 0, 0))
  return {
    visits: used.map((visit, v) => ({
      at: visit.at,
      common: x[v] as number,
      commonUncertainty: half(v),
      own: visit.shifts.map((s) => ({
        electrode: s.electrode,
        shift: s.shift - (x[v] as number),
        uncertainty: Math.hypot(s.uncertainty, half(v)),
      })),
    })),
    rates: electrodes.map((electrode, k) => ({
      electrode,
      rate: x[used.length + k] as number,
      uncertainty: half(used.length + k),
    })),
  }
}

const spreadOf = (covariance: readonly number[][], v: number, k: number, days: number): number =>
  (covariance[v]?.[v] ?? 0) + days * days * (covariance[k]?.[k] ?? 0) + 2 * days * (covariance[v]?.[k] ?? 0)

function solve(visits: readonly BodyVisit[], electrodes: readonly string[], walks: ReadonlyMap<string, number>) {
  const size = visits.length + electrodes.length
  const normal = Array.from({ length: size }, () => new Array<number>(size).fill(0))
  const right = new Array<number>(size).fill(0)
  const add = (i: number, j: number, value: number) => {
    const row = normal[i] as number[]
    row[j] = (row[j] as number) + value
  }
  visits.forEach((visit, v) => {
    for (const s of visit.shifts) {
      const k = visits.length + electrodes.indexOf(s.electrode)
      const weight = 1 / ((s.uncertainty / Z95) ** 2 + (walks.get(s.electrode) as number) * visit.days)
      add(v, v, weight)
      add(v, k, weight * visit.days)
      add(k, v, weight * visit.days)
      add(k, k, weight * visit.days * visit.days)
      right[v] = (right[v] as number) + weight * s.shift
      right[k] = (right[k] as number) + weight * s.shift * visit.days
    }
  })
  electrodes.forEach((_, k) => {
    add(visits.length + k, visits.length + k, 1 / OWN_RATE_SD ** 2)
  })
  return solveSymmetric(normal, right)
}
