import { type HoursCounted, type IntervalPolicy, modelOf } from '@frustum/core'
import type { positions } from './database/schema.ts'

/** How long the sensor at a position may be left alone. `hoursCounted`: as its hour meter says, where there is one. */
export function policyOf(position: typeof positions.$inferSelect, hoursCounted: HoursCounted | null): IntervalPolicy {
  const { unit, decimals } = modelOf(position.kind).errorScale
  const { tolerance, reliability, startingDays, floorDays, ceilingDays, authorityDays } = position
  const { method, fixedDays, inUseHours, hoursPerDay, checkFirst } = position
  return {
    method,
    tolerance,
    reliability,
    startingDays,
    floorDays,
    ceilingDays,
    authorityDays,
    fixedDays,
    inUseHours,
    hoursPerDay,
    hoursCounted,
    checkFirst,
    unit,
    decimals,
  }
}
