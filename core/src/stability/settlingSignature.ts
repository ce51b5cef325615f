import type { StabilityPreset } from './presets.ts'
import type { TailShape } from './relaxation.ts'

/** How one trace settled: the share of its jump still to go at each of SIGNATURE_TIMES. */
export interface SettlingSignature {
  shares: number[]
  /** Size of the jump, units of the reading, signed. */
  jump: number
}

/** Seconds after the change of solution at which a signature is kept: four to the octave, 2 s to 512 s. */
export const SIGNATURE_TIMES: readonly number[] = Array.from({ length: 33 }, (_, i) => 2 * 2 ** (i / 4))

/**
 * The usual tail of an electrode, from its last visits (the newest six): the mean share still to go,
 * straight between the kept times on a logarithmic clock. null for fewer than two usable traces.
 */
export function historyTail(past: readonly SettlingSignature[], preset: StabilityPreset): TailShape | null {
  const usable = past
    .filter((s) => s.shares.length === SIGNATURE_TIMES.length && Math.abs(s.jump) > 10 * preset.resolution)
    .slice(-6)
  if (usable.length < 2) return null
  const mean = SIGNATURE_TIMES.map(
    (_, i) => usable.reduce((sum, s) => sum + (s.shares[i] as number), 0) / usable.length,
  )
  const last = mean.length - 1
  return (t) => {
    const place = 4 * Math.log2(Math.max(t, 2) / 2)
    if (place >= last) return (mean[last] as number) * 2 ** -((place - last) / 2)
    const below = Math.floor(place)
    const low = mean[below] as number
    return low + ((mean[below + 1] as number) - low) * (place - below)
  }
}
