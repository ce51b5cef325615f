/**
 * Solves A x = b for a symmetric positive definite A by Cholesky's factors, with the inverse of A.
 * @throws RangeError when A is not positive definite
 * @example solveSymmetric([[4, 0], [0, 2]], [8, 2]) // { x: [2, 1], covariance: [[0.25, 0], [0, 0.5]] }
 */
export function solveSymmetric(
  a: readonly (readonly number[])[],
  b: readonly number[],
): { x: number[]; covariance: number[][] } {
  const n = b.length
  const l = Array.from({ length: n }, () => new Array<number>(n).fill(0))
  for (let i = 0; i < n; i++) {
    for (let j = 0; j <= i; j++) {
      let sum = a[i]?.[j] as number
      for (let k = 0; k < j; k++) sum -= (l[i]?.[k] as number) * (l[j]?.[k] as number)
      if (i === j) {
        if (!(sum > 0)) throw new RangeError('The equations have no single solution.')
        ;(l[i] as number[])[i] = Math.sqrt(sum)
      } else (l[i] as number[])[j] = sum / (l[j]?.[j] as number)
    }
  }
  const solve = (right: readonly number[]): number[] => {
    const y = new Array<number>(n).fill(0)
    for (let i = 0; i < n; i++) {
      let sum = right[i] as number
      for (let k = 0; k < i; k++) sum -= (l[i]?.[k] as number) * (y[k] as number)
      y[i] = sum / (l[i]?.[i] as number)
    }
    for (let i = n - 1; i >= 0; i--) {
      let sum = y[i] as number
      for (let k = i + 1; k < n; k++) sum -= (l[k]?.[i] as number) * (y[k] as number)
      y[i] = sum / (l[i]?.[i] as number)
    }
    return y
  }
  const unit = (j: number) => Array.from({ length: n }, (_, i) => (i === j ? 1 : 0))
  return { x: solve(b), covariance: Array.from({ length: n }, (_, j) => solve(unit(j))) }
}
