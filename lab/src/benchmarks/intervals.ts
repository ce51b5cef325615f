const Z = 1.96

/** "80.1 ± 2.3 %": a share, and the half-width of its 95 % interval. */
export const withInterval = (share: number, count: number): string =>
  `${(100 * share).toFixed(1)} ± ${(100 * Z * Math.sqrt((share * (1 - share)) / Math.max(1, count))).toFixed(1)} %`
