import type { DriftFilter } from './driftFilter.ts'
import type { DriftHypothesis } from './hypothesis.ts'

/** Weight of the general prior, in sensors: so many of the site's own speak as loudly as it does. */
const GENERAL_WEIGHT = 3
/**
 * A visit counts as this share of one when courses are weighed. No course is quite true, and where all are wrong in the same
 * way, visits agree with each other more than they should (P. Gruenwald, Proc. ALT 2012, 169; P. G. Bissiri, C. C. Holmes and S. G.
 * Walker, J. R. Stat. Soc. B 78 (2016) 1103).
 */
const COUNTS = 0.5
const ROUNDS = 25

/**
 * What share of the like sensors of a site each hypothesis holds for, as far as their visits tell: expectation and
 * maximisation on the shares, with the general prior as if it were a few more sensors (empirical Bayes; B. Efron,
 * Large-Scale Inference, 2010, ch. 1). One prior a sensor, each without the sensor's own voice, so that nothing is
 * counted twice. With no visits at all it is the general prior.
 */
export function sitePriors(hypotheses: readonly DriftHypothesis[], filters: readonly DriftFilter[]): Float64Array[] {
  const n = hypotheses.length
  const general = Float64Array.from(hypotheses, (h) => h.prior)
  const likelihoods = filters.map(likelihoodsOf)
  const seen = filters.map((f) => f.intervals > 0)
  const voices = filters.map(() => new Float64Array(n))
  const shares = Float64Array.from(general)
  const sum = new Float64Array(n)
  for (let round = 0; round < ROUNDS; round++) {
    for (let i = 0; i < n; i++) sum[i] = GENERAL_WEIGHT * (general[i] as number)
    for (let s = 0; s < filters.length; s++) {
      if (!seen[s]) continue
      const likely = likelihoods[s] as Float64Array
      const voice = voices[s] as Float64Array
      let total = 0
      for (let i = 0; i < n; i++) total += (shares[i] as number) * (likely[i] as number)
      const scale = 1 / total
      for (let i = 0; i < n; i++) {
        const part = scale * (shares[i] as number) * (likely[i] as number)
        voice[i] = part
        sum[i] = (sum[i] as number) + part
      }
    }
    const all = GENERAL_WEIGHT + seen.filter(Boolean).length
    for (let i = 0; i < n; i++) shares[i] = (sum[i] as number) / all
  }
  return voices.map((voice) => {
    const own = voice.reduce((a, b) => a + b, 0)
    const others = sum.reduce((a, b) => a + b, 0) - own
    return sum.map((v, i) => Math.max(v - (voice[i] as number), 0) / others)
  })
}

/** Probability of each hypothesis for one sensor. */
export function hypothesisWeights(filter: DriftFilter, prior: ArrayLike<number>): Float64Array {
  const weights = likelihoodsOf(filter).map((l, i) => (prior[i] as number) * l)
  const total = weights.reduce((a, b) => a + b, 0)
  return weights.map((w) => w / total)
}

/** Of each hypothesis after the visits so far, as a share of the greatest. */
function likelihoodsOf({ logLikelihoods }: DriftFilter): Float64Array {
  const top = Math.max(...logLikelihoods)
  return logLikelihoods.map((l) => Math.exp(COUNTS * (l - top)))
}
