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
/** What stands still may move by so much of its last digit unseen. This and the next two: set by simulation, docs/decisions/001. */
const UNSEEN = 0.5
/** People look when the fall is over: farther than so many wanted half-widths from its end a still display seldom is. */
const FARTHEST = 3
/** A creep shows once it would have changed the number by so many digits: both are rounded, and a tail may hide one. */
const SHOWS = 2

/** What a display and its sensor are like; all in the unit of the display. */
export interface Display {
  /** What one step of the last digit is worth, above 0. */
  digit: number
  /** The half-width that is wanted. */
  resolution: number
  /** Creep that does no harm, units per second, above 0. */
  harmless: number
  /** What still moves goes on for about as long as people wait by the clock, s; 0 where nothing was changed. */
  goesOn: number
}

/**
 * What numbers typed off a display tell of its stillness. Two of them at least 15 s apart that are the same are enough
 * to know it, or one that stood still by the operator's own watch; one digit apart they are after 30 s. How well it is
 * known is what that stillness tells: a display that moves by less than half a digit in 15 s may have some way to go.
 * That it rests is known of two that are so far apart that a creep that matters would have changed the digits. Nothing
 * is said of the sensor's pace: it is the pace of a person that is seen.
 * @param typed oldest first, in the unit of the display
 * @param now seconds on the clock of the samples
 * @returns null before the first number
 * @example typedOpinion([{ t: 0, value: 7.11, still: false }, { t: 16, value: 7.11, still: false }], { digit: 0.01, resolution: 0.03, harmless: 1.7e-4, goesOn: 120 }, 16)?.state // 'known'
 */
export function typedOpinion(typed: readonly TypedSample[], display: Display, now: number): StabilityOpinion | null {
  const [first, last] = [typed[0], typed.at(-1)]
  if (!first || !last) return null
  const { digit, harmless } = display
  const agreeing = agreeingWith(typed, digit)
  const apart = agreeing.filter(({ seconds }) => seconds >= TYPED_APART)
  const stills = last.still ? [...apart, OWN_WATCH] : apart
  const [stillest] = stills.sort((a, b) => paceIn(a, digit) - paceIn(b, digit))
  const slowest = paceIn(OWN_WATCH, digit)
  const known = stillest !== undefined && paceIn(stillest, digit) <= slowest * (1 + ROUNDING)
  const rests = agreeing.some(({ seconds, spread }) => spread + SHOWS * digit <= harmless * seconds * (1 + ROUNDING))
  // The newest number that is old enough to be held against the last one.
  const before = typed.findLast((s) => last.t - s.t >= TYPED_APART)
  const moved = before ? Math.abs(last.value - before.value) : 0
  const wait = Math.max(0, nextAfter(agreeing[0], slowest) - (now - last.t))
  return {
    state: known && rests ? 'stable' : known ? 'known' : 'settling',
    reason: last.still ? 'own-watch' : known ? 'typed-agree' : before ? 'typed-apart' : 'typed-once',
    elapsed: last.t - first.t,
    driftPerMinute: before && last.t > before.t ? (60 * (last.value - before.value)) / (last.t - before.t) : 0,
    noise: 0,
    predictedEnd: last.value,
    predictedEndUncertainty: stillest ? widthOf(stillest, display) : Math.hypot(digit / 2, Math.max(moved, digit)),
    predictedTemperature: null,
    secondsToGo: known ? 0 : wait,
    confidence: known ? 95 : 50,
    nextReadingIn: known ? 0 : wait,
  }
}

/**
 * The half-width of the 95 % interval of a number that stood still by somebody's own watch, in the unit of the display:
 * what the last digit hides, and what may still have been to come.
 * @example stillWidth({ digit: 0.01, resolution: 0.03, goesOn: 120 }) // 0.04
 */
export const stillWidth = (display: Omit<Display, 'harmless'>): number => widthOf(OWN_WATCH, display)

function widthOf(stretch: Stretch, { digit, resolution, goesOn }: Omit<Display, 'harmless'>): number {
  const left = Math.min(FARTHEST * resolution, paceIn(stretch, digit) * goesOn)
  return Math.hypot(digit / 2, Math.max(movedIn(stretch, digit), left))
}

const movedIn = ({ spread }: Stretch, digit: number): number => Math.max(spread, UNSEEN * digit)
const paceIn = (stretch: Stretch, digit: number): number => movedIn(stretch, digit) / stretch.seconds

/** Numbers up to the last, and how far they were apart. */
interface Stretch {
  seconds: number
  spread: number
}

const OWN_WATCH: Stretch = { seconds: TYPED_APART, spread: 0 }

/** The stretches before the last number in which all agree with each other to a digit, longest first. */
function agreeingWith(typed: readonly TypedSample[], digit: number): Stretch[] {
  const last = typed.at(-1) as TypedSample
  const stretches: Stretch[] = []
  let [low, high] = [last.value, last.value]
  for (const { t, value } of typed.slice(0, -1).reverse()) {
    ;[low, high] = [Math.min(low, value), Math.max(high, value)]
    if (high - low > digit * (1 + ROUNDING)) break
    stretches.unshift({ seconds: last.t - t, spread: high - low })
  }
  return stretches
}

/** So long after the last number the same one would be enough, s. */
const nextAfter = (longest: Stretch | undefined, slowest: number): number =>
  longest && longest.spread > 0
    ? Math.min(TYPED_APART, Math.max(0, longest.spread / slowest - longest.seconds))
    : TYPED_APART
