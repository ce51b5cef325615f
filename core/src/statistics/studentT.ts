import { requireWithin } from '../quantities/outOfRange.ts'
import { bracketedRoot } from './bracketedRoot.ts'

/** Lanczos coefficients for g = 7, n = 9 (P. Godfrey's set, as commonly printed; from memory): good to 1e-13. */
const LANCZOS = [
  0.99999999999980993, 676.5203681218851, -1259.1392167224028, 771.32342877765313, -176.61502916214059,
  12.507343278686905, -0.13857109526572012, 9.9843695780195716e-6, 1.5056327351493116e-7,
]

/** Natural logarithm of the gamma function. @throws OutOfRange unless z > 0 */
export function logGamma(z: number): number {
  requireWithin('Argument of ln gamma', z, Number.MIN_VALUE, 1e15)
  if (z < 0.5) return Math.log(Math.PI / Math.sin(Math.PI * z)) - logGamma(1 - z)
  const x = z - 1
  const t = x + 7.5
  const sum = LANCZOS.slice(1).reduce((s, c, i) => s + c / (x + i + 1), LANCZOS[0] as number)
  return 0.5 * Math.log(2 * Math.PI) + (x + 0.5) * Math.log(t) - t + Math.log(sum)
}

/**
 * Regularised incomplete beta function I_x(a, b) by Lentz's continued fraction (Press et al., Numerical Recipes,
 * section 6.4). @throws OutOfRange for x outside 0 to 1
 */
export function incompleteBeta(x: number, a: number, b: number): number {
  requireWithin('Argument of the incomplete beta function', x, 0, 1)
  if (x === 0 || x === 1) return x
  const front = Math.exp(logGamma(a + b) - logGamma(a) - logGamma(b) + a * Math.log(x) + b * Math.log(1 - x))
  return x < (a + 1) / (a + b + 2) ? (front * fraction(x, a, b)) / a : 1 - (front * fraction(1 - x, b, a)) / b
}

const TINY = 1e-300

function fraction(x: number, a: number, b: number): number {
  const away = (v: number) => (Math.abs(v) < TINY ? TINY : v)
  let c = 1
  let d = 1 / away(1 - ((a + b) * x) / (a + 1))
  let h = d
  for (let m = 1; m <= 300; m++) {
    const even = (m * (b - m) * x) / ((a + 2 * m - 1) * (a + 2 * m))
    d = 1 / away(1 + even * d)
    c = away(1 + even / c)
    h *= d * c
    const odd = (-(a + m) * (a + b + m) * x) / ((a + 2 * m) * (a + 2 * m + 1))
    d = 1 / away(1 + odd * d)
    c = away(1 + odd / c)
    const change = d * c
    h *= change
    if (Math.abs(change - 1) < 1e-14) break
  }
  return h
}

/** Distribution function of Student's t with `freedom` degrees of freedom. */
export function studentTCdf(t: number, freedom: number): number {
  requireWithin('Degrees of freedom', freedom, 0.5, 1e9)
  const tail = 0.5 * incompleteBeta(freedom / (freedom + t * t), freedom / 2, 0.5)
  return t > 0 ? 1 - tail : tail
}

/** The t that is not exceeded with probability p. @throws OutOfRange for p outside 1e-6 to 1 - 1e-6 */
export function studentTQuantile(p: number, freedom: number): number {
  requireWithin('Probability', p, 1e-6, 1 - 1e-6)
  let reach = 10
  while (studentTCdf(reach, freedom) < Math.max(p, 1 - p)) reach *= 10
  return bracketedRoot((t) => studentTCdf(t, freedom) - p, -reach, reach, 1e-12)
}
