import type { OrdinaryHour } from '../readings/bins.ts'
import type { AlarmLimits } from './alarmLimits.ts'

/** How long something has to last to be told: longer than a hand in the water, s (common practice, no source). */
const USUAL_DELAY_SECONDS = 300
/** Share of the width between low and high that it has to come back (common practice, no source). */
const BACK_SHARE = 0.05
/** How much wider than the ordinary days: as much again on each side for what wants a look, twice for what can kill. */
const BEYOND = { look: 0.5, kill: 1 } as const

/** Limits about a value that is right now: so far that its tolerance alone raises nothing. */
export function limitsAround(
  now: number,
  tolerance: number,
  decimals: number,
  range: { low: number; high: number },
): AlarmLimits {
  return between(now - 2 * tolerance, now + 2 * tolerance, { step: tolerance, decimals, range })
}

/** Limits that the ordinary days lie well within; null where there are no ordinary days yet. */
export function limitsOfDays(
  ordinary: readonly OrdinaryHour[],
  tolerance: number,
  decimals: number,
  range: { low: number; high: number },
): AlarmLimits | null {
  if (ordinary.length === 0) return null
  const low = Math.min(...ordinary.map((o) => o.low))
  const high = Math.max(...ordinary.map((o) => o.high))
  const margin = Math.max(tolerance, BEYOND.look * (high - low))
  return between(low - margin, high + margin, {
    step: Math.max(tolerance, BEYOND.kill * (high - low)),
    decimals,
    range,
  })
}

function between(
  low: number,
  high: number,
  { step, decimals, range }: { step: number; decimals: number; range: { low: number; high: number } },
): AlarmLimits {
  const tidy = (value: number) => Number(value.toFixed(decimals))
  const inside = (value: number) => (value > range.low && value < range.high ? tidy(value) : undefined)
  const limits = { lowLow: inside(low - step), low: inside(low), high: inside(high), highHigh: inside(high + step) }
  return {
    ...limits,
    hysteresis: Math.max(10 ** -decimals, tidy(BACK_SHARE * (high - low))),
    delaySeconds: USUAL_DELAY_SECONDS,
  }
}
