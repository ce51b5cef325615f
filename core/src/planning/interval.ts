import {
  type DriftForecast,
  daysWithinTolerance,
  expectedError,
  FARTHEST_DAYS,
  probabilityBetween,
  probabilityInTolerance,
} from '../drift/driftForecast.ts'
import type { NumbersChange } from '../drift/numbersChanged.ts'
import { DAY_MS, type DriftObservation } from '../drift/observation.ts'
import { requireWithin } from '../quantities/outOfRange.ts'
import {
  days as dayCount,
  difference,
  exactly,
  inPercent,
  quantity,
  type Sentence,
  say,
} from '../quantities/sentence.ts'
import type { HoursCounted } from './hoursRun.ts'
import { staircaseInterval } from './staircase.ts'

/**
 * How the next date is found (the methods of ILAC-G24 / OIML D 10:2022): by the sensor's own drift, by a fixed
 * calendar, by a staircase that climbs after each pass, or by hours in use.
 */
export const INTERVAL_METHODS = ['drift', 'fixed', 'staircase', 'in-use'] as const
export type IntervalMethod = (typeof INTERVAL_METHODS)[number]

export const INTERVAL_METHOD_WORDS: Record<IntervalMethod, string> = {
  drift: 'by its own drift',
  fixed: 'fixed calendar',
  staircase: 'staircase',
  'in-use': 'hours in use',
}

/**
 * "Check, adjust only if needed" on top of any method: whether a visit begins with a check. A check on a sound sensor
 * saves the adjustment; to adjust always is the older school, and some authorities ask for it.
 */
export const CHECK_FIRST = ['when-sound', 'always', 'never'] as const
export type CheckFirst = (typeof CHECK_FIRST)[number]

export const CHECK_FIRST_WORDS: Record<CheckFirst, string> = {
  'when-sound': 'a sound one is checked first',
  always: 'check, adjust if needed',
  never: 'calibrate each time',
}

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
  /** The calendar that holds until the sensor's own drift is known, days; none: its drift alone, and that of its like. */
  startingDays?: number | null
  /** Never sooner, days. */
  floorDays: number
  /** Never later, days. */
  ceilingDays: number
  /** The interval of a fixed calendar, and the first one of a staircase, days. */
  fixedDays?: number | null
  /** Hours in use between visits, and how many of the 24 it is in use. */
  inUseHours?: number | null
  hoursPerDay?: number | null
  /** Where an hour meter is read: it outranks the hours a day that were stated. */
  hoursCounted?: HoursCounted | null
  checkFirst?: CheckFirst
}

export interface NextDate {
  at: number
  days: number
  /** What the rules make of it where a device has its numbers: the days to the visit after this one. */
  usualDays: number
  /** Days for which the wanted reliability holds, before floor and ceiling. */
  horizonDays: number
  /** The forecast reaches no farther: beyond it nothing is known. */
  beyond: boolean
  limitedBy: IntervalMethod | 'calendar' | 'floor' | 'ceiling' | 'authority' | 'numbers' | 'event'
  reason: Sentence
}

/** So many intervals of its own make a sensor's drift count as much as the calendar; common practice, no source. */
const EVEN_INTERVALS = 2

/**
 * How much the forecast counts beside the calendar that a new sensor starts with, 0 to 1: not at all before the first
 * interval, ever more with each that is seen, and alone once the sensor drifted out of its tolerance or has no calendar.
 * What its first visit finds tells nothing of its drift: nobody knows since when it was so.
 * @example forecastShare({ intervals: 2 }, { startingDays: 90, tolerance: 0.1 }, []) // 0.5
 */
export function forecastShare(
  { intervals }: Pick<DriftForecast, 'intervals'>,
  { method = 'drift', startingDays, tolerance }: Pick<IntervalPolicy, 'method' | 'startingDays' | 'tolerance'>,
  past: readonly DriftObservation[],
): number {
  if (method !== 'drift' || startingDays == null) return 1
  if (past.slice(1).some(({ asFound }) => asFound !== null && Math.abs(asFound) > tolerance)) return 1
  return intervals / (intervals + EVEN_INTERVALS)
}

/** A change of numbers is the reason from this loss of probability on, common practice, no source. */
const NUMBERS_COUNT = 0.05

/** Of a fixed calendar or the start of a staircase when none is stated: a month, common practice, no source. */
const USUAL_FIXED_DAYS = 30

/**
 * The next date under a policy, between floor and ceiling, with its reason. A device that changed its numbers and is no
 * longer sure to be within tolerance is due from that moment, whatever the rules.
 * @param past visits of the sensor, oldest first; only a staircase needs them
 * @param changes of the device's numbers since the last visit, oldest first; the forecast counts them from it on
 * @param happened since the last visit, what asks for a check, oldest first: it is due from the first of them on
 * @throws OutOfRange for a tolerance of zero, or a floor above the ceiling
 */
export function nextDate(
  forecast: DriftForecast,
  policy: IntervalPolicy,
  past: readonly DriftObservation[] = [],
  changes: readonly NumbersChange[] = [],
  happened: readonly { at: number; what: Sentence }[] = [],
): NextDate {
  requireWithin('Shortest interval', policy.floorDays, 0, policy.ceilingDays, 'd')
  const { method = 'drift' } = policy
  const shift = changes.reduce((sum, c) => sum + c.shift, 0)
  const changedAfter = daysUntilChanged(forecast, policy, changes, shift)
  const horizonDays = daysWithinTolerance(
    forecast,
    policy.tolerance,
    policy.reliability,
    FARTHEST_DAYS,
    changedAfter === null ? 0 : shift,
  )
  // What was read beside the display is no visit: all rules go on counting from the last one.
  const sinceVisit = daysSinceVisit(forecast, past)
  // What was seen since a visit and puts the sensor in doubt does not wait for a calendar.
  const share = sinceVisit > 0 && horizonDays === 0 ? 1 : forecastShare(forecast, policy, past)
  const visitedAt = forecast.from - sinceVisit * DAY_MS
  const byItself = method === 'drift' ? sinceVisit + horizonDays : wantedDays(method, policy, { from: visitedAt, past })
  const wanted = share < 1 ? Math.round(share * byItself + (1 - share) * startingDaysOf(policy)) : byItself
  const own = Math.min(policy.ceilingDays, Math.max(policy.floorDays, wanted))
  const usualDays = Math.min(own, policy.authorityDays ?? Number.POSITIVE_INFINITY)
  const allowed = Math.max(0, usualDays - sinceVisit)
  const event = happened.find((h) => h.at >= visitedAt)
  const eventAfter = event ? Math.max(0, (event.at - forecast.from) / DAY_MS) : Number.POSITIVE_INFINITY
  const days = Math.min(allowed, changedAfter ?? Number.POSITIVE_INFINITY, eventAfter)
  const limit =
    wanted < policy.floorDays ? 'floor' : wanted > policy.ceilingDays ? 'ceiling' : share < 1 ? 'calendar' : method
  const byEvent = event !== undefined && eventAfter <= Math.min(allowed, changedAfter ?? Number.POSITIVE_INFINITY)
  const limitedBy = byEvent ? 'event' : changedAfter !== null ? 'numbers' : usualDays < own ? 'authority' : limit
  return {
    at: forecast.from + days * DAY_MS,
    days,
    usualDays,
    horizonDays,
    beyond: horizonDays >= FARTHEST_DAYS,
    limitedBy,
    reason:
      limitedBy === 'event' && event
        ? say`${event.what}, ${{ at: event.at }}: check it before it is trusted again.`
        : limitedBy === 'numbers'
          ? changedWords(policy, shift)
          : intervalReason(forecast, policy, {
              horizonDays: horizonDays === 0 ? 0 : Math.round(sinceVisit + horizonDays),
              days: usualDays,
              limitedBy,
              share,
            }),
  }
}

/** Days from the last visit to where the forecast begins: what was read beside the display, or beside its twin. */
function daysSinceVisit(forecast: DriftForecast, past: readonly DriftObservation[]): number {
  const visit = past.findLast((o) => !o.beside)
  return visit ? Math.max(0, (forecast.from - visit.at) / DAY_MS) : 0
}

const startingDaysOf = ({ startingDays }: IntervalPolicy) =>
  requireWithin('Starting interval', startingDays ?? USUAL_FIXED_DAYS, 1, 3650, 'd')

/**
 * Days from the last visit to the change of numbers that made the sensor doubtful. Null where none did: where the drift
 * alone would have done as much, or numbers that went came back.
 */
function daysUntilChanged(
  forecast: DriftForecast,
  { tolerance, reliability }: IntervalPolicy,
  changes: readonly NumbersChange[],
  shift: number,
): number | null {
  const [first, last] = [changes[0], changes.at(-1)]
  if (!first || !last) return null
  const days = (at: number) => Math.max(0, (at - forecast.from) / DAY_MS)
  const within = probabilityInTolerance(forecast, days(last.at), tolerance)
  const withoutChange = probabilityBetween(forecast, days(last.at), shift - tolerance, shift + tolerance)
  return within < reliability && withoutChange - within > NUMBERS_COUNT ? days(first.at) : null
}

function changedWords({ unit = 'pH', decimals = 2 }: IntervalPolicy, shift: number): Sentence {
  const amount = difference(Math.abs(shift), unit, decimals)
  return say`The calibration in its device changed: it shows ${amount} too ${shift > 0 ? 'much' : 'little'}. Restore it, or calibrate.`
}

/** By a method that counts from the last visit. */
function wantedDays(
  method: Exclude<IntervalMethod, 'drift'>,
  policy: IntervalPolicy,
  { from, past }: { from: number; past: readonly DriftObservation[] },
): number {
  const fixed = requireWithin('Fixed interval', policy.fixedDays ?? USUAL_FIXED_DAYS, 1, 3650, 'd')
  switch (method) {
    case 'fixed':
      return fixed
    case 'staircase':
      return staircaseDays(past, fixed, policy)
    case 'in-use': {
      const hours = requireWithin('Hours in use', policy.inUseHours ?? 24 * fixed, 1, 100_000, 'h')
      if (policy.hoursCounted) return countedDays(hours, policy.hoursCounted, from)
      return Math.floor(hours / requireWithin('Hours a day', policy.hoursPerDay ?? 24, 0.1, 24, 'h'))
    }
  }
}

/** Days from the last visit until the hours are used up, as the meter counted them and at its pace of late. */
function countedDays(hours: number, { at, sinceVisit, perDay }: HoursCounted, from: number): number {
  const left = Math.max(0, hours - sinceVisit)
  const daysLeft = left === 0 ? 0 : perDay === 0 ? FARTHEST_DAYS : left / perDay
  return Math.min(FARTHEST_DAYS, Math.floor(Math.max(0, at - from) / DAY_MS + daysLeft))
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
  { horizonDays, days, limitedBy, share }: Pick<NextDate, 'horizonDays' | 'days' | 'limitedBy'> & { share: number },
): Sentence {
  if (limitedBy === 'calendar' || (share < 1 && limitedBy !== 'authority')) {
    return calendarWords(forecast, policy, { share, limitedBy })
  }
  const { unit = 'pH', decimals = 2 } = policy
  const limit = difference(policy.tolerance, unit, decimals)
  const sure = inPercent(policy.reliability, 0)
  const drift = driftWords(forecast, policy)
  const span = dayCount(horizonDays)
  const horizon =
    horizonDays >= FARTHEST_DAYS
      ? say`In tolerance for ${dayCount(FARTHEST_DAYS)} or more after a visit (${sure} sure)`
      : say`In tolerance for ${span} after a visit (${sure} sure)`
  switch (limitedBy) {
    case 'authority':
      return say`${drift} The authority’s rule: at least every ${dayCount(policy.authorityDays ?? days)}.`
    case 'ceiling':
      return say`${drift} House rule: check at least every ${dayCount(policy.ceilingDays)}.`
    case 'floor':
      if (horizonDays === 0)
        return say`${drift} Already likely outside ±${limit}. Shortest interval allowed: ${dayCount(policy.floorDays)}.`
      return say`${drift} In tolerance for ${span} after a visit. Shortest interval allowed: ${dayCount(policy.floorDays)}.`
    case 'fixed':
      return say`By the calendar, every ${dayCount(days)}. ${horizon}.`
    case 'staircase':
      return say`The staircase stands at ${dayCount(days)}. ${horizon}.`
    case 'in-use':
      if (policy.hoursCounted) return say`${countedWords(policy, policy.hoursCounted)} ${horizon}.`
      return say`${exactly(policy.inUseHours ?? 24 * days)} hours in use are ${dayCount(days)} here. ${horizon}.`
    default:
      return say`${drift} ${horizon}.`
  }
}

/** A date that the calendar made, with what the sensor's own drift had to say in it. */
function calendarWords(
  forecast: DriftForecast,
  policy: IntervalPolicy,
  { share, limitedBy }: Pick<NextDate, 'limitedBy'> & { share: number },
): Sentence {
  const usual = dayCount(startingDaysOf(policy))
  const bound =
    limitedBy === 'floor'
      ? say` Shortest interval allowed: ${dayCount(policy.floorDays)}.`
      : limitedBy === 'ceiling'
        ? say` House rule: check at least every ${dayCount(policy.ceilingDays)}.`
        : ''
  if (share === 0) return say`Nothing is known of its own drift yet: the usual ${usual} of the calendar hold.${bound}`
  const seen = forecast.intervals === 1 ? 'One interval is' : say`${exactly(forecast.intervals)} intervals are`
  return say`${driftWords(forecast, policy)} ${seen} seen: its own drift counts ${inPercent(share, 0)}, the usual ${usual} of the calendar the rest.${bound}`
}

function countedWords({ inUseHours }: IntervalPolicy, { sinceVisit, perDay }: HoursCounted): Sentence {
  const of = inUseHours ? say` of ${exactly(inUseHours)}` : ''
  return say`By the meter ${quantity(sinceVisit, '', 0)}${of} hours in use since the last visit, of late ${quantity(perDay, '', 1)} a day.`
}

function driftWords(forecast: DriftForecast, { tolerance, unit = 'pH', decimals = 2 }: IntervalPolicy): Sentence {
  if (forecast.intervals === 0) return 'Nothing is known of its drift yet, so sensors like it stand in.'
  const monthly = Math.abs(forecast.rate * 30)
  if (monthly < 0.04 * tolerance) return 'It hardly drifts.'
  const amount = difference(monthly, unit, monthly < 10 ** -decimals ? decimals + 1 : decimals)
  return say`It drifts ${amount} a month ${forecast.rate > 0 ? 'upwards' : 'downwards'}.`
}

/** Whether anything is said of a sensor's drift: where a calendar holds, not before the first interval of its own. */
export const isKnown = (
  { intervals }: Pick<DriftForecast, 'intervals'>,
  { startingDays }: Pick<IntervalPolicy, 'startingDays'>,
): boolean => intervals > 0 || startingDays == null

export type SensorState =
  | 'holding'
  | 'drifting'
  | 'suspect'
  | 'out soon'
  | 'due'
  | 'overdue'
  | 'out'
  | 'alarm'
  | 'resting'
  | 'blind'

/** `due` from this many days ahead of the date, common practice, no source. */
const DUE_AHEAD_DAYS = 3
/** A date missed by this share of the interval is overdue, by a day at least. */
const OVERDUE_SHARE = 0.1
const OVERDUE_DAYS = 1
/** A mean error beyond this share of the tolerance at the due date is drift worth the word. */
const DRIFTING_SHARE = 0.35

/**
 * The word for a sensor's state now, by its drift and its date. `resting` (a visit under way) and `blind` (no data) are
 * facts of the moment and come from the caller; `suspect` and `out soon` come from what leads (see leadingFact).
 */
export function sensorState(
  forecast: DriftForecast,
  policy: IntervalPolicy,
  next: NextDate,
  now: number,
): 'holding' | 'drifting' | 'due' | 'overdue' | 'out' {
  const since = Math.max(0, (now - forecast.from) / DAY_MS)
  if (isKnown(forecast, policy) && probabilityInTolerance(forecast, since, policy.tolerance) < 0.5) return 'out'
  const late = (now - next.at) / DAY_MS
  if (late > Math.max(OVERDUE_SHARE * next.days, OVERDUE_DAYS)) return 'overdue'
  if (late >= -DUE_AHEAD_DAYS) return 'due'
  const atDue = expectedError(forecast, next.days)
  return isKnown(forecast, policy) && Math.abs(atDue.mean) > DRIFTING_SHARE * policy.tolerance ? 'drifting' : 'holding'
}
