import { expect, it } from 'vitest'
import { heavy } from '../../../lab/src/fixtures/heavy.ts'
import { DAY_MS } from '../drift/observation.ts'
import type { ReadingState } from '../readings/readingState.ts'
import { type RandomStream, randomStream } from '../statistics/random.ts'
import type { AlarmKind } from './alarmType.ts'
import { AlarmWatch } from './alarmWatch.ts'
import { APART_DELAY_MS, ApartWatch, canExplain } from './apartWatch.ts'
import { limitsOfDays } from './quickLimits.ts'
import { DELAYS } from './types/reading.ts'
import { type DaySummary, daySummary, usualOf } from './usual.ts'
import type { WatchedReading } from './watchedReading.ts'

/** Sites played for 90 days, a reading a minute, with troubles in them: invented, of no other code's equations. */

/** A half of a site for half as long, or twenty whole ones; the watch was built looking at seed 701 alone. */
const SEEDS = heavy(
  [701],
  Array.from({ length: 20 }, (_, i) => 801 + i),
)
const DAYS = heavy(50, 90)
const SHARE = heavy(0.5, 1)
const [LEARNING_DAYS, KNOWN_DAYS, FREE_DAYS] = [14, 28, 5]
const [MINUTE, HOUR] = [60_000, 3_600_000]
const hourOfDay = (at: number) => new Date(at).getUTCHours()

interface Sort {
  base: number
  /** Of the day, of the weather, and of a single reading. */
  swing: number
  weather: number
  noise: number
  step: number
  tolerance: number
  count: number
}
const SORTS: Sort[] = [
  { base: 8.1, swing: 0.15, weather: 0.03, noise: 0.004, step: 0.01, tolerance: 0.1, count: 10 },
  { base: 1.9, swing: 0.1, weather: 0.05, noise: 0.003, step: 0.001, tolerance: 0.06, count: 7 },
  { base: 320, swing: 20, weather: 8, noise: 1.2, step: 1, tolerance: 15, count: 5 },
  { base: 12, swing: 1, weather: 0.6, noise: 0.05, step: 0.1, tolerance: 1.5, count: 3 },
]

const TROUBLES = ['ramp', 'spikes', 'freeze', 'drift', 'blind', 'unit'] as const
type Trouble = (typeof TROUBLES)[number]
interface Planned {
  trouble: Trouble
  from: number
  to: number
}

class Played {
  readonly watch: AlarmWatch
  readonly days: DaySummary[] = []
  readonly troubles: Planned[] = []
  today: WatchedReading[] = []
  private weather = 0
  private frozenAt: number | null = null

  constructor(
    readonly sort: Sort,
    private readonly random: RandomStream,
    readonly isTwin: boolean,
  ) {
    const { step, tolerance } = sort
    this.watch = new AlarmWatch(null, { step, tolerance, hourOfDay })
    let at = (LEARNING_DAYS + random.between(1, 12)) * DAY_MS
    while (at < (DAYS - 12) * DAY_MS) {
      const trouble = TROUBLES[Math.floor(random.between(0, TROUBLES.length))] as Trouble
      if (trouble !== 'drift' || isTwin) {
        const lasts = { ramp: 8, spikes: 4, freeze: 30, drift: 9 * 24, blind: 1, unit: 3 }[trouble]
        this.troubles.push({ trouble, from: at, to: at + lasts * HOUR })
        at += lasts * HOUR
      }
      at += random.between(FREE_DAYS, 25) * DAY_MS
    }
  }

  at(at: number, shared: number): WatchedReading {
    const { base, swing, weather, noise, step, tolerance } = this.sort
    // An hour's memory of three days, so that days differ.
    this.weather += -this.weather / 4320 + this.random.normal() * weather * Math.sqrt(2 / 4320)
    const day = Math.sin((2 * Math.PI * at) / DAY_MS) * swing
    let value = base + day + shared + this.weather * 0.3 + this.random.normal() * noise
    let state: ReadingState = 'good'
    const now = this.troubles.find((t) => at >= t.from && at < t.to)
    const share = now ? (at - now.from) / (now.to - now.from) : 0
    if (now?.trouble === 'ramp') value += share * 12 * (swing + tolerance)
    if (now?.trouble === 'drift') value += share * 5 * tolerance
    if (now?.trouble === 'unit') value *= 1000
    if (now?.trouble === 'spikes' && this.random.uniform() < 0.25) value += 60 * noise
    if (now?.trouble !== 'freeze') this.frozenAt = null
    else this.frozenAt ??= value
    value = this.frozenAt ?? value
    // Once a month its probe stands in a standard for 20 min, and its outputs are held a little longer.
    const inMonth = (at + base * DAY_MS) % (30 * DAY_MS)
    if (inMonth < 20 * MINUTE && at > DAY_MS) [state, value] = ['in-visit', base / 2]
    else if (inMonth < 25 * MINUTE && at > DAY_MS) state = 'held'
    if (now?.trouble === 'blind') return { at, value: null, state: 'blind' }
    return { at, value: Math.round(value / step) * step, state }
  }
}

/** Which alarms tell a trouble, and within how long after it began. */
function told({ trouble, from, to }: Planned, of: Played): { kinds: AlarmKind[]; by: number } {
  const { limits } = of.watch as unknown as { limits: { delaySeconds: number } | null }
  const delay = 1000 * (limits?.delaySeconds ?? 0)
  switch (trouble) {
    case 'ramp':
      // Wherever in the day it begins, at the end it is beyond.
      return { kinds: ['high', 'high-high', 'unusual', 'change'], by: to + delay }
    case 'spikes':
      return { kinds: ['noise'], by: from + 2 * DELAYS.noise + 15 * MINUTE }
    case 'freeze':
      return { kinds: ['frozen'], by: from + (of.watch.stillDelayMs ?? 0) + MINUTE }
    case 'drift':
      return { kinds: ['apart', 'unusual', 'high'], by: from + 0.75 * (to - from) + APART_DELAY_MS }
    case 'blind':
      return { kinds: ['blind'], by: from + DELAYS.blind + MINUTE }
    case 'unit':
      return { kinds: ['unit', 'impossible', 'high-high'], by: from + 2 * DELAYS.unit }
  }
}

interface Raised {
  at: number
  kind: AlarmKind
  played: Played[]
}

function site(seed: number): { all: Played[]; raised: Raised[] } {
  const random = randomStream(seed)
  const raised: Raised[] = []
  const all = SORTS.flatMap((sort) =>
    Array.from(
      { length: Math.ceil(sort.count * SHARE) },
      (_, i) => new Played(sort, random.fork(), sort.base === 8.1 && i < 6),
    ),
  )
  const pairs = [0, 2, 4]
    .filter((i) => all[i + 1]?.isTwin)
    .map((i) => ({ pair: [all[i], all[i + 1]] as [Played, Played], watch: new ApartWatch() }))
  const shared = new Map<Sort, number>(SORTS.map((sort) => [sort, 0]))
  for (let at = 0; at < DAYS * DAY_MS; at += MINUTE) {
    for (const sort of SORTS) {
      const before = shared.get(sort) as number
      shared.set(sort, before - before / 4320 + random.normal() * sort.weather * Math.sqrt(2 / 4320))
    }
    const now = all.map((played) => played.at(at, shared.get(played.sort) as number))
    all.forEach((played, i) => {
      const reading = now[i] as WatchedReading
      played.today.push(reading)
      for (const change of played.watch.push(reading))
        if (change.raised) raised.push({ at, kind: change.kind, played: [played] })
    })
    for (const { pair, watch } of pairs) {
      const [a, b] = pair.map((p) => now[all.indexOf(p)] as WatchedReading) as [WatchedReading, WatchedReading]
      if (a.state !== 'good' || b.state !== 'good' || a.value === null || b.value === null) continue
      const sd = pair[0].sort.tolerance / 2
      if (watch.push(at, a.value - b.value, canExplain(sd, sd)) && watch.isRaised)
        raised.push({ at, kind: 'apart', played: pair })
    }
    if ((at + MINUTE) % DAY_MS !== 0) continue
    const day = (at + MINUTE) / DAY_MS
    for (const { today, days, watch, sort } of all) {
      days.push(daySummary(today))
      today.length = 0
      const usual = usualOf(days.slice(-KNOWN_DAYS), hourOfDay)
      watch.setUsual(usual)
      if (day === LEARNING_DAYS)
        watch.setLimits(limitsOfDays(usual.ordinary, sort.tolerance, 3, { low: -1e4, high: 1e4 }))
    }
  }
  return { all, raised }
}

it('raises at least 95 % of troubles within their delays, and at most 0.2 false ones a day for a site', () => {
  let [troubles, found, falseOnes] = [0, 0, 0]
  const missed: string[] = []
  const wrong: string[] = []
  for (const seed of SEEDS) {
    const { all, raised } = site(seed)
    for (const played of all) {
      for (const planned of played.troubles) {
        const { kinds, by } = told(planned, played)
        const mine = raised.filter((r) => r.played.includes(played) && r.at >= planned.from && r.at <= by)
        troubles++
        if (mine.some((r) => kinds.includes(r.kind))) found++
        else missed.push(`${planned.trouble} of ${played.sort.base}`)
      }
    }
    for (const { at, kind, played } of raised) {
      const isOf = played.some((p) => p.troubles.some((t) => at >= t.from && at <= t.to + DELAYS.unusual + HOUR))
      if (isOf) continue
      falseOnes++
      wrong.push(`${kind} of ${played[0]?.sort.base} on day ${Math.floor(at / DAY_MS)}`)
    }
  }
  expect(found / troubles, `${found} of ${troubles}; missed: ${missed.join('; ')}`).toBeGreaterThanOrEqual(0.95)
  expect(falseOnes / (SEEDS.length * DAYS), wrong.join('; ')).toBeLessThanOrEqual(0.2)
}, 600_000)
