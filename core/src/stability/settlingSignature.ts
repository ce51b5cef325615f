import type { StabilityPreset } from './presets.ts'
import type { TailShape } from './relaxation.ts'

/** How one trace settled: the share of its jump still to go at each of SIGNATURE_TIMES. */
export interface SettlingSignature {
  shares: number[]
  /** Size of the jump, units of the reading, signed. */
  jump: number
  /** Whether it was known to come to rest; older records do not say. */
  rested?: boolean
}

/** Seconds after the change of solution at which a signature is kept: four to the octave, 2 s to 512 s. */
export const SIGNATURE_TIMES: readonly number[] = Array.from({ length: 33 }, (_, i) => 2 * 2 ** (i / 4))

/** How an electrode used to settle. */
export interface OwnTail {
  tail: TailShape
  /** How far single visits were from it `t` seconds after the change of solution, units of the reading. */
  strayAt: TailShape
  /** Whether it was seen to come to rest often enough to say so. */
  rested: boolean
}

/** Fewer visits than this show no habit. */
const LEAST = 2
const NEWEST = 6

/**
 * The usual tail of an electrode, from its last visits (the newest six): the mean share still to go,
 * straight between the kept times on a logarithmic clock. null for fewer than two usable traces.
 */
export function ownTail(past: readonly SettlingSignature[], preset: StabilityPreset): OwnTail | null {
  const usable = past
    .filter((s) => s.shares.length === SIGNATURE_TIMES.length && Math.abs(s.jump) > 10 * preset.resolution)
    .slice(-NEWEST)
  if (usable.length < LEAST) return null
  const mean = SIGNATURE_TIMES.map(
    (_, i) => usable.reduce((sum, s) => sum + (s.shares[i] as number), 0) / usable.length,
  )
  const stray = mean.map((share, i) => {
    const off = usable.reduce((sum, s) => sum + (((s.shares[i] as number) - share) * s.jump) ** 2, 0)
    return Math.sqrt(off / (usable.length - 1))
  })
  return {
    tail: onLogClock(mean),
    strayAt: onLogClock(stray),
    rested: usable.filter((s) => s.rested).length >= LEAST,
  }
}

/** Straight between SIGNATURE_TIMES on a logarithmic clock, level before them, and falling as 1/√t behind them. */
function onLogClock(values: readonly number[]): TailShape {
  const last = values.length - 1
  return (t) => {
    const place = 4 * Math.log2(Math.max(t, 2) / 2)
    if (place >= last) return (values[last] as number) * 2 ** -((place - last) / 2)
    const below = Math.floor(place)
    const low = values[below] as number
    return low + ((values[below + 1] as number) - low) * (place - below)
  }
}
