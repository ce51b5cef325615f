import { DAY_MS, type EndOfLife, endOfLife, median, randomStream } from '@frustum/core'
import { firstDayBelow, LIFE_SORTS, type LifeSort, simulateLife } from '@frustum/lab/other-simulation'
import type { BenchRow } from './ageing.ts'
import { withInterval } from './intervals.ts'

const LIMIT = 85

interface Asked {
  sort: LifeSort
  visits: number
  now: number
  truth: number
  end: EndOfLife
}

function ask(each: number, seed: number): Asked[] {
  const random = randomStream(seed)
  return LIFE_SORTS.flatMap((sort) =>
    Array.from({ length: each }, () => simulateLife(sort, random.fork())).flatMap((life) => {
      const truth = DAY_MS * (firstDayBelow(life, LIMIT) ?? Number.POSITIVE_INFINITY)
      const points = life.readings.map((r) => ({ at: r.day * DAY_MS, value: r.value }))
      const before = points.filter((p) => p.at < truth).length
      if (before < 3) return []
      const visits = 3 + Math.floor(random.uniform() * (before - 2))
      const end = endOfLife({
        name: 'slope',
        unit: '%',
        decimals: 1,
        limit: LIMIT,
        dies: 'below',
        fresh: 98.5,
        readSd: 0.4,
        points: points.slice(0, visits),
      })
      const now = (points[visits - 1] as { at: number }).at
      // A reading that strayed below the limit is no forecast.
      return end.at === now ? [] : [{ sort, visits, now, truth, end }]
    }),
  )
}

const held = ({ truth, end: { earliest, latest } }: Asked): boolean =>
  truth >= (earliest ?? 0) && truth <= (latest ?? Number.POSITIVE_INFINITY)

function row(what: string, all: readonly Asked[], wanted: string): BenchRow {
  const stated = all.filter(({ end }) => end.earliest !== null || end.latest !== null)
  const dated = all.filter((a) => a.end.at !== null && Number.isFinite(a.truth))
  const share = stated.filter(held).length / stated.length
  const off = median(dated.map((a) => Math.abs((a.end.at as number) - a.truth) / Math.max(DAY_MS, a.truth - a.now)))
  return {
    what,
    measured: `holds in ${withInterval(share, stated.length)} of ${stated.length}; a date in ${((100 * dated.length) / all.length).toFixed(0)} %, off by ${(100 * off).toFixed(0)} % of the time to go (median)`,
    wanted,
    ok: wanted === '' ? null : share >= 0.93 && share <= 0.98,
  }
}

/** The end of life on lives of another simulation, asked at any visit from the third on. */
export function otherLifeRows(each = 200, seed = 11): BenchRow[] {
  const all = ask(each, seed)
  return [
    row('end of life elsewhere, 95 % interval', all, '93 to 98 %'),
    ...LIFE_SORTS.map((sort) =>
      row(
        `  ${sort}`,
        all.filter((a) => a.sort === sort),
        '',
      ),
    ),
    row(
      '  after 3 to 5 visits',
      all.filter((a) => a.visits <= 5),
      '',
    ),
  ]
}

const HELD_BACK_SEED = 71_203

/** Lives that nobody looked at while the end of life was changed. */
export const heldBackLives = (today: string): string[] => [
  '## End of life',
  '',
  `Written by \`npm run held-back\` on ${today} (seed ${HELD_BACK_SEED}).`,
  '',
  ...otherLifeRows(300, HELD_BACK_SEED).map((r) => `- ${r.what.trim()}: ${r.measured}.`),
  '',
]
