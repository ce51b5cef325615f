import type { StabilityOpinion } from './opinion.ts'

/** A number as the operator read it off a display. */
export interface TypedSample {
  /** Seconds on any clock that does not jump. */
  t: number
  value: number
  /** Said to have stood still, by the operator's own watch. */
  still: boolean
}

/** So far apart two numbers tell whether a display stands still, s (common practice, no source). */
export const TYPED_APART = 15

/** A share of a digit that rounding may add to the difference of two numbers. */
const ROUNDING = 1e-6

/**
 * What numbers typed off a display tell of its stillness. Two of them at least 15 s apart that differ by at most one last
 * digit are enough to know it, or one that stood still by the operator's own watch. That it rests is known of two that
 * are so far apart that a creep that matters would have changed the digits. Nothing is said of the sensor's pace: it is
 * the pace of a person that is seen.
 * @param typed oldest first, in the unit of the display
 * @param digit what one step of the display's last digit is worth, same unit, above 0
 * @param harmless creep that does no harm, units per second, above 0
 * @param now seconds on the clock of the samples
 * @returns null before the first number
 * @example typedOpinion([{ t: 0, value: 7.11, still: false }, { t: 16, value: 7.11, still: false }], 0.01, 1.7e-4, 16)?.state // 'known'
 */
export function typedOpinion(
  typed: readonly TypedSample[],
  digit: number,
  harmless: number,
  now: number,
): StabilityOpinion | null {
  const [first, last] = [typed[0], typed.at(-1)]
  if (!first || !last) return null
  // The newest number that is old enough to be held against the last one.
  const before = typed.findLast((s) => last.t - s.t >= TYPED_APART)
  const moved = before ? Math.abs(last.value - before.value) : null
  const agree = moved !== null && moved <= digit * (1 + ROUNDING)
  const known = last.still || agree
  // Both numbers were rounded, by half a digit each.
  const moving = typed.findLastIndex((s) => Math.abs(last.value - s.value) > digit * (1 + ROUNDING))
  const rests = typed.slice(moving + 1).some((s) => Math.abs(last.value - s.value) + digit <= harmless * (last.t - s.t))
  const wait = Math.max(0, TYPED_APART - (now - last.t))
  // What moves by less than its last digit is not seen to move.
  const stillness = last.still ? digit : Math.max(moved ?? digit, digit / 2)
  return {
    state: known && rests ? 'stable' : known ? 'known' : 'settling',
    reason: last.still ? 'own-watch' : agree ? 'typed-agree' : moved === null ? 'typed-once' : 'typed-apart',
    elapsed: last.t - first.t,
    driftPerMinute: before && last.t > before.t ? (60 * (last.value - before.value)) / (last.t - before.t) : 0,
    noise: 0,
    predictedEnd: last.value,
    predictedEndUncertainty: Math.hypot(digit / 2, stillness),
    predictedTemperature: null,
    secondsToGo: known ? 0 : wait,
    confidence: known ? 95 : 50,
    nextReadingIn: known ? 0 : wait,
  }
}
