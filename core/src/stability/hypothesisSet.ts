import { normalCdf } from '../statistics/normalDistribution.ts'
import { halfWidth95, mixtureMean, type WeightedNormal } from './mixture.ts'
import { type Prediction, partExponentials, RelaxationFilter, type RelaxationHypothesis } from './relaxation.ts'

/** Belief that may be dropped at each bin, of each kind of hypothesis. */
const DROPPED_BELIEF = 1e-3

/** What all hypotheses together hold of the end. */
export interface EndBelief {
  end: number
  /** Half-width of the 95 % interval around `end`, if the reading comes to rest. */
  halfWidth: number
  /** Probability that it does not, and moves on faster than asked; no less than any electrode's where its past does not tell. */
  creepRisk: number
  /** Probability that it does not, however slowly. */
  creeps: number
}

/** What those that creep hold: where the reading would be now without its tail, and how fast it goes on. */
export interface CreepBelief {
  level: number
  /** Half-width of its 95 % interval. */
  halfWidth: number
  /** Units of the reading per second, and the bound on its size that holds in 95 %. */
  pace: number
  fastest: number
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
  advance(t: number, seconds: number, endVariance: number): void {
    const exponentials = partExponentials(t)
    this.known = null
    for (const filter of this.filters) filter.advance(t, exponentials, seconds, endVariance)
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

  /**
   * Drops what holds less than a thousandth of the belief, so that a long trace costs little: of those that rest and of
   * those that creep apart, and of its own and of any electrode's, for no question may lose the last who could answer it.
   */
  prune(): void {
    const weights = this.weights()
    const kept = new Set<number>()
    const all = this.filters.map(({ rests, open }, i) => ({ i, w: weights[i] as number, kind: `${rests} ${open}` }))
    for (const name of new Set(all.map((f) => f.kind))) {
      const kind = all.filter((f) => f.kind === name)
      const total = kind.reduce((sum, { w }) => sum + w, 0)
      let left = total
      for (const [place, { i, w }] of kind.sort((a, b) => b.w - a.w).entries()) {
        if (place > 0 && left < DROPPED_BELIEF * total) break
        kept.add(i)
        left -= w
      }
    }
    if (kept.size === this.filters.length) return
    this.known = null
    this.filters = this.filters.filter((_, i) => kept.has(i))
  }

  /** What all together expect still to come `t` seconds after the change of solution, reading minus end. */
  remaining(t: number): number {
    const exponentials = partExponentials(t)
    const weights = this.weights()
    return this.filters.reduce((sum, f, i) => sum + (weights[i] as number) * f.remaining(t, exponentials), 0)
  }

  /**
   * @param t seconds after the change of solution
   * @param displayVariance by which the last digit hides the end
   * @param creepRate what counts as creeping, units of the reading per second
   * @param interest half-width from which on the exact figure matters
   */
  believe(t: number, displayVariance: number, creepRate: number, interest: number): EndBelief {
    const weights = this.weights()
    const risk = { all: 0, open: 0 }
    let open = 0
    let creeps = 0
    const ends: WeightedNormal[] = []
    for (const [i, filter] of this.filters.entries()) {
      const weight = weights[i] as number
      if (filter.open) open += weight
      if (filter.rests) {
        const { end, variance } = filter.end()
        ends.push({ weight, mean: end, sd: Math.sqrt(variance + displayVariance) })
      } else {
        const { pace, paceSd } = filter.creep(t)
        creeps += weight
        const chance = weight * (normalCdf((pace - creepRate) / paceSd) + normalCdf((-pace - creepRate) / paceSd))
        risk.all += chance
        if (filter.open) risk.open += chance
      }
    }
    const rest = ofOne(ends)
    const end = mixtureMean(rest)
    // Who was never seen to come to rest is not known to do so.
    const untold = this.filters.some((f) => f.hypothesis.own?.rested === false)
    const creepRisk = untold && open > 0 ? Math.max(risk.all, risk.open / open) : risk.all
    return { end, halfWidth: halfWidth95(rest, end, interest), creepRisk, creeps }
  }

  /** What is held if it does creep; arguments as of believe(). */
  creep(t: number, displayVariance: number, interest: number): CreepBelief {
    const weights = this.weights()
    const views = this.filters.flatMap((f, i) => (f.rests ? [] : [{ weight: weights[i] as number, ...f.creep(t) }]))
    const levels = ofOne(
      views.map((v) => ({ weight: v.weight, mean: v.level, sd: Math.hypot(v.levelSd, Math.sqrt(displayVariance)) })),
    )
    const paces = ofOne(views.map((v) => ({ weight: v.weight, mean: v.pace, sd: v.paceSd })))
    const level = mixtureMean(levels)
    const pace = mixtureMean(paces)
    return {
      level,
      halfWidth: halfWidth95(levels, level, interest),
      pace,
      fastest: Math.abs(pace) + halfWidth95(paces, pace, Number.POSITIVE_INFINITY),
    }
  }

  private weights(): number[] {
    this.known ??= this.weigh()
    return this.known
  }

  private weigh(): number[] {
    const best = Math.max(...this.filters.map((f) => f.logWeight))
    const raw = this.filters.map((f) => Math.exp(f.logWeight - best))
    const total = raw.reduce((a, b) => a + b, 0)
    return raw.map((w) => w / total)
  }
}

/** The same parts with weights that sum to 1; all alike where the belief in them has come to nothing. */
function ofOne(parts: readonly WeightedNormal[]): WeightedNormal[] {
  const total = parts.reduce((sum, p) => sum + p.weight, 0)
  return parts.map((p) => ({ ...p, weight: total > 0 ? p.weight / total : 1 / parts.length }))
}
