import { DAY_MS } from '../drift/observation.ts'
import { normalCdf } from '../statistics/normalDistribution.ts'
import { type CourseTraits, courseFit, type Point } from './course.ts'
import type { Fit } from './features.ts'
import type { HealthVisit } from './healthVisit.ts'
import { density, usualOf } from './usual.ts'

/**
 * How well each answer of a feature fits the figures of a sensor: densities of what was seen, given the answer. What is
 * usual is taken from the sensor's own earlier looks where there are any. Widths and sizes are common practice, no source.
 */

/** A look is of now for so many days. */
export const LATELY = 120
/** Those that tell what is usual of a sensor. */
const FIRST_VISITS = 6
/** Expected scatter (sd) of the logarithms of seconds and of noise from visit to visit. */
const SECONDS = 0.3
const NOISE = 0.5
/** Glass loses some hundredths of its slope in a year without anything being wrong. */
const SLOPE: CourseTraits = {
  scatter: 0.004,
  wander: 0.002,
  ageing: 0.002,
  ageingDiffers: 0.002,
  creeps: [0.008, 0.02],
  runs: [],
  jumps: [0.05, 0.4],
  comesAndGoes: 0.05,
}

export const known = <T>(value: T | null | undefined): value is T => value !== null && value !== undefined
export const logOf = (value: number | null): number | null => (known(value) && value > 0 ? Math.log(value) : null)

export interface Looks {
  now: number
  /** The one before it. */
  previous: number | null
  /** Those that tell what is usual: an electrode that grows slow over years is slow, however little from visit to visit. */
  before: number[]
}

/** The newest look at a figure and the early ones; null where there is none of late. */
export function looksAt(visits: readonly HealthVisit[], of: (v: HealthVisit) => number | null): Looks | null {
  const all = visits.flatMap((v) => {
    const value = of(v)
    return known(value) ? [{ at: v.at, value }] : []
  })
  const last = all.at(-1)
  if (!last || (visits.at(-1) as HealthVisit).at - last.at > LATELY * DAY_MS) return null
  const values = all.map((a) => a.value)
  const earlier = values.slice(0, -1)
  return {
    now: last.value,
    previous: earlier.at(-1) ?? null,
    before: earlier.slice(0, Math.min(FIRST_VISITS, Math.max(2, Math.floor(values.length / 2)))),
  }
}

export function slopeFit(slopes: readonly Point[]): Fit<'slopeCourse'> {
  const { steady, creeping, jumped, restless, up } = courseFit(slopes, SLOPE)
  // A slope that rises from visit to visit is none that falls: half of its fit belongs to nothing.
  return { steady, falling: 2 * creeping * (1 - up.creeping), jumped, 'comes and goes': restless }
}

export function slopeLevelFit(slope: number): Fit<'slopeLevel'> {
  return {
    sound: density(slope, 0.983, 0.013),
    ageing: density(slope, 0.928, 0.018),
    low: slope < 0.92 ? density(slope, 0.83, 0.07) : 0,
    none: density(slope, 0.1, 0.22),
    high: slope > 1 ? density(slope, 1.06, 0.05) : 0,
  }
}

/** What one over the cell factor lost or won against the first one. */
export function cellFit({ now, before }: Looks): Fit<'cellReads'> {
  const moved = Math.log(now / (before[0] ?? 1))
  return {
    right: density(moved, 0, 0.014),
    low: moved > 0 ? density(moved, 0.08, 0.05) : 0,
    high: moved < 0 ? density(moved, -0.08, 0.05) : 0,
  }
}

/** What a dry cell reads in air, a share of its usual reading, and how much that scatters (logarithms). */
const DRY = { share: 3e-4, scatter: 0.9 }
/** What one reads that a film of water was left in. */
const WET = { share: 0.02, scatter: 0.9 }
/** Nothing at all has no logarithm. */
const LEAST_IN_AIR = 1e-5

export function airFit(visits: readonly HealthVisit[]): Fit<'airZero'> | null {
  // A zero of nothing is one that nobody looked at.
  const looks = looksAt(visits, (v) => (v.zero ? Math.log(Math.max(LEAST_IN_AIR, Math.abs(v.zero))) : null))
  if (!looks) return null
  const { middle, scatter } = usualOf(looks.before, DRY.scatter)
  const dry = looks.before.length > 0 ? middle : Math.log(DRY.share)
  const wet = density(looks.now, Math.log(WET.share), WET.scatter)
  return { 'near zero': density(Math.max(looks.now, dry), dry, scatter), 'not zero': looks.now > dry ? wet : 0 }
}

export function settlingFit({ now, before }: Looks): Fit<'settling'> {
  const { middle, scatter } = usualOf(before, SECONDS)
  // Quicker than usual is nothing to ask about; slower by an unusual amount is very slow, however much.
  const times = Math.min(Math.max(now - middle, 0), 2.2)
  return {
    usual: density(times, 0.05, scatter),
    slow: density(times, 0.7, Math.hypot(scatter, 0.3)),
    'very slow': density(times, 1.6, Math.hypot(scatter, 0.45)),
  }
}

/** Whether it was slow at the visit before: of one that is not slow now, both fit alike. */
export function slowSinceFit({ previous, before }: Looks, now: Fit<'settling'>): Fit<'slowSince'> {
  const { middle, scatter } = usualOf(before, SECONDS)
  const earlier = Math.min(Math.max((previous ?? middle) - middle, 0), 2.2)
  const quick = density(earlier, 0.05, scatter)
  const slow = density(earlier, 0.8, Math.hypot(scatter, 0.45))
  const notSlow = (now.usual ?? 0) * (quick + slow)
  const isSlow = (now.slow ?? 0) + (now['very slow'] ?? 0)
  return { 'this visit': notSlow + isSlow * quick, 'some visits': notSlow + isSlow * slow }
}

export function noiseFit({ now, previous, before }: Looks): Fit<'noise'> {
  const { middle, scatter } = usualOf(before, NOISE)
  const quiet = (x: number) => density(x - middle, 0, scatter)
  const restless = (x: number) => (x > middle ? density(Math.min(x - middle, 3.5), 2, 0.9) : 0)
  const earlier = previous ?? middle
  return {
    usual: quiet(now) * (0.95 * quiet(earlier) + 0.05 * restless(earlier)),
    'restless this time': restless(now) * quiet(earlier),
    'restless for long': restless(now) * restless(earlier),
  }
}

export function hysteresisFit({ now, before }: Looks): Fit<'hysteresis'> {
  const { middle, scatter } = usualOf(before, 0.35)
  const more = Math.min(Math.max(now - middle, 0), 12)
  return {
    returns: density(more, 0, scatter),
    lags:
      0.35 * density(more, 1.5, Math.hypot(scatter, 0.6)) + 0.35 * density(more, 3, 1.3) + 0.3 * density(more, 6, 3.5),
  }
}

export function cleaningFit(visits: readonly HealthVisit[], last: HealthVisit, cell: boolean): Fit<'cleaning'> | null {
  if (!known(last.cleaning)) return null
  const looks = looksAt(visits, (v) => v.cleaning && Math.abs(v.cleaning))
  const expected = cell ? 0.008 : 0.8
  const { scatter } = usualOf(looks?.before ?? [], expected)
  const moved = Math.min(Math.abs(last.cleaning), 15 * expected)
  const stays = density(moved, 0, scatter)
  const moves = density(moved, 6 * expected, 4 * expected)
  const faster = logOf(last.fasterAfterCleaning)
  if (faster === null) return { 'changes nothing': stays, helps: moves }
  const [same, quicker] = [density(faster, 0, 0.35), density(Math.min(faster, 1.2), 0.9, 0.4)]
  return {
    'changes nothing': stays * same,
    helps: 0.25 * moves * same + 0.35 * stays * quicker + 0.4 * moves * quicker,
  }
}

/** A film holds the last solution: clean, the sensor moves away from what it read in the process. */
export const cleaningMovedFit = (away: number): Fit<'cleaningMoved'> => {
  const share = normalCdf(away / 1.2)
  return { 'away from the process': share, 'towards it': 1 - share }
}

/**
 * Which of beaker and tank it is that moved: the sensor shows in both alike what befell it; a stray voltage only in the
 * tank; and where the tank is as ever by the numbers of before and not by those of today, the standards are off.
 */
export function tankFit(visits: readonly HealthVisit[], last: HealthVisit): Fit<'beakerAndTank'> | null {
  if (known(last.tankAlone)) {
    const apart = Math.min(Math.abs(last.tankAlone), 6)
    const none = density(apart, 0, 0.5)
    return { agree: none, 'only the tank is wrong': density(apart, 2.5, 1.5), 'only the standards are off': none }
  }
  const water = looksAt(visits, (v) => v.tankNow)
  if (!water) return null
  const { middle, scatter } = usualOf(water.before, WATER)
  const now = water.now - middle
  const before = known(last.tankByBefore) ? last.tankByBefore - middle : now
  return {
    agree: density(now, 0, scatter),
    'only the tank is wrong': 0.5 * density(now, 0, 4 * WATER) + 0.5 * density(now, 0, 12 * WATER),
    'only the standards are off': density(before, 0, scatter),
  }
}

/** Which way the water moved from what it usually reads; where it hardly did, either fits. */
export function tankGoesFit(visits: readonly HealthVisit[]): Fit<'tankGoes'> | null {
  const water = looksAt(visits, (v) => v.tankNow)
  if (!water || water.before.length === 0) return null
  const { middle, scatter } = usualOf(water.before, WATER)
  const up = normalCdf((water.now - middle) / scatter)
  return { down: 1 - up, up }
}

/** Noise in the water beyond that of the sensor itself, which is there in the beaker as well. */
export function tankNoiseFit(visits: readonly HealthVisit[], noise: Looks | null): Fit<'tankNoise'> | null {
  const inTank = looksAt(visits, (v) => logOf(v.processNoise))
  if (!inTank || inTank.before.length < 2) return null
  const { middle, scatter } = usualOf(inTank.before, NOISE)
  const restless = Math.min(inTank.now - middle, 4)
  const own = noise ? Math.max(0, noise.now - usualOf(noise.before, NOISE).middle) : 0
  return {
    'as in the standards': density(restless, Math.min(own, 4), Math.hypot(scatter, 0.3)),
    'restless there': restless > 0 ? density(restless, 2, 0.8) : 0,
  }
}

/** By how much a water is expected to stray from its usual value, in tolerances (sd). */
const WATER = 1.2

/** A thermometer that is off is off by the same in the process and in the standards. */
export function temperatureFit(visits: readonly HealthVisit[], last: HealthVisit): Fit<'temperature'> | null {
  if (known(last.temperatureError)) {
    const error = Math.min(Math.abs(last.temperatureError), 6)
    return { agrees: density(error, 0, 0.3), 'is wrong': density(error, 2.5, 1.3) }
  }
  const process = looksAt(visits, (v) => v.processWarmer)
  const standards = looksAt(visits, (v) => v.standardTemperature)
  const shifts = [
    ...(process ? [shiftOf(process, WATER_DEGREES)] : []),
    // Of a room nobody knows how warm it is until it was measured there.
    ...(standards && standards.before.length >= 2 ? [shiftOf(standards, ROOM_DEGREES)] : []),
  ]
  if (shifts.length === 0) return null
  const precision = shifts.reduce((sum, s) => sum + 1 / s.scatter ** 2, 1 / WRONG_DEGREES ** 2)
  const offset = shifts.reduce((sum, s) => sum + s.moved / s.scatter ** 2, 0) / precision
  // Of all offsets that it may have, those near the likeliest (Laplace).
  const prior = Math.exp(-0.5 * (offset / WRONG_DEGREES) ** 2) / (WRONG_DEGREES * Math.sqrt(precision))
  const off = (by: number) => shifts.reduce((product, s) => product * density(s.moved, by, s.scatter), 1)
  return { agrees: off(0), 'is wrong': prior * off(offset) }
}

function shiftOf({ now, before }: Looks, expected: number): { moved: number; scatter: number } {
  const { middle, scatter } = usualOf(before, expected)
  return { moved: now - middle, scatter }
}

/** By how much a water and a room are expected to be warmer or colder than usual, and a wrong thermometer off, degC (sd). */
const WATER_DEGREES = 1
const ROOM_DEGREES = 1.5
const WRONG_DEGREES = 4

export function sharedShiftFit(visits: readonly HealthVisit[]): Fit<'sharedShift'> | null {
  const both = visits.slice(-4).filter((v) => known(v.sharedShift) && known(v.ownShift))
  if (both.length === 0) return null
  const shared = both.reduce((sum, v) => sum + (v.sharedShift as number), 0)
  const own = both.reduce((sum, v) => sum + (v.ownShift as number), 0)
  const [still, moved] = [2, 12]
  return {
    none: density(shared, 0, still) * density(own, 0, still),
    'its own': density(shared, 0, still) * density(own, 0, moved),
    'all on the body': density(shared, 0, moved) * density(own, 0, still),
  }
}

/** Of readings in standards the most restless against the middle one, times. */
export function noiseApartFit(times: number): Fit<'noiseApart'> {
  const apart = Math.log(Math.max(1, times))
  return { alike: density(apart, 0.35, 0.4), 'one alone': density(apart, 2.2, 0.8) }
}

/** Times what it was when new; a sound one ages a little. */
export function junctionResistanceFit(times: number): Fit<'junctionResistance'> {
  const grown = Math.log(Math.max(0.01, times))
  return { usual: density(grown, 0.15, 0.35), high: density(grown, 1.6, 0.7) }
}

export function glassResistanceFit(times: number): Fit<'glassResistance'> {
  const grown = Math.log(Math.max(0.001, times))
  return {
    usual: density(grown, 0.15, 0.35),
    low: grown < 0 ? density(grown, -2.5, 1.3) : 0,
    high: grown > 0 ? density(grown, 1.1, 0.45) : 0,
  }
}
