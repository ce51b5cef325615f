/** Rules of a position that say how far it may stray and how long it may be left alone. */
export interface Limits {
  /** In the unit of errors. */
  tolerance: number
  /** 0 to 1. */
  reliability: number
  ceilingDays: number
  /** Null where the method does not ask for it. */
  fixedDays?: number | null | undefined
}

/**
 * Which limits a change loosens: a wider tolerance, less sureness, a longer interval. A reason is asked for these.
 * @returns names of the fields, none when nothing is loosened
 * @example loosened({ tolerance: 0.15, reliability: 0.95, ceilingDays: 60 }, { tolerance: 0.3, reliability: 0.95, ceilingDays: 60 }) // ['tolerance']
 */
export function loosened(before: Limits, after: Limits): (keyof Limits)[] {
  const found: (keyof Limits)[] = []
  if (after.tolerance > before.tolerance) found.push('tolerance')
  if (after.reliability < before.reliability) found.push('reliability')
  if (after.ceilingDays > before.ceilingDays) found.push('ceilingDays')
  if (before.fixedDays != null && after.fixedDays != null && after.fixedDays > before.fixedDays) found.push('fixedDays')
  return found
}
