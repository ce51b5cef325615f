import { requireWithin } from '../quantities/outOfRange.ts'

/** How a staircase climbs and falls. */
export interface StaircaseRule {
  /** After a pass the interval grows by this factor; after a failure it shrinks by this one. */
  longer?: number
  shorter?: number
  floorDays: number
  ceilingDays: number
}

/** Common practice, no source: half as long again, or half. */
const LONGER = 1.5
const SHORTER = 0.5

/**
 * Automatic adjustment or "staircase" (ILAC-G24 / OIML D 10:2022, method 1): the next interval follows from whether
 * the sensor was found within tolerance.
 * @param days the interval that has just ended
 * @throws OutOfRange for an interval below a day
 */
export function staircaseInterval(days: number, withinTolerance: boolean, rule: StaircaseRule): number {
  requireWithin('Interval', days, 1, 36_500, 'd')
  const next = Math.round(days * (withinTolerance ? (rule.longer ?? LONGER) : (rule.shorter ?? SHORTER)))
  return Math.min(rule.ceilingDays, Math.max(rule.floorDays, next))
}
