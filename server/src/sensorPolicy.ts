import { channelOf, type IntervalPolicy } from '@frustum/core'
import type { positions } from './database/schema.ts'

/** How long the sensor at a position may be left alone. */
export function policyOf(position: typeof positions.$inferSelect): IntervalPolicy {
  const { unit, decimals } = channelOf(position.kind).errorScale
  const { tolerance, reliability, floorDays, ceilingDays, authorityDays } = position
  const { method, fixedDays, inUseHours, hoursPerDay } = position
  return {
    method,
    tolerance,
    reliability,
    floorDays,
    ceilingDays,
    authorityDays,
    fixedDays,
    inUseHours,
    hoursPerDay,
    unit,
    decimals,
  }
}
