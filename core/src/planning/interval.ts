import {
  type DriftForecast,
  daysWithinTolerance,
  expectedError,
  FARTHEST_DAYS,
  probabilityInTolerance,
} from '../drift/driftForecast.ts'
import { DAY_MS, type DriftObservation } from '../drift/observation.ts'
import { requireWithin } from '../quantities/outOfRange.ts'
import { staircaseInterval } from './staircase.ts'

/**
 * How the next date is found (the methods of ILAC-G24 / OIML D 10:2022): by the sensor's own drift, by a fixed
 * calendar, by a staircase that climbs after each pass, or by hours in use.
 */
export const INTERVAL_METHODS = ['drift', 'fixed', 'staircase', 'in-use'] as const
export type IntervalMethod = (typeof INTERVAL_METHODS)[number]

/** How long a sensor may be left alone. */
export interface IntervalPolicy {
  /** By its own drift unless said. */
  method?: IntervalMethod
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
  /** The interval of a fixed calendar, and the first one of a staircase, days. */
  fixedDays?: number | null
  /** Hours in use between visits, and how many of the 24 it is in use. */
  inUseHours?: number | null
  hoursPerDay?: number | null
}

export interface NextDate {
  at: number
  days: number
  /** Days for which the wanted reliability holds, before floor and ceiling. */
  horizonDays: number
  /** The forecast reaches no farther: beyond it nothing is known. */
  beyond: boolean
  limitedBy: IntervalMethod | 'floor' | 'ceiling' | 'authority'
  reason: string
}

/** Of a fixed calendar or the start of a staircase when none is stated: a month, common practice, no source. */
const USUAL_FIXED_DAYS = 30

/**
 * The next date under a policy, between floor and ceiling, with its reason.
 * @param past visits of the sensor, oldest first; only a staircase needs them
 * @throws OutOfRange for a tolerance of zero, or a floor above the ceiling
 */
export function nextDate(
  forecast: DriftForecast,
  policy: IntervalPolicy,
  past: readonly DriftObservation[] = [],
): NextDate {
  requireWithin('Shortest interval', policy.floorDays, 0, policy.ceilingDays, 'd')
  const { method = 'drift' } = policy
  const horizonDays = daysWithinTolerance(forecast, policy.tolerance, policy.reliability)
  const wanted = wantedDays(method, policy, horizonDays, past)
  const own = Math.min(policy.ceilingDays, Math.max(policy.floorDays, wanted))
  const days = Math.min(own, policy.authorityDays ?? Number.POSITIVE_INFINITY)
  const limitedBy =
    days < own ? 'authority' : wanted < policy.floorDays ? 'floor' : wanted > policy.ceilingDays ? 'ceiling' : method
  return {
    at: forecast.from + days * DAY_MS,
    days,
    horizonDays,
    beyond: horizonDays >= FARTHEST_DAYS,
    limitedBy,
    reason: intervalReason(forecast, policy, { horizonDays, days, limitedBy }),
  }
}

function wantedDays(
  method: IntervalMethod,
  policy: IntervalPolicy,
  horizonDays: number,
  past: readonly DriftObservation[],
): number {
  const fixed = requireWithin('Fixed interval', policy.fixedDays ?? USUAL_FIXED_DAYS, 1, 3650, 'd')
  switch (method) {
    case 'fixed':
      return fixed
    case 'staircase':
      return staircaseDays(past, fixed, policy)
    case 'in-use': {
      const hours = requireWithin('Hours in use', policy.inUseHours ?? 24 * fixed, 1, 100_000, 'h')
      return Math.floor(hours / requireWithin('Hours a day', policy.hoursPerDay ?? 24, 0.1, 24, 'h'))
    }
    default:
      return horizonDays
  }
}

/** Where a staircase stands after the visits so far: each that found the sensor within tolerance climbs a step. */
function staircaseDays(
  past: readonly DriftObservation[],
  first: number,
  policy: Pick<IntervalPolicy, 'tolerance' | 'floorDays' | 'ceilingDays'>,
): number {
  return past.reduce(
    (days, visit) =>
      visit.asFound === null ? days : staircaseInterval(days, Math.abs(visit.asFound) <= policy.tolerance, policy),
    first,
  )
}

function intervalReason(
  forecast: DriftForecast,
  policy: IntervalPolicy,
  { horizonDays, days, limitedBy }: Pick<NextDate, 'horizonDays' | 'days' | 'limitedBy'>,
): string {
  const { unit = 'pH', decimals = 2 } = policy
  const limit = `${policy.tolerance.toFixed(decimals)} ${unit}`
  const sure = `${Math.round(100 * policy.reliability)} %`
  const drift = driftWords(forecast, policy)
  const stays = `it stays within ${limit} with ${sure} certainty`
  const horizon =
    horizonDays >= FARTHEST_DAYS
      ? `${stays[0]?.toUpperCase()}${stays.slice(1)} as far as the forecast reaches, ${FARTHEST_DAYS} days`
      : `For ${horizonDays} ${horizonDays === 1 ? 'day' : 'days'} ${stays}`
  switch (limitedBy) {
    case 'authority':
      return `${drift} The authority’s rule: at least every ${policy.authorityDays} days.`
    case 'ceiling':
      return `${drift} House rule: check at least every ${policy.ceilingDays} days.`
    case 'floor':
      return `${drift} It stays within ${limit} for ${horizonDays} ${horizonDays === 1 ? 'day' : 'days'} only; not sooner than every ${policy.floorDays} days.`
    case 'fixed':
      return `By the calendar, every ${days} days. ${horizon}.`
    case 'staircase':
      return `The staircase stands at ${days} days. ${horizon}.`
    case 'in-use':
      return `${policy.inUseHours ?? 24 * days} hours in use are ${days} days here. ${horizon}.`
    default:
      return `${drift} ${horizon}.`
  }
}

function driftWords(forecast: DriftForecast, { tolerance, unit = 'pH', decimals = 2 }: IntervalPolicy): string {
  if (forecast.intervals === 0) return 'Nothing is known of its drift yet, so sensors like it stand in.'
  const monthly = Math.abs(forecast.rate * 30)
  if (monthly < 0.04 * tolerance) return 'It hardly drifts.'
  const amount = monthly.toFixed(monthly < 10 ** -decimals ? decimals + 1 : decimals)
  return `It drifts ${amount} ${unit} a month ${forecast.rate > 0 ? 'upwards' : 'downwards'}.`
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
