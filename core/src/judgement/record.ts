import { requireWithin } from '../quantities/outOfRange.ts'

/**
 * Correction and rating of a record between two visits, after R. J. Wagner et al., Guidelines and standard procedures
 * for continuous water-quality monitors, U.S. Geological Survey Techniques and Methods 1-D3 (2006).
 */

/** The readings of a servicing visit, all in the unit of the record. */
export interface ServicingReadings {
  /** Sensor in the process before and after cleaning. */
  before: number
  after: number
  /** A second meter in the same water at the same two moments; what changed in the water itself. */
  fieldBefore: number
  fieldAfter: number
  /** The cleaned sensor in a standard, and the standard's value. */
  inStandard: number
  standard: number
}

/** What is to be added to the record at the visit's moment. */
export interface RecordErrors {
  fouling: number
  drift: number
  total: number
}

/**
 * Splits the error at a visit: fouling = (after - before) - (field after - field before); drift = standard - reading
 * in it (TM 1-D3, p. 18-20). Both as corrections: added to the record they make it right.
 * @throws OutOfRange for what is no number
 */
export function splitFoulingAndDrift(r: ServicingReadings): RecordErrors {
  for (const [name, value] of Object.entries(r)) requireWithin(`Reading "${name}"`, value, -1e9, 1e9)
  const fouling = r.after - r.before - (r.fieldAfter - r.fieldBefore)
  const drift = r.standard - r.inStandard
  return { fouling, drift, total: fouling + drift }
}

/**
 * The same split for drift that grows with the value, in percent of it (TM 1-D3: specific conductance, turbidity).
 * @returns percentages of the reading
 */
export function splitFoulingAndDriftPercent(r: ServicingReadings): RecordErrors {
  const { fouling, drift } = splitFoulingAndDrift(r)
  const foulingShare = (100 * fouling) / requireWithin('Reading "before"', r.before, 1e-9, 1e9)
  const driftShare = (100 * drift) / requireWithin('Reading "inStandard"', r.inStandard, 1e-9, 1e9)
  return { fouling: foulingShare, drift: driftShare, total: foulingShare + driftShare }
}

export interface LoggedReading {
  /** Epoch ms. */
  at: number
  value: number
}

/**
 * Corrects a record between two visits: each error starts at 0 after the last visit and grows in a straight line with
 * time to what was found (TM 1-D3, "two-point variable data correction").
 * @param mode whether the error is in the unit of the record or in percent of the reading
 * @throws RangeError when the visits are not in order, or a reading lies outside them
 */
export function proratedCorrection(
  readings: readonly LoggedReading[],
  from: number,
  to: number,
  errors: Pick<RecordErrors, 'fouling' | 'drift'>,
  mode: 'unit' | 'percent' = 'unit',
): LoggedReading[] {
  if (!(to > from)) throw new RangeError('The later visit must come after the earlier one.')
  const total = errors.fouling + errors.drift
  requireWithin('Correction', total, -1e9, 1e9)
  return readings.map(({ at, value }) => {
    if (at < from || at > to) throw new RangeError('A reading lies outside the two visits.')
    const share = (at - from) / (to - from)
    const grown = mode === 'percent' ? (value * total) / 100 : total
    return { at, value: requireWithin('Reading of the record', value, -1e9, 1e9) + share * grown }
  })
}

/** What is measured, as TM 1-D3 rates it. */
export type RatedQuantity = 'temperature' | 'conductivity' | 'ph'

export type RecordRating = 'excellent' | 'good' | 'fair' | 'poor'

/** Limits of excellent, good and fair (TM 1-D3, table 18): degC, % of the reading, pH. Poor is beyond. */
const RATINGS: Record<RatedQuantity, readonly [number, number, number]> = {
  temperature: [0.2, 0.5, 0.8],
  conductivity: [3, 10, 15],
  ph: [0.2, 0.5, 0.8],
}

/** Where correcting begins (TM 1-D3, table 16) and from where on the data are not to be used (table 17). */
const CORRECT_FROM: Record<RatedQuantity, number> = { temperature: 0.2, conductivity: 3, ph: 0.2 }
const DISCARD_FROM: Record<RatedQuantity, number> = { temperature: 2, conductivity: 30, ph: 2 }

/** The part of the criterion for specific conductance that is not in percent, uS/cm. */
const CONDUCTIVITY_LEAST = 5

/**
 * Rating of a record from the size of its correction.
 * @param fouling and `drift`: degC, % or pH; their sizes are added, for one must not hide the other
 */
export function rateRecord(quantity: RatedQuantity, errors: Pick<RecordErrors, 'fouling' | 'drift'>): RecordRating {
  const size = Math.abs(errors.fouling) + Math.abs(errors.drift)
  requireWithin('Size of the correction', size, 0, 1e9)
  const [excellent, good, fair] = RATINGS[quantity]
  if (size <= excellent) return 'excellent'
  if (size <= good) return 'good'
  return size <= fair ? 'fair' : 'poor'
}

/**
 * What to do with a record whose correction has this size.
 * @param reading the usual reading, uS/cm; only conductivity needs it, for its least correction of 5 uS/cm
 */
export function recordAction(
  quantity: RatedQuantity,
  errors: Pick<RecordErrors, 'fouling' | 'drift'>,
  reading = Number.POSITIVE_INFINITY,
): 'use-as-is' | 'correct' | 'do-not-use' {
  const size = Math.abs(errors.fouling) + Math.abs(errors.drift)
  requireWithin('Size of the correction', size, 0, 1e9)
  if (size > DISCARD_FROM[quantity]) return 'do-not-use'
  const least =
    quantity === 'conductivity'
      ? Math.max(CORRECT_FROM.conductivity, (100 * CONDUCTIVITY_LEAST) / reading)
      : CORRECT_FROM[quantity]
  return size > least ? 'correct' : 'use-as-is'
}

/**
 * What an out-of-tolerance as-found means for past data: from when on, under a straight growth since the last visit.
 * @param errorThen error left at the last visit, `errorNow` as found
 * @returns null when the error is within the tolerance
 */
export function outOfToleranceSince(
  from: number,
  to: number,
  errorThen: number,
  errorNow: number,
  tolerance: number,
): { since: number; days: number; largest: number } | null {
  if (!(to > from)) throw new RangeError('The later visit must come after the earlier one.')
  requireWithin('Tolerance', tolerance, 1e-12, 1e9)
  requireWithin('Error as found', errorNow, -1e9, 1e9)
  if (Math.abs(errorNow) <= tolerance) return null
  const limit = Math.sign(errorNow) * tolerance
  const share =
    Math.abs(errorThen) > tolerance && errorThen * errorNow > 0 ? 0 : (limit - errorThen) / (errorNow - errorThen)
  const since = from + Math.min(1, Math.max(0, share)) * (to - from)
  return { since, days: (to - since) / 86_400_000, largest: errorNow }
}

/**
 * Takes the error of a sensor out of its readings between two visits, the error growing in a straight line from what
 * the earlier one left to what the later one found (after TM 1-D3, with a start that need not be zero).
 * @param mode `unit`: the error is in the unit of the readings; `percent`: in percent of the right value
 * @param origin where a percentage starts to count: 1 for specific gravity, else 0
 * @throws RangeError when the visits are not in order, or a reading lies outside them
 * @throws OutOfRange for an error of -100 % or less
 */
export function correctPast(
  readings: readonly LoggedReading[],
  visits: { from: number; to: number; errorThen: number; errorNow: number },
  mode: 'unit' | 'percent' = 'unit',
  origin = 0,
): LoggedReading[] {
  const { from, to, errorThen, errorNow } = visits
  if (!(to > from)) throw new RangeError('The later visit must come after the earlier one.')
  const least = mode === 'percent' ? -99 : -1e9
  requireWithin('Error then', errorThen, least, 1e9)
  requireWithin('Error as found', errorNow, least, 1e9)
  return readings.map(({ at, value }) => {
    if (at < from || at > to) throw new RangeError('A reading lies outside the two visits.')
    requireWithin('Reading of the record', value, -1e9, 1e9)
    const error = errorThen + ((at - from) / (to - from)) * (errorNow - errorThen)
    return { at, value: mode === 'unit' ? value - error : origin + (value - origin) / (1 + error / 100) }
  })
}
