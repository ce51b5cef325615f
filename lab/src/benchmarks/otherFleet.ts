import { forecastOfReading, median, modelOf, randomStream } from '@frustum/core'
import {
  DRIFT_SORTS,
  drawHeldBackSite,
  drawPair,
  drawSite,
  HELD_BACK_DRIFT,
  type OtherCourse,
} from '@frustum/lab/other-simulation'
import { addScores, type PlayedVisit, type PolicyScore, playPolicy } from '@frustum/lab/simulation'
import type { BenchRow } from './ageing.ts'
import { withInterval } from './intervals.ts'

const DAYS = 1205
const SENSORS = 20

type Sort = OtherCourse['sort']

interface Played {
  sort: Sort
  score: PolicyScore
  visits: PlayedVisit[]
}

function play(sites: number, seed: number, draw = drawSite, rules: Parameters<typeof playPolicy>[3] = {}): Played[] {
  const random = randomStream(seed)
  return Array.from({ length: sites }, () => draw(SENSORS, DAYS, random.fork())).flatMap((site) => {
    const visits: PlayedVisit[][] = site.map(() => [])
    const scores = playPolicy('drift', site, random.fork(), {
      ...rules,
      onVisit: (v) => (visits[v.sensor] as PlayedVisit[]).push(v),
    })
    return site.map(({ sort }, i) => ({ sort, score: scores[i] as PolicyScore, visits: visits[i] as PlayedVisit[] }))
  })
}

const logDensity = (z: number, sd: number) => -0.5 * z * z - Math.log(sd * Math.sqrt(2 * Math.PI))

/** "The last error stays": as uncertain as a random walk of one figure for all sensors, the best one found afterwards. */
function lastStays(visits: readonly PlayedVisit[]): number {
  const scored = (walk: number) =>
    visits.reduce((sum, v) => {
      const sd = Math.sqrt(2 * v.noise ** 2 + walk * v.days)
      return sum + logDensity((v.found - v.left) / sd, sd)
    }, 0) / visits.length
  return Math.max(...GRID.map((times) => scored(times * 1e-5)))
}

const GRID = Array.from({ length: 17 }, (_, i) => 0.05 * 2 ** (i / 1.5))

/**
 * A plain local linear trend (level and rate wander; J. Durbin and S. J. Koopman, 2nd ed., ch. 3.2) for each sensor alone:
 * figures the same for all of them, the best ones found afterwards.
 */
function plainTrend(sensors: readonly (readonly PlayedVisit[])[]): number {
  const count = sensors.reduce((sum, s) => sum + s.length, 0)
  const scored = (walk: number, wander: number, spread: number) =>
    sensors.reduce((total, visits) => {
      let [error, rate, ee, er, rr] = [0, 0, 0.01 ** 2, 0, spread ** 2]
      let sum = 0
      for (const { days: d, found, left, noise } of visits) {
        error = left + rate * d
        ee += 2 * d * er + d * d * rr + walk * d + (wander * d ** 3) / 3
        er += d * rr + (wander * d * d) / 2
        rr += wander * d
        const variance = ee + noise ** 2
        const miss = found - error
        sum += logDensity(miss / Math.sqrt(variance), Math.sqrt(variance))
        rate += (er / variance) * miss
        rr -= (er * er) / variance
        // The visit leaves what it read or set, as closely as it reads.
        ee = noise ** 2
        er = 0
      }
      return total + sum
    }, 0) / count
  const walks = GRID.filter((_, i) => i % 2 === 0)
  return Math.max(
    ...walks.flatMap((walk) =>
      [1e-10, 1e-9, 1e-8, 1e-7].flatMap((wander) =>
        [1e-4, 3e-4, 1e-3, 3e-3].map((spread) => scored(walk * 1e-5, wander, spread)),
      ),
    ),
  )
}

const share = (s: PolicyScore) => s.inTolerance / s.visits
const text = (s: PolicyScore) =>
  `${((365 * s.visits) / s.sensorDays).toFixed(2)} visits a year, ${withInterval(share(s), s.visits)} met in tolerance, ${((365 * s.daysOut) / s.sensorDays).toFixed(2)} d out`

interface FleetScore {
  all: PolicyScore
  bySort: (sort: Sort) => PolicyScore
  /** Mean log score of a visit: of the forecast, a plain trend, and of "the last error stays". */
  own: number
  plain: number
  stays: number
  /** Share of the readings outside of the middle 95 %, within the middle half, and the median place. */
  outside: number
  middle: number
  place: number
  visits: number
}

/** The closed loop by sort, and each visit scored before it was seen. */
function scoreFleet(played: readonly Played[]): FleetScore {
  const visits = played.flatMap((p) => p.visits)
  const scored = visits.map((v) => forecastOfReading(v.forecast, v.days, { value: v.found, sd: v.noise }))
  const pit = (low: number, high: number) =>
    scored.filter((s) => s.below >= low && s.below < high).length / scored.length
  return {
    all: addScores(played.map((p) => p.score)),
    bySort: (sort) => addScores(played.filter((p) => p.sort === sort).map((p) => p.score)),
    own: scored.reduce((sum, s) => sum + Math.log(Math.max(s.density, 1e-12)), 0) / scored.length,
    plain: plainTrend(played.map((p) => p.visits)),
    stays: lastStays(visits),
    outside: pit(0, 0.025) + pit(0.975, 1.0001),
    middle: pit(0.25, 0.75),
    place: median(scored.map((s) => s.below)),
    visits: visits.length,
  }
}

const logScores = ({ own, plain, stays }: FleetScore): string =>
  `${own.toFixed(3)} against ${plain.toFixed(3)} (last error stays: ${stays.toFixed(3)})`
const places = ({ outside, visits, middle, place }: FleetScore): string =>
  `${withInterval(outside, visits)}; middle half holds ${(100 * middle).toFixed(1)} %; median place ${place.toFixed(2)}`

/** The forecast on fleets of another simulation. */
export function otherFleetRows(sites = 16, seed = 5): BenchRow[] {
  const score = scoreFleet(play(sites, seed))
  const { all } = score
  return [
    {
      what: 'forecast elsewhere, a sensor-year',
      measured: text(all),
      wanted: 'at most 6.8 visits, 95 % in tolerance, 2.7 d out',
      ok:
        share(all) >= 0.95 && (365 * all.visits) / all.sensorDays <= 6.8 && (365 * all.daysOut) / all.sensorDays <= 2.7,
    },
    ...DRIFT_SORTS.map((sort) => {
      const s = score.bySort(sort)
      return { what: `  ${sort}`, measured: text(s), wanted: 'at least 91 % in tolerance', ok: share(s) >= 0.91 }
    }),
    {
      what: '  log score a visit, against a plain trend',
      measured: logScores(score),
      wanted: 'at least 0.05 better',
      ok: score.own - score.plain >= 0.05,
    },
    {
      what: '  readings outside of the middle 95 % of their forecast',
      measured: places(score),
      wanted: '5 and 50 %',
      ok: null,
    },
  ]
}

const HELD_BACK_SEED = 60_617

/** Fleets that nobody looked at while the forecast was changed: the result, with its date, goes into docs. */
export function heldBackForecast(today: string): string[] {
  const known = scoreFleet(play(16, HELD_BACK_SEED))
  const other = scoreFleet(play(8, HELD_BACK_SEED, drawHeldBackSite))
  const lines = (score: FleetScore, sorts: readonly Sort[]) => [
    `- All: ${text(score.all)}.`,
    ...sorts.map((sort) => `- ${sort}: ${text(score.bySort(sort))}.`),
    `- Log score a visit ${logScores(score)}; outside of the middle 95 %: ${places(score)}.`,
  ]
  return [
    '## Forecast',
    '',
    `Written by \`npm run held-back\` on ${today}: 320 sensors over 3.3 years of the sorts that the forecast was tried on, with a`,
    `seed that it was not (${HELD_BACK_SEED}).`,
    '',
    ...lines(known, DRIFT_SORTS),
    '',
    '160 sensors of three sorts that it never was tried on:',
    '',
    ...lines(other, HELD_BACK_DRIFT),
    '',
    'Pairs, their differences looked at weekly:',
    '',
    ...pairRows(2, HELD_BACK_SEED).map((r) => `- ${r.what.trim()}: ${r.measured}.`),
    '',
  ]
}

/** Two in the same water, whose differences are looked at weekly, and the same two each for itself. */
export function pairRows(sites = 2, seed = 31): BenchRow[] {
  const sd = 0.012
  const beside = { twinOf: (i: number) => i ^ 1, everyDays: 7, sd, uncertainty: 1.96 * sd }
  return [0, 0.5, 1].map((together) => {
    const random = randomStream(seed)
    const waters = Array.from({ length: sites }, () =>
      DRIFT_SORTS.flatMap((sort) => drawPair(sort, DAYS, together, random.fork())),
    )
    const play = (rules: Parameters<typeof playPolicy>[3]) => {
      const own = randomStream(seed + 1)
      return addScores(waters.flatMap((water) => playPolicy('drift', water, own.fork(), rules)))
    }
    // So much less is wanted that the visits are about equal.
    const [alone, seen, equal] = [play({}), play({ beside }), play({ beside, reliability: 0.92 })]
    return {
      what: `  pairs, ${100 * together} % of their drift in common`,
      measured: `${text(seen)}; with 92 % wanted ${text(equal)}; each alone ${text(alone)}`,
      wanted: together === 1 ? 'no more days out' : 'at equal visits a fifth fewer days out',
      ok: together === 1 ? seen.daysOut <= alone.daysOut : equal.daysOut <= 0.8 * alone.daysOut,
    }
  })
}

const USUAL_PH = modelOf('ph').usualDrift

interface Group {
  what: string
  sensors: number
  /** No date can keep such as are left at the limit, or may not be visited sooner. */
  open?: true
  rules: Parameters<typeof playPolicy>[3]
}

const GROUPS: readonly Group[] = [
  { what: 'a site with one sensor', sensors: 1, rules: {} },
  { what: 'left as it is unless out', sensors: 10, open: true, rules: { adjustFrom: 1 } },
  {
    what: 'taken for ten times as quiet as they are',
    sensors: 10,
    rules: { usual: { rateSd: USUAL_PH.rateSd / 10, walk: USUAL_PH.walk / 100 } },
  },
  {
    what: 'taken for five times as wild as they are',
    sensors: 10,
    rules: { usual: { rateSd: 5 * USUAL_PH.rateSd, walk: 25 * USUAL_PH.walk } },
  },
  {
    what: 'with a past of a year by the calendar, monthly',
    sensors: 10,
    rules: { comes: (due, today) => (today < 365 ? today + 30 : due), countFrom: 396 },
  },
  {
    what: 'after a year in which nobody came',
    sensors: 10,
    rules: { comes: (due) => (due > 400 && due < 765 ? 765 : due), countFrom: 766 },
  },
  { what: 'visited once a quarter at most', sensors: 10, open: true, rules: { floorDays: 90 } },
]

/** Sites that come by the calendar alone: how well each visit was foreseen. */
function calendarRow(sensors: number, seed: number): BenchRow {
  const visits = play(sensors / SENSORS, seed, drawSite, { comes: (_, today) => today + 30 }).flatMap((p) => p.visits)
  const outside = visits.filter((v) => {
    const { below } = forecastOfReading(v.forecast, v.days, { value: v.found, sd: v.noise })
    return below < 0.025 || below > 0.975
  })
  return {
    what: '  visited every 30 days whatever is forecast: readings outside of their middle 95 %',
    measured: withInterval(outside.length / visits.length, visits.length),
    wanted: '5 %',
    ok: null,
  }
}

/** Groups of sites that are not as the forecast would like them. */
export function groupRows(sensors = 80, seed = 41): BenchRow[] {
  const groups = GROUPS.map(({ what, sensors: each, open, rules }) => {
    const random = randomStream(seed)
    const scores = Array.from({ length: sensors / each }, () => drawSite(each, DAYS, random.fork())).flatMap((site) =>
      playPolicy('drift', site, random.fork(), rules),
    )
    const all = addScores(scores)
    return {
      what: `  ${what}`,
      measured: text(all),
      wanted: open ? '' : 'at least 91 % in tolerance',
      ok: open ? null : share(all) >= 0.91,
    }
  })
  return [...groups, calendarRow(sensors, seed)]
}
