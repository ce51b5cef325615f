import { normalCdf } from '../statistics/normalDistribution.ts'
import { halfWidth95, mixtureMean } from './mixture.ts'
import {
  basisExponentials,
  type Prediction,
  RelaxationFilter,
  type RelaxationHypothesis,
  type RestingView,
} from './relaxation.ts'

/** Belief that may be dropped at each bin. */
const DROPPED_BELIEF = 1e-3

/** What all hypotheses together hold of the end. */
export interface EndBelief {
  end: number
  /** Half-width of the 95 % interval around `end`, if the reading comes to rest. */
  halfWidth: number
  /** Probability that it does not, and moves on faster than asked. */
  creepRisk: number
}

/** The hypotheses about one trace, each followed by a filter and weighed by how well it foresaw the readings. */
export class HypothesisSet {
  private filters: RelaxationFilter[]
  private known: number[] | null = null

  constructor(hypotheses: readonly RelaxationHypothesis[], firstValue: number, endSd: number, noiseVariance: number) {
    this.filters = hypotheses.map((h) => new RelaxationFilter(h, firstValue, endSd))
    this.advance(0, 0, 0)
    this.update(
      firstValue,
      this.filters.map((f) => f.predict()),
      noiseVariance,
    )
  }

  /** Lets time pass to `t` seconds after the change of solution. */
  advance(t: number, seconds: number, creepVariance: number): void {
    const exponentials = basisExponentials(t)
    this.known = null
    for (const filter of this.filters) filter.advance(t, exponentials, seconds, creepVariance)
  }

  /** What each hypothesis expects of the next reading, and what all together do. */
  predict(): { each: Prediction[]; mean: number; variance: number } {
    const each = this.filters.map((f) => f.predict())
    const weights = this.weights()
    const mean = each.reduce((sum, p, i) => sum + (weights[i] as number) * p.mean, 0)
    const variance = each.reduce((sum, p, i) => sum + (weights[i] as number) * (p.variance + (p.mean - mean) ** 2), 0)
    return { each, mean, variance }
  }

  /** Takes a reading in, foreseen as `each` of the last predict() says. */
  update(value: number, each: readonly Prediction[], noiseVariance: number): void {
    this.known = null
    for (const [i, filter] of this.filters.entries()) filter.update(value, each[i] as Prediction, noiseVariance)
  }

  /** Drops the hypotheses that together hold less than a thousandth of the belief, so that a long trace costs little. */
  prune(): void {
    const weights = this.weights()
    const order = weights.map((_, i) => i).sort((a, b) => (weights[a] as number) - (weights[b] as number))
    let dropped = 0
    const kept = new Set(order)
    for (const i of order) {
      dropped += weights[i] as number
      if (dropped > DROPPED_BELIEF) break
      kept.delete(i)
    }
    if (kept.size === this.filters.length) return
    this.known = null
    this.filters = this.filters.filter((_, i) => kept.has(i))
  }

  /** What all together expect still to come `t` seconds after the change of solution, reading minus end. */
  remaining(t: number): number {
    const exponentials = basisExponentials(t)
    const weights = this.weights()
    return this.filters.reduce((sum, f, i) => sum + (weights[i] as number) * f.remaining(t, exponentials), 0)
  }

  /**
   * @param displayVariance by which the last digit hides the end
   * @param creepRate what counts as creeping, units of the reading per second
   * @param interest half-width from which on the exact figure matters
   */
  believe(displayVariance: number, creepRate: number, interest: number): EndBelief {
    const weights = this.weights()
    let creepRisk = 0
    const rests = this.filters.map((filter, i) => {
      const view = filter.resting()
      const chance = chances(filter, view)
      const creeps = ((weights[i] as number) * chance.creeps) / (chance.creeps + chance.rests)
      creepRisk +=
        creeps *
        (normalCdf((view.creep - creepRate) / view.creepSd) + normalCdf((-view.creep - creepRate) / view.creepSd))
      return {
        weight: (weights[i] as number) - creeps,
        mean: view.end,
        sd: Math.sqrt(view.variance + displayVariance),
      }
    })
    const total = rests.reduce((sum, r) => sum + r.weight, 0)
    const ends = rests.map((r) => ({ ...r, weight: r.weight / total }))
    const end = mixtureMean(ends)
    return { end, halfWidth: halfWidth95(ends, end, interest), creepRisk }
  }

  private weights(): number[] {
    this.known ??= this.weigh()
    return this.known
  }

  private weigh(): number[] {
    const logs = this.filters.map((f) => {
      const { rests, creeps } = chances(f, f.resting())
      return f.logWeight + Math.log(rests + creeps)
    })
    const best = Math.max(...logs)
    const raw = logs.map((l) => Math.exp(l - best))
    const total = raw.reduce((a, b) => a + b, 0)
    return raw.map((w) => w / total)
  }
}

/** How the belief in one shape splits: the filter follows the creep as open, rest is a point with evidence of its own. */
function chances(filter: RelaxationFilter, view: RestingView): { rests: number; creeps: number } {
  const creeps = filter.hypothesis.creepChance
  return { rests: (1 - creeps) * Math.exp(Math.min(50, view.logEvidence)), creeps }
}
