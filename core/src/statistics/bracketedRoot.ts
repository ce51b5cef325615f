/**
 * Root of a continuous function between two points where it differs in sign: bisection sped up by the secant
 * (the Illinois form of regula falsi; Dowell and Jarratt, BIT 11 (1971) 168).
 * @param tolerance in x
 * @throws RangeError when there is no change of sign between low and high
 * @example bracketedRoot((x) => x * x - 2, 0, 2, 1e-9) // 1.4142
 */
export function bracketedRoot(f: (x: number) => number, low: number, high: number, tolerance: number): number {
  let a = low
  let b = high
  let fa = f(a)
  let fb = f(b)
  if (fa === 0) return a
  if (fb === 0) return b
  if (!(fa * fb < 0)) throw new RangeError('No root lies between the two ends.')
  for (let i = 0; i < 200; i++) {
    const x = (a * fb - b * fa) / (fb - fa)
    const fx = f(x)
    if (fx === 0 || Math.abs(b - a) < tolerance || Math.abs(x - b) < tolerance / 2) return x
    if (fx * fb < 0) {
      a = b
      fa = fb
    } else fa /= 2
    b = x
    fb = fx
  }
  return b
}
