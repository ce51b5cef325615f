import { requireWithin } from '../quantities/outOfRange.ts'
import { likelihood, quantity, type Sentence, say, signedQuantity } from '../quantities/sentence.ts'
import { Z95 } from '../statistics/normalDistribution.ts'
import { joinFilters } from './driftFilter.ts'
import {
  type DriftForecast,
  expectedError,
  FARTHEST_DAYS,
  filterHistory,
  forecastOf,
  probabilityBelow,
} from './driftForecast.ts'
import { ageingHypotheses } from './hypothesis.ts'
import { DAY_MS } from './observation.ts'

/** A number that ages towards a limit: slope efficiency, zero, settling time. */
export interface AgeingSeries {
  /** In the words of the sentence: "slope", "settling time". */
  name: string
  unit: string
  decimals: number
  /** Beyond it the sensor is to be replaced. */
  limit: number
  /** Standard deviation of the limit itself, where it was worked out from readings; same unit. */
  limitSd?: number
  /** On which side the limit lies. */
  dies: 'below' | 'above'
  /** What it is when new, and to what standard deviation one visit tells it. */
  fresh: number
  readSd: number
  /** It ages by ratios, as times do: twice as long, and twice as long again. */
  byRatio?: true
  points: readonly { at: number; value: number }[]
  /** Epoch ms of events that made it another sensor (refilled, poisoned): its course is open again from then on. */
  changedAt?: readonly number[]
}

export interface EndOfLife {
  name: string
  /** When the limit is as likely crossed as not, epoch ms; null when that lies beyond what can be told. */
  at: number | null
  /** 95 % interval; an open end is null. */
  earliest: number | null
  latest: number | null
  reason: Sentence
  /** Something is wrong with it that ends it sooner than any of its numbers. */
  byCause?: true
}

/** Fewer points tell no trend. */
const LEAST_POINTS = 3
/** Multiples of the scatter that is usual: what is read carefully scatters less. */
const SCATTERS = [
  { times: 0.5, share: 0.5 },
  { times: 1.6, share: 0.5 },
]
/** So many of the newest visits are looked at: what is older hardly counts. */
const NEWEST = 24
/** A number gets to its limit in so many days, about; common practice, no source. */
const USUAL_LIFE_DAYS = 730
/** Days at which it is looked whether the limit was crossed by then. */
const LOOKED_AT = [0, 4, 8, 14, 21, 30, 45, 60, 80, 100, 130, 160, 200, 250, 310, 380, 460, 550, 640, FARTHEST_DAYS]

/**
 * When an ageing number crosses its limit. Its course is not known: steady and wandering trends, such that speed up or
 * fade, turn or jump, are weighed by the visits as drift is (see `forecastSite`), and with them how widely the visits
 * scatter. The end is the day by which half of what is likely is beyond the limit; 95 % of it lie between the earliest and
 * the latest. Never "never": beyond what is forecast at all it says so.
 * @throws OutOfRange for a limit that is no number
 */
export function endOfLife(series: AgeingSeries): EndOfLife {
  const { name, unit, decimals, limit, dies } = series
  requireWithin('Limit', limit, -1e12, 1e12)
  const scale = series.byRatio ? Math.log : (v: number) => v
  // Of two at one instant the first one counts: a trend cannot tell them apart.
  const points = series.points.filter(
    (p, i, all) => Number.isFinite(scale(p.value)) && (i === 0 || p.at > (all[i - 1] as { at: number }).at),
  )
  const last = points.at(-1)
  if (!last || points.length < LEAST_POINTS) {
    const reason = `Too few visits yet to tell the trend of its ${name}.`
    return { name, at: null, earliest: null, latest: null, reason }
  }
  const sign = dies === 'below' ? -1 : 1
  const end = scale(limit)
  const forecast = forecastOfWay(
    series.changedAt ?? [],
    points.slice(-NEWEST).map((p) => ({ at: p.at, value: sign * (scale(p.value) - end) })),
    {
      range: Math.abs(scale(series.fresh) - end),
      readSd: series.byRatio ? series.readSd / series.fresh : series.readSd,
      limitSd: (series.limitSd ?? 0) / (series.byRatio ? limit : 1),
    },
  )
  const by = crossingDays((days) => 1 - probabilityBelow(forecast, days, 0))
  const unscaled = (v: number) => (series.byRatio ? limit * Math.exp(sign * v) : limit + sign * v)
  const today = unscaled(expectedError(forecast, 0).mean)
  const text = (v: number) => quantity(v, unit, decimals)
  const at = (days: number | null) => (days === null ? null : last.at + days * DAY_MS)
  if (by(0.5) === 0) {
    const reason = say`Its ${name} is ${text(today)}, beyond ${text(limit)} now.`
    return { name, at: last.at, earliest: last.at, latest: last.at, reason }
  }
  const monthly = unscaled(expectedError(forecast, 30).mean) - today
  const pace = say`Its ${name} is ${text(today)} and moves ${signedQuantity(monthly, unit, decimals)} a month; the limit is ${text(limit)}.`
  const middle = at(by(0.5))
  return {
    name,
    at: middle,
    earliest: at(by(0.025)),
    latest: at(by(0.975)),
    reason: middle === null ? say`${pace} No end in sight from these visits.` : pace,
  }
}

/** The same, where some time went by since the last visit: what should have ended by now ends now. */
export function fromNow(end: EndOfLife, now: number): EndOfLife {
  const later = (at: number | null) => (at === null ? null : Math.max(at, now))
  return { ...end, at: later(end.at), earliest: later(end.earliest), latest: later(end.latest) }
}

/** Forecast of the way that is still to go: courses and scatters of the visits are weighed at once. */
function forecastOfWay(
  changedAt: readonly number[],
  points: readonly { at: number; value: number }[],
  { range, readSd, limitSd }: { range: number; readSd: number; limitSd: number },
): DriftForecast {
  const hypotheses = ageingHypotheses(range / USUAL_LIFE_DAYS)
  const filters = SCATTERS.map(({ times }) => {
    const uncertainty = Z95 * times * readSd
    return filterHistory(hypotheses, {
      changedAt,
      observations: points.map(({ at, value }) => ({
        at,
        asFound: value,
        asLeft: value,
        uncertainty,
        adjusted: false,
      })),
    })
  })
  const forecast = forecastOf(
    SCATTERS.flatMap(() => hypotheses),
    joinFilters(filters),
    SCATTERS.flatMap(({ share }) => hypotheses.map((h) => share * h.prior)),
  )
  for (const { belief } of forecast.courses) belief.errorVariance += limitSd ** 2
  return forecast
}

/** Days until a probability that grows has reached what is asked for; null where it has not at the farthest. */
function crossingDays(probability: (days: number) => number): (p: number) => number | null {
  const seen = LOOKED_AT.map((days) => ({ days, p: probability(days) }))
  return (p) => {
    const i = seen.findIndex((s) => s.p >= p)
    const [before, after] = [seen[i - 1], seen[i]]
    if (!after) return null
    return before ? before.days + ((after.days - before.days) * (p - before.p)) / (after.p - before.p) : after.days
  }
}

/**
 * The first end of several: of those that have a date the soonest, else the one that cannot be excluded the soonest.
 * A cause that nothing done at a visit mends comes before any of them.
 * @param cause what the sensor's record points to, where it names a cause
 */
export function firstEnd(
  ends: readonly EndOfLife[],
  cause: { name: string; probability: number; final: boolean } | null,
  now: number,
): EndOfLife | null {
  if (cause?.final) {
    const reason = say`Likely ${cause.name} (${likelihood(cause.probability)} sure): nothing done at a visit brings it back.`
    return { name: cause.name, at: now, earliest: now, latest: now, byCause: true, reason }
  }
  return (
    ends.filter((e) => e.at !== null || e.earliest !== null).toSorted((a, b) => endOrder(a) - endOrder(b))[0] ?? null
  )
}

/** What has no date comes after all that have one. */
const UNDATED_MS = 1e6 * DAY_MS

/** To sort ends by: the soonest first, and those without a date after all others, by when they cannot be excluded. */
export const endOrder = ({ at, earliest }: Pick<EndOfLife, 'at' | 'earliest'>): number =>
  at ?? (earliest ?? Number.MAX_SAFE_INTEGER / 2) + UNDATED_MS

/**
 * When to order a spare: its lead time before the earliest end that is still likely (2.5 %), never in the past; null as
 * long as no end has a date.
 * @throws OutOfRange for a negative lead time
 */
export function orderBy({ at, earliest }: EndOfLife, leadDays: number, now: number): number | null {
  requireWithin('Lead time', leadDays, 0, 1000, 'd')
  return at === null ? null : Math.max(now, (earliest ?? at) - leadDays * DAY_MS)
}
