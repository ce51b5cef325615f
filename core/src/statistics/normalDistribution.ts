/**
 * Standard normal distribution function.
 * Complementary error function by the rational Chebyshev fit of W. J. Cody's kind as given in
 * Press et al., Numerical Recipes, section 6.2 ("erfcc"): relative error below 1.2e-7 everywhere.
 * @example normalCdf(1.96) // 0.975
 */
export function normalCdf(z: number): number {
  const x = Math.abs(z) / Math.SQRT2
  const t = 1 / (1 + 0.5 * x)
  const poly =
    -x * x -
    1.26551223 +
    t *
      (1.00002368 +
        t *
          (0.37409196 +
            t *
              (0.09678418 +
                t *
                  (-0.18628806 +
                    t * (0.27886807 + t * (-1.13520398 + t * (1.48851587 + t * (-0.82215223 + t * 0.17087277))))))))
  const erfc = t * Math.exp(poly)
  return z >= 0 ? 1 - erfc / 2 : erfc / 2
}

/** Half-width of the central 95 % of a normal distribution, in standard deviations. */
export const Z95 = 1.959964
