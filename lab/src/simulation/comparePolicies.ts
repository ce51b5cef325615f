import { type DriftFilter, startFilter, updateFilter } from '../../../core/src/drift/driftFilter.ts'
import {
  type DriftForecast,
  daysWithinTolerance,
  forecastOf,
  probabilityInTolerance,
  USUAL_PH,
} from '../../../core/src/drift/driftForecast.ts'
import { driftHypotheses } from '../../../core/src/drift/hypothesis.ts'
import { DAY_MS, type UsualDrift } from '../../../core/src/drift/observation.ts'
import { sitePriors } from '../../../core/src/drift/sitePrior.ts'
import { withTwin } from '../../../core/src/drift/twin.ts'
import { staircaseInterval } from '../../../core/src/planning/staircase.ts'
import { Z95 } from '../../../core/src/statistics/normalDistribution.ts'
import type { RandomStream } from '../../../core/src/statistics/random.ts'

export type ComparedPolicy = 'monthly' | 'staircase' | 'drift'

/** A sensor that is played: its error on each day, had nobody touched it, and the scatter of a visit's reading. */
export interface PlayedCourse {
  untouched: Float64Array
  /** Standard deviation, the same on all days or one a day. */
  noise: number | Float64Array
}

const noiseOn = ({ noise }: PlayedCourse, day: number): number =>
  typeof noise === 'number' ? noise : (noise[day] as number)

/** What a visit found, and what had been forecast for it. */
export interface PlayedVisit {
  sensor: number
  forecast: DriftForecast
  /** Since the visit before. */
  days: number
  found: number
  /** What the visit before left. */
  left: number
  noise: number
}

export interface ComparisonRules {
  tolerance: number
  reliability: number
  floorDays: number
  ceilingDays: number
  /** An error found beyond this share of the tolerance is adjusted away. */
  adjustFrom: number
  usual: UsualDrift
  /** Sensors that hang beside another one, whose differences are looked at every so many days. */
  beside?: BesideRules
  /** On which day somebody really comes, where it is not the day on which it is due. */
  comes?: (due: number, today: number) => number
  /** Only what happens from this day on is counted. */
  countFrom?: number
  /** Told of each visit under the drift policy, before the forecast learns from it. */
  onVisit?: (visit: PlayedVisit) => void
}

interface BesideRules {
  /** The twin of sensor number `i`, among the same sensors. */
  twinOf: (i: number) => number
  everyDays: number
  /** Standard deviation of a difference, and the half-width that is stated for it. */
  sd: number
  uncertainty: number
}

const USUAL_RULES: ComparisonRules = {
  tolerance: 0.1,
  reliability: 0.95,
  floorDays: 2,
  ceilingDays: 365,
  adjustFrom: 0.25,
  usual: USUAL_PH,
}

export interface PolicyScore {
  visits: number
  inTolerance: number
  daysOut: number
  sensorDays: number
  /** Visits at the least and at the greatest interval. */
  atFloor: number
  atCeiling: number
  /** Sum of the probabilities that the forecast gave for the visits. */
  expected: number
}

const MONTH = 30

/**
 * Plays a site's sensors day by day under a policy and counts visits, those that met the sensor within tolerance, and
 * days out of it. The forecast sees nothing but what the visits read.
 * @returns a score for each sensor
 */
export function playPolicy(
  policy: ComparedPolicy,
  courses: readonly PlayedCourse[],
  random: RandomStream,
  changed: Partial<ComparisonRules> = {},
): PolicyScore[] {
  const rules = { ...USUAL_RULES, ...changed }
  const hypotheses = driftHypotheses(rules.usual)
  const days = (courses[0] as PlayedCourse).untouched.length - 1
  const { comes = (due) => due, countFrom = 0 } = rules
  const filters: DriftFilter[] = courses.map((c) =>
    startFilter(hypotheses, {
      at: 0,
      asFound: null,
      asLeft: 0,
      uncertainty: Z95 * noiseOn(c, 0),
      adjusted: true,
    }),
  )
  const general = Float64Array.from(hypotheses, (h) => h.prior)
  let priors = courses.map(() => general)
  const corrections = courses.map((c) => -noiseOn(c, 0) * random.normal())
  const scores = courses.map(
    (): PolicyScore => ({
      visits: 0,
      inTolerance: 0,
      daysOut: 0,
      sensorDays: days - countFrom,
      atFloor: 0,
      atCeiling: 0,
      expected: 0,
    }),
  )
  const promised = courses.map(() => 0)
  const lefts = courses.map(() => 0)
  const intervalOf = (i: number): number => {
    const forecast = forecastOf(hypotheses, filters[i] as DriftFilter, priors[i] as Float64Array)
    const horizon = daysWithinTolerance(forecast, rules.tolerance, rules.reliability, rules.ceilingDays)
    const days = Math.min(rules.ceilingDays, Math.max(rules.floorDays, horizon))
    promised[i] = probabilityInTolerance(forecast, days, rules.tolerance)
    return days
  }
  const intervals = courses.map((_, i) => (policy === 'drift' ? intervalOf(i) : MONTH))
  const due = intervals.map((interval) => comes(interval, 0))
  const visited = courses.map(() => 0)
  const lookBeside = (day: number, { twinOf, sd, uncertainty }: BesideRules) => {
    const forecasts = courses.map((_, i) =>
      forecastOf(hypotheses, filters[i] as DriftFilter, priors[i] as Float64Array),
    )
    const errors = courses.map(
      (c, i) => (c.untouched[day] as number) - (corrections[i] as number) + (sd / Math.SQRT2) * random.normal(),
    )
    courses.forEach((_, i) => {
      const twin = twinOf(i)
      const seen = withTwin(forecasts[i] as DriftForecast, forecasts[twin] as DriftForecast, {
        at: day * DAY_MS,
        difference: (errors[i] as number) - (errors[twin] as number),
        uncertainty,
      })
      const wanted = day + daysWithinTolerance(seen, rules.tolerance, rules.reliability, rules.ceilingDays)
      // Two that agree may both be wrong: nothing is put off by it.
      const last = visited[i] as number
      due[i] = Math.max(last + rules.floorDays, Math.min(last + (intervals[i] as number), wanted))
      promised[i] = probabilityInTolerance(seen, (due[i] as number) - day, rules.tolerance)
    })
  }
  for (let day = 1; day <= days; day++) {
    if (policy === 'drift' && day % MONTH === 0) priors = sitePriors(hypotheses, filters) as typeof priors
    if (policy === 'drift' && rules.beside && day % rules.beside.everyDays === 0) lookBeside(day, rules.beside)
    courses.forEach((course, i) => {
      const score = scores[i] as PolicyScore
      const error = (course.untouched[day] as number) - (corrections[i] as number)
      if (day >= countFrom && Math.abs(error) > rules.tolerance) score.daysOut++
      if (day < (due[i] as number)) return
      visited[i] = day
      if (day >= countFrom) {
        score.visits++
        score.expected += promised[i] as number
        if (intervals[i] === rules.floorDays) score.atFloor++
        if (intervals[i] === rules.ceilingDays) score.atCeiling++
        if (Math.abs(error) <= rules.tolerance) score.inTolerance++
      }
      const noise = noiseOn(course, day)
      const found = error + noise * random.normal()
      const adjusted = Math.abs(found) > rules.adjustFrom * rules.tolerance
      if (adjusted) corrections[i] = (course.untouched[day] as number) + noise * random.normal()
      if (policy === 'drift') {
        if (rules.onVisit) {
          const forecast = forecastOf(hypotheses, filters[i] as DriftFilter, priors[i] as Float64Array)
          const since = (day * DAY_MS - forecast.from) / DAY_MS
          rules.onVisit({ sensor: i, forecast, days: since, found, left: lefts[i] as number, noise })
        }
        lefts[i] = adjusted ? 0 : found
        filters[i] = updateFilter(filters[i] as DriftFilter, hypotheses, {
          at: day * DAY_MS,
          asFound: found,
          asLeft: adjusted ? 0 : found,
          uncertainty: Z95 * noise,
          adjusted,
        })
        intervals[i] = intervalOf(i)
      } else if (policy === 'staircase') {
        intervals[i] = staircaseInterval(intervals[i] as number, Math.abs(found) <= rules.tolerance, rules)
      }
      due[i] = comes(day + (intervals[i] as number), day)
    })
  }
  return scores
}

/** Scores added up. */
export function addScores(scores: readonly PolicyScore[]): PolicyScore {
  return scores.reduce((a, b) => ({
    visits: a.visits + b.visits,
    inTolerance: a.inTolerance + b.inTolerance,
    daysOut: a.daysOut + b.daysOut,
    sensorDays: a.sensorDays + b.sensorDays,
    atFloor: a.atFloor + b.atFloor,
    atCeiling: a.atCeiling + b.atCeiling,
    expected: a.expected + b.expected,
  }))
}
