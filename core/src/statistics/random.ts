/** A seeded stream of random numbers: the same seed gives the same stream on every platform. */
export interface RandomStream {
  /** Uniform in [0, 1). */
  uniform(): number
  /** Normal with mean 0 and standard deviation 1. */
  normal(): number
  /** Uniform in [low, high). */
  between(low: number, high: number): number
  /** A new stream that does not disturb this one. */
  fork(): RandomStream
}

/**
 * Mulberry32 generator (32-bit state; public domain, T. Ettinger) with Box-Muller normals.
 * Good enough to play electrodes with, not for secrets.
 * @example randomStream(7).uniform() // 0.011705
 */
export function randomStream(seed: number): RandomStream {
  let state = seed >>> 0
  let spare: number | null = null
  const uniform = () => {
    state = (state + 0x6d2b79f5) >>> 0
    let t = state
    t = Math.imul(t ^ (t >>> 15), t | 1)
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61)
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296
  }
  const normal = () => {
    if (spare !== null) {
      const kept = spare
      spare = null
      return kept
    }
    const radius = Math.sqrt(-2 * Math.log(1 - uniform()))
    const angle = 2 * Math.PI * uniform()
    spare = radius * Math.sin(angle)
    return radius * Math.cos(angle)
  }
  return {
    uniform,
    normal,
    between: (low, high) => low + (high - low) * uniform(),
    fork: () => randomStream(Math.floor(uniform() * 4294967296)),
  }
}
