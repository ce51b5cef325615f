import { type DriftForecast, daysWithinTolerance } from '../drift/driftForecast.ts'
import { DAY_MS } from '../drift/observation.ts'
import { type IntervalPolicy, isKnown, type NextDate, type SensorState } from './interval.ts'

/** What comes before a sensor's next date, and so is said before its drift. */
export type LeadingFact =
  /** Likelier out than in from then on. */
  | { kind: 'out'; at: number }
  /** An ageing figure reaches its limit. */
  | { kind: 'end'; name: string; at: number }
  /** Something is likely wrong already. */
  | { kind: 'cause'; name: string; probability: number }

/** From this probability on a cause is named, common practice, no source. */
const LIKELY = 0.5

/**
 * The fact that leads over "holding" and "drifting"; null where nothing comes before the next date.
 * @param health the likeliest cause other than "nothing wrong", and the first end of life, where there are any
 */
export function leadingFact(
  forecast: DriftForecast,
  policy: Pick<IntervalPolicy, 'tolerance' | 'startingDays'>,
  next: Pick<NextDate, 'at' | 'days'>,
  health: { cause: { name: string; probability: number } | null; end: { name: string; at: number | null } | null },
): LeadingFact | null {
  const facts: (LeadingFact & { at?: number })[] = []
  const outAfter = daysWithinTolerance(forecast, policy.tolerance, 0.5, Math.ceil(next.days))
  if (isKnown(forecast, policy) && outAfter < next.days)
    facts.push({ kind: 'out', at: forecast.from + outAfter * DAY_MS })
  const { cause, end } = health
  if (end && end.at !== null && end.at < next.at) facts.push({ kind: 'end', name: end.name, at: end.at })
  if (cause && cause.probability > LIKELY) facts.push({ kind: 'cause', ...cause })
  // What is wrong already comes before what is expected.
  return facts.toSorted((a, b) => (a.at ?? 0) - (b.at ?? 0))[0] ?? null
}

/** The word for a state with a fact that leads: what needs hands anyway keeps its own. */
export const stateWith = (state: SensorState, fact: LeadingFact | null): SensorState =>
  fact && (state === 'holding' || state === 'drifting') ? (fact.kind === 'out' ? 'out soon' : 'suspect') : state
