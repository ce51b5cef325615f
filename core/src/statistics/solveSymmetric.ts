import { choleskyFactor } from './cholesky.ts'

/**
 * Solves A x = b for a symmetric positive definite A by Cholesky's factors, with the inverse of A.
 * @throws RangeError when A is not positive definite
 * @example solveSymmetric([[4, 0], [0, 2]], [8, 2]) // { x: [2, 1], covariance: [[0.25, 0], [0, 0.5]] }
 */
export function solveSymmetric(
  a: readonly (readonly number[])[],
  b: readonly number[],
): { x: number[]; covariance: number[][] } {
  const { solved } = choleskyFactor(a)
  const unit = (j: number) => Float64Array.from(b, (_, i) => (i === j ? 1 : 0))
  return { x: [...solved(Float64Array.from(b))], covariance: b.map((_, j) => [...solved(unit(j))]) }
}
