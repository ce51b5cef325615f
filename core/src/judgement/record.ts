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
 * @example splitFoulingAndDrift({ before: 8, after: 8.1, fieldBefore: 8.2, fieldAfter: 8.2, inStandard: 6.95, standard: 7 }) // { fouling: 0.1, drift: 0.05, total: 0.15 }
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
 * @example splitFoulingAndDriftPercent({ before: 500, after: 510, fieldBefore: 520, fieldAfter: 520, inStandard: 990, standard: 1000 }) // { fouling: 2, drift: 1.0101, total: 3.0101 }
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
 * @example proratedCorrection([{ at: 5, value: 8 }], 0, 10, { fouling: 0.1, drift: 0.1 }) // [{ at: 5, value: 8.1 }]
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
 * @example rateRecord('ph', { fouling: 0.1, drift: -0.2 }) // 'good'
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
 * @example recordAction('ph', { fouling: 0.1, drift: 0.2 }) // 'correct'
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

/** Two visits of a sensor: what the earlier one left and the later one found, and what the device did in between. */
export interface BetweenVisits {
  /** Epoch ms. */
  from: number
  to: number
  /** Errors in the unit of errors. */
  errorThen: number
  errorNow: number
  /** Steps of the displayed error whose moment and size are known: the device changed its numbers. */
  steps?: readonly { at: number; shift: number }[]
}

interface Stretch {
  from: number
  to: number
  errorThen: number
  errorNow: number
}

/** The straight stretches of the error between two visits: drift in one line, cut by the steps that are known. */
function stretchesOf({ from, to, errorThen, errorNow, steps = [] }: BetweenVisits): Stretch[] {
  if (!(to > from)) throw new RangeError('The later visit must come after the earlier one.')
  const inside = steps.filter((s) => s.at > from && s.at < to).toSorted((a, b) => a.at - b.at)
  const stepped = inside.reduce((sum, s) => sum + s.shift, 0)
  const drift = (at: number) => ((at - from) / (to - from)) * (errorNow - stepped - errorThen)
  const edges = [from, ...inside.map((s) => s.at), to]
  let level = errorThen
  return edges.slice(1).map((end, i) => {
    if (i > 0) level += (inside[i - 1] as { shift: number }).shift
    const start = edges[i] as number
    return { from: start, to: end, errorThen: level + drift(start), errorNow: level + drift(end) }
  })
}

/**
 * The farthest that the error went between two visits from what the earlier one left, with its sign: what was found
 * less what was left, unless numbers of the device went and came back in between.
 * @throws RangeError when the visits are not in order
 * @example farthestChange({ from: 0, to: 10, errorThen: 0, errorNow: 0.2 }) // 0.2
 */
export function farthestChange(visits: BetweenVisits): number {
  const changes = stretchesOf(visits).flatMap((s) => [s.errorThen, s.errorNow].map((e) => e - visits.errorThen))
  return changes.reduce((a, b) => (Math.abs(b) >= Math.abs(a) ? b : a))
}

/** A time in which a sensor was out of tolerance, and its farthest error in it, with its sign. */
export interface OutOfTolerance {
  /** Epoch ms. */
  from: number
  to: number
  largest: number
}

/**
 * When a sensor was out of tolerance between two visits, oldest first, under a straight growth of the error that steps
 * where the device changed its numbers: not only up to the later visit, since numbers come back and drifts cross over.
 * @throws RangeError when the visits are not in order
 * @throws OutOfRange for a tolerance of zero, or an error that is no number
 * @example outOfTolerance({ from: 0, to: 10, errorThen: 0, errorNow: 0.2 }, 0.1) // [{ from: 5, to: 10, largest: 0.2 }]
 */
export function outOfTolerance(visits: BetweenVisits, tolerance: number): OutOfTolerance[] {
  requireWithin('Tolerance', tolerance, 1e-12, 1e9)
  requireWithin('Error then', visits.errorThen, -1e9, 1e9)
  requireWithin('Error as found', visits.errorNow, -1e9, 1e9)
  const spans: OutOfTolerance[] = []
  for (const { from, to, errorThen, errorNow } of stretchesOf(visits)) {
    const errorAt = (share: number) => errorThen + share * (errorNow - errorThen)
    const crossings = [-tolerance, tolerance]
      .map((limit) => (limit - errorThen) / (errorNow - errorThen))
      .filter((share) => share > 0 && share < 1)
      .toSorted((a, b) => a - b)
    const edges = [0, ...crossings, 1]
    edges.slice(1).forEach((end, i) => {
      const start = edges[i] as number
      if (Math.abs(errorAt((start + end) / 2)) <= tolerance) return
      const [first, last] = [errorAt(start), errorAt(end)]
      const span = { from: from + start * (to - from), to: from + end * (to - from) }
      const largest = Math.abs(last) >= Math.abs(first) ? last : first
      const before = spans.at(-1)
      if (before?.to === span.from) {
        before.to = span.to
        if (Math.abs(largest) > Math.abs(before.largest)) before.largest = largest
      } else spans.push({ ...span, largest })
    })
  }
  return spans
}

/**
 * Takes the error of a sensor out of its readings between two visits, the error growing in a straight line from what
 * the earlier one left to what the later one found (after TM 1-D3, with a start that need not be zero), and stepping
 * where the device changed its numbers.
 * @param mode `unit`: the error is in the unit of the readings; `percent`: in percent of the right value
 * @param origin where a percentage starts to count: 1 for specific gravity, else 0
 * @throws RangeError when the visits are not in order, or a reading lies outside them
 * @throws OutOfRange for an error of -100 % or less
 * @example correctPast([{ at: 5, value: 8.1 }], { from: 0, to: 10, errorThen: 0, errorNow: 0.2 }) // [{ at: 5, value: 8 }]
 */
export function correctPast(
  readings: readonly LoggedReading[],
  visits: BetweenVisits,
  mode: 'unit' | 'percent' = 'unit',
  origin = 0,
): LoggedReading[] {
  const stretches = stretchesOf(visits)
  const least = mode === 'percent' ? -99 : -1e9
  for (const s of stretches) {
    requireWithin('Error then', s.errorThen, least, 1e9)
    requireWithin('Error as found', s.errorNow, least, 1e9)
  }
  return readings.map(({ at, value }) => {
    const s = stretches.findLast((stretch) => at >= stretch.from && at <= stretch.to)
    if (!s) throw new RangeError('A reading lies outside the two visits.')
    requireWithin('Reading of the record', value, -1e9, 1e9)
    const error = s.errorThen + ((at - s.from) / (s.to - s.from)) * (s.errorNow - s.errorThen)
    return { at, value: mode === 'unit' ? value - error : origin + (value - origin) / (1 + error / 100) }
  })
}
