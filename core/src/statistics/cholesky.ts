/** Cholesky's factor of a symmetric positive definite matrix, A = L Lᵀ. */
export interface CholeskyFactor {
  /** Natural logarithm of the determinant of A. */
  logDeterminant: number
  /** x of L x = b: uncorrelated, with unit variance, where A is the covariance of b. */
  whitened: (b: Float64Array) => Float64Array
  /** x of A x = b. */
  solved: (b: Float64Array) => Float64Array
}

/**
 * @throws RangeError when A is not positive definite
 * @example choleskyFactor([[4, 0], [0, 9]]).whitened(Float64Array.of(2, 3)) // [1, 1]
 */
export function choleskyFactor(a: readonly (readonly number[])[]): CholeskyFactor {
  const n = a.length
  const l = Array.from({ length: n }, () => new Float64Array(n))
  let logDeterminant = 0
  for (let i = 0; i < n; i++) {
    const row = l[i] as Float64Array
    for (let j = 0; j <= i; j++) {
      const other = l[j] as Float64Array
      let sum = (a[i] as readonly number[])[j] as number
      for (let k = 0; k < j; k++) sum -= (row[k] as number) * (other[k] as number)
      if (i === j) {
        if (!(sum > 0)) throw new RangeError('The equations have no single solution.')
        row[i] = Math.sqrt(sum)
        logDeterminant += Math.log(sum)
      } else row[j] = sum / (other[j] as number)
    }
  }
  const whitened = (b: Float64Array): Float64Array => {
    const y = new Float64Array(n)
    for (let i = 0; i < n; i++) {
      const row = l[i] as Float64Array
      let sum = b[i] as number
      for (let k = 0; k < i; k++) sum -= (row[k] as number) * (y[k] as number)
      y[i] = sum / (row[i] as number)
    }
    return y
  }
  const solved = (b: Float64Array): Float64Array => {
    const y = whitened(b)
    for (let i = n - 1; i >= 0; i--) {
      let sum = y[i] as number
      for (let k = i + 1; k < n; k++) sum -= ((l[k] as Float64Array)[i] as number) * (y[k] as number)
      y[i] = sum / ((l[i] as Float64Array)[i] as number)
    }
    return y
  }
  return { logDeterminant, whitened, solved }
}

/**
 * Sum of the products of two lists of the same length.
 * @example dot(Float64Array.of(1, 2), Float64Array.of(3, 4)) // 11
 */
export function dot(a: Float64Array, b: Float64Array): number {
  let sum = 0
  for (let i = 0; i < a.length; i++) sum += (a[i] as number) * (b[i] as number)
  return sum
}
