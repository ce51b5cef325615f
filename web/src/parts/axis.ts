/** The round step that gives about three to six ticks. */
function roundStep([low, high]: [number, number]): number {
  const raw = (high - low) / 5
  const decade = 10 ** Math.floor(Math.log10(raw))
  return ([1, 2, 5, 10].find((m) => m * decade >= raw) ?? 10) * decade
}

/** Decimals that the labels of such an axis need. */
export const stepDecimals = (domain: [number, number]) => Math.max(0, -Math.floor(Math.log10(roundStep(domain)) + 1e-9))

/** Ticks at round values within the domain. */
export function evenTicks(domain: [number, number]): number[] {
  const step = roundStep(domain)
  const first = Math.ceil(domain[0] / step)
  const last = Math.floor(domain[1] / step)
  return Array.from({ length: last - first + 1 }, (_, i) => (first + i) * step)
}
