import { salinityOfSpecificGravity, specificGravity } from './seawaterDensity.ts'

/** Salt water in the scales in which people read it. */

/** Both temperatures to which a specific gravity on aquarium displays refers, degC (common practice, no source). */
export const GRAVITY_AT = 25
/** Practical salinity, 0 to 45, that has a specific gravity. */
const SALTEST = 45

/** Goes on straight where the equation ends: what lies beyond is a fault of a reading, and is seen as one. */
function extended(of: (x: number) => number, low: number, high: number, x: number): number {
  if (x >= low && x <= high) return of(x)
  const [end, inner] = x < low ? [low, low + (high - low) / 100] : [high, high - (high - low) / 100]
  return of(end) + ((of(end) - of(inner)) / (end - inner)) * (x - end)
}

const gravityOf = (salinity: number) => specificGravity(salinity, GRAVITY_AT, GRAVITY_AT)
const salinityOf = (gravity: number) => salinityOfSpecificGravity(gravity, GRAVITY_AT, GRAVITY_AT)

/**
 * Specific gravity 25/25 of salt water.
 * @param salinity practical salinity; beyond 0 to 45 straight on
 * @example Number(gravityRead(35).toFixed(4)) // 1.0264
 */
export const gravityRead = (salinity: number): number => extended(gravityOf, 0, SALTEST, salinity)

/**
 * Practical salinity of a specific gravity 25/25, the inverse of gravityRead.
 * @example Number(salinityRead(1.0264).toFixed(1)) // 35
 */
export const salinityRead = (gravity: number): number => extended(salinityOf, gravityOf(0), gravityOf(SALTEST), gravity)
