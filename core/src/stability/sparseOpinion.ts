import type { StabilityOpinion } from './opinion.ts'

/** Readings of a line that comes seldom: seconds, and the value. */
export type SparseReading = readonly [t: number, value: number]

/** From so far apart on readings show no settling, only that it is over, s (common practice, no source). */
export const SPARSE_APART = 5

/** So many of the last readings must agree, and over so long, s: what stands still for two may be the same one sent again. */
const AGREEING = 3
const OVER = 30
/** Readings that are looked at for rest, at most. */
const LOOKED_AT = 40

/** A share of a step that rounding may add to a difference. */
const ROUNDING = 1e-6

/** What is left of a tail falls off with time by this power: that of the slowest glass (hypotheses.ts). */
const FALLS_AS = 0.7
/** A share of a step by which readings that stand still may have moved unseen. */
const UNSEEN = 0.25

/**
 * What readings that come seldom tell of settling: nothing of how it goes. Three that agree within a step over half a
 * minute tell what it is, if a tail that falls as slowly as that of aged glass has no more than a step left to go;
 * that it rests is known once they agree for so long that a creep that matters would show.
 * @param readings oldest first, of one dip, in the unit that is judged
 * @param step what counts as the same, same unit, above 0
 * @param harmless creep that does no harm, units per second, above 0
 * @param now seconds on the clock of the readings
 * @returns null before the first reading
 * @example sparseOpinion([[0, 7.02], [20, 7.01], [40, 7.01]], 0.01, 1.7e-4, 41)?.state // 'known'
 */
export function sparseOpinion(
  readings: readonly SparseReading[],
  step: number,
  harmless: number,
  now: number,
): StabilityOpinion | null {
  const [first, last] = [readings[0], readings.at(-1)]
  if (!first || !last) return null
  const from = readings.findLastIndex(([t]) => last[0] - t >= OVER)
  const end = from < 0 ? [] : readings.slice(Math.min(from, Math.max(0, readings.length - AGREEING)))
  const spread = spreadOf(end.length > 0 ? end : readings.slice(-AGREEING))
  const agree = end.length >= AGREEING && spread <= step * (1 + ROUNDING)
  const halfWidth = agree
    ? Math.hypot(step / 2, leftToGo(readings, step))
    : Math.hypot(step / 2, Math.max(spread, step / 2))
  const known = agree && halfWidth <= step
  const rests =
    known &&
    readings.slice(-LOOKED_AT).some((from, i, all) => {
      const stretch = all.slice(i)
      const moved = spreadOf(stretch)
      return stretch.length >= AGREEING && moved <= step && moved + step <= harmless * (last[0] - from[0])
    })
  const before = readings.at(-2)
  const apart = before ? last[0] - before[0] : SPARSE_APART
  return {
    state: rests ? 'stable' : known ? 'known' : 'settling',
    reason: known ? 'sparse-agree' : 'sparse',
    elapsed: last[0] - first[0],
    driftPerMinute: before && apart > 0 ? (60 * (last[1] - before[1])) / apart : 0,
    noise: 0,
    predictedEnd: last[1],
    predictedEndUncertainty: halfWidth,
    predictedTemperature: null,
    secondsToGo: known ? 0 : null,
    confidence: known ? 95 : 50,
    nextReadingIn: Math.max(0, last[0] + apart - now),
  }
}

/** What a slow tail has left after the last reading, by how far it moved while all readings agreed within a step. */
function leftToGo(readings: readonly SparseReading[], step: number): number {
  const newest = readings.slice(-LOOKED_AT)
  const since = newest.findIndex((_, i) => spreadOf(newest.slice(i)) <= step * (1 + ROUNDING))
  const agreeing = newest.slice(since)
  const [start, from, now] = [readings[0], agreeing[0], agreeing.at(-1)].map((r) => (r as SparseReading)[0]) as [
    number,
    number,
    number,
  ]
  // What never moved since the first reading has no tail.
  if (from === start) return 0
  const moved = Math.max(spreadOf(agreeing), UNSEEN * step)
  return moved / (((now - start) / (from - start)) ** FALLS_AS - 1)
}

function spreadOf(readings: readonly SparseReading[]): number {
  const values = readings.map(([, value]) => value)
  return Math.max(...values) - Math.min(...values)
}
