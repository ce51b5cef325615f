import {
  DAY_MS,
  type DriftForecast,
  daysWithinTolerance,
  expectedError,
  probabilityInTolerance,
} from '../drift/driftForecast.ts'

/** How long a sensor may be left alone, whatever its drift says. */
export interface IntervalPolicy {
  /** Half-width of the tolerance at the process value. */
  tolerance: number
  /** Unit and decimals of errors of this kind; pH with 2 unless said. */
  unit?: string
  decimals?: number
  /** The longest interval that the permit or the authority allows, days: it comes before everything else. */
  authorityDays?: number | null
  /** Wanted probability of being within tolerance at the next visit. */
  reliability: number
  /** Never sooner, days. */
  floorDays: number
  /** Never later, days. */
  ceilingDays: number
}

export interface NextDate {
  at: number
  days: number
  /** Days for which the wanted reliability holds, before floor and ceiling. */
  horizonDays: number
  limitedBy: 'drift' | 'floor' | 'ceiling' | 'authority'
  reason: string
}

/** The next date that follows from a sensor's own drift, between floor and ceiling, with its reason. */
export function nextDate(forecast: DriftForecast, policy: IntervalPolicy): NextDate {
  const horizonDays = daysWithinTolerance(forecast, policy.tolerance, policy.reliability)
  const own = Math.min(policy.ceilingDays, Math.max(policy.floorDays, horizonDays))
  const days = Math.min(own, policy.authorityDays ?? Number.POSITIVE_INFINITY)
  const limitedBy =
    days < own
      ? 'authority'
      : horizonDays < policy.floorDays
        ? 'floor'
        : horizonDays > policy.ceilingDays
          ? 'ceiling'
          : 'drift'
  return {
    at: forecast.from + days * DAY_MS,
    days,
    horizonDays,
    limitedBy,
    reason: intervalReason(forecast, policy, horizonDays, limitedBy),
  }
}

function intervalReason(
  forecast: DriftForecast,
  policy: IntervalPolicy,
  horizonDays: number,
  limitedBy: NextDate['limitedBy'],
): string {
  const { unit = 'pH', decimals = 2 } = policy
  const limit = `${policy.tolerance.toFixed(decimals)} ${unit}`
  const sure = `${Math.round(100 * policy.reliability)} %`
  const monthly = Math.abs(forecast.rate * 30)
  const drift =
    forecast.intervals === 0
      ? 'Nothing is known of its drift yet, so the usual figure for such sensors counts.'
      : monthly < 0.04 * policy.tolerance
        ? 'It hardly drifts.'
        : `It drifts ${monthly < 10 ** -decimals ? monthly.toFixed(decimals + 1) : monthly.toFixed(decimals)} ${unit} a month ${forecast.rate > 0 ? 'upwards' : 'downwards'}.`
  if (limitedBy === 'authority') return `${drift} The authority’s rule: at least every ${policy.authorityDays} days.`
  if (limitedBy === 'ceiling') return `${drift} House rule: check at least every ${policy.ceilingDays} days.`
  if (limitedBy === 'floor') {
    return `${drift} It stays within ${limit} for ${horizonDays} ${horizonDays === 1 ? 'day' : 'days'} only; not sooner than every ${policy.floorDays} days.`
  }
  return `${drift} For ${horizonDays} days it stays within ${limit} with ${sure} certainty.`
}

export type SensorState = 'holding' | 'drifting' | 'due' | 'overdue' | 'out' | 'resting' | 'blind'

/** `due` from this many days ahead of the date, common practice, no source. */
const DUE_AHEAD_DAYS = 3
/** A date missed by this share of the interval is overdue. */
const OVERDUE_SHARE = 0.1
/** A mean error beyond this share of the tolerance at the due date is drift worth the word. */
const DRIFTING_SHARE = 0.35

/**
 * The word for a sensor's state now. `resting` (a visit under way) and `blind` (no data) are facts of the moment and
 * come from the caller.
 */
export function sensorState(
  forecast: DriftForecast,
  policy: IntervalPolicy,
  next: NextDate,
  now: number,
): Exclude<SensorState, 'resting' | 'blind'> {
  const since = Math.max(0, (now - forecast.from) / DAY_MS)
  if (probabilityInTolerance(forecast, since, policy.tolerance) < 0.5) return 'out'
  const late = (now - next.at) / DAY_MS
  if (late > OVERDUE_SHARE * next.days) return 'overdue'
  if (late >= -DUE_AHEAD_DAYS) return 'due'
  const atDue = expectedError(forecast, next.days)
  return Math.abs(atDue.mean) > DRIFTING_SHARE * policy.tolerance ? 'drifting' : 'holding'
}
