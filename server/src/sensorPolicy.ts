import { channelOf, type IntervalPolicy } from '@frustum/core'
import type { positions } from './database/schema.ts'

/** How long the sensor at a position may be left alone. */
export function policyOf(position: typeof positions.$inferSelect): IntervalPolicy {
  const { unit, decimals } = channelOf(position.kind).errorScale
  const { tolerance, reliability, floorDays, ceilingDays, authorityDays } = position
  return { tolerance, reliability, floorDays, ceilingDays, authorityDays, unit, decimals }
}
