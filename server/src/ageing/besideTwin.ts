import {
  type Apart,
  DAY_MS,
  type DriftForecast,
  difference,
  modelOf,
  nullIfOutOfRange,
  probabilityInTolerance,
  type Sentence,
  say,
  valueShown,
  withTwin,
} from '@frustum/core'
import type { Database } from '../database/open.ts'
import { rollUpsBetween } from '../readings/readingStore.ts'
import type { Installed } from '../sensors.ts'
import { areTwins } from '../shown.ts'

/** What is older says nothing of now: one of the lines is silent. */
const RECENT_DAYS = 3
/** So far back it is looked since when a sensor has been in doubt. */
const LOOKED_BACK_DAYS = 120
/** So many readings of the water make a day. */
const LEAST_READINGS = 12
/** Two that are right may be apart by this share of a tolerance, where they hang; common practice, no source. */
const APART_SHARE = 0.25

export interface Untouched {
  installed: Installed
  /** By its own visits. */
  alone: DriftForecast
  /** Epoch ms since which nobody touched it, nor its device its numbers. */
  since: number
}

/** What a sensor's twins say of it. */
export interface BesideTwin {
  forecast: DriftForecast
  /** Of its twins the one it is farthest from; null where all may be right. */
  words: Sentence | null
}

interface Seen {
  twin: Untouched
  apart: Apart
}

/**
 * Forecasts of the sensors of one kind that hang beside a twin, by installation, from the newest whole day on that nobody
 * touched either; of one that is in doubt, from the first of the days on which it was, so that a date that came stays.
 */
export async function besideTwins(
  db: Database,
  like: readonly Untouched[],
  now: number,
): Promise<ReadonlyMap<number, BesideTwin>> {
  const twinsOf = new Map(like.map((one) => [one, like.filter((o) => areTwins(one.installed, o.installed))]))
  const paired = like.filter((one) => twinsOf.get(one)?.length)
  const means = await daysOf(db, paired, now)
  const found = new Map<number, BesideTwin>()
  for (const one of paired) {
    const days = [...(means.get(one) ?? [])].flatMap(([at, own]) => {
      const seen = (twinsOf.get(one) ?? []).flatMap((twin) => {
        const other = means.get(twin)?.get(at)
        const apart = other === undefined ? null : apartOn(at, [one, own], [twin, other])
        return apart ? [{ twin, apart }] : []
      })
      return seen.length > 0 ? [seen] : []
    })
    const beside = besideOn(one, days, now)
    if (beside) found.set(one.installed.installation.id, beside)
  }
  return found
}

/** What each read on average on its whole days since it was touched, the newest first. */
async function daysOf(
  db: Database,
  all: readonly Untouched[],
  now: number,
): Promise<Map<Untouched, Map<number, number>>> {
  const byId = new Map(all.map((one) => [one.installed.installation.id, one]))
  const rows = await rollUpsBetween(db, [...byId.keys()], {
    from: now - LOOKED_BACK_DAYS * DAY_MS,
    to: now - DAY_MS,
    hours: 24,
  })
  const found = new Map(all.map((one) => [one, new Map<number, number>()]))
  for (const { installationId, at, rollUp } of rows.toReversed()) {
    const one = byId.get(installationId)
    if (one && rollUp.mean !== null && rollUp.good >= LEAST_READINGS && at >= one.since && at + DAY_MS <= now)
      found.get(one)?.set(at, rollUp.mean)
  }
  return found
}

function apartOn(at: number, [one, own]: [Untouched, number], [twin, other]: [Untouched, number]): Apart | null {
  const { position } = one.installed
  const measured = ({ installed: { position: of, device } }: Untouched, shown: number) =>
    valueShown(of.kind, shown, of.processTemperature, device.setting)
  const apart = nullIfOutOfRange(() => modelOf(position.kind).errorOf(measured(one, own), measured(twin, other)))
  if (apart === null || !Number.isFinite(apart)) return null
  const uncertainty = APART_SHARE * Math.max(position.tolerance, twin.installed.position.tolerance)
  return { at: at + DAY_MS / 2, difference: apart, uncertainty }
}

/** @param days what was seen on each, the newest first */
function besideOn({ installed, alone }: Untouched, days: readonly (readonly Seen[])[], now: number): BesideTwin | null {
  const [newest] = days
  const at = newest?.[0]?.apart.at
  if (!newest || at === undefined || at < now - RECENT_DAYS * DAY_MS) return null
  const { tolerance, reliability } = installed.position
  const on = (seen: readonly Seen[]) => seen.reduce((sum, { twin, apart }) => withTwin(sum, twin.alone, apart), alone)
  const isInDoubt = (f: DriftForecast) => probabilityInTolerance(f, 0, tolerance) < reliability
  let forecast = on(newest)
  for (const day of isInDoubt(forecast) ? days.slice(1) : []) {
    const before = on(day)
    if (!isInDoubt(before)) break
    forecast = before
  }
  return { forecast, words: wordsOf(installed, newest) }
}

function wordsOf({ position }: Installed, seen: readonly Seen[]): Sentence | null {
  const [farthest] = seen.toSorted((a, b) => Math.abs(b.apart.difference) - Math.abs(a.apart.difference))
  if (!farthest || Math.abs(farthest.apart.difference) <= farthest.apart.uncertainty) return null
  const { unit, decimals } = modelOf(position.kind).errorScale
  const { difference: apart } = farthest.apart
  const other = farthest.twin.installed.position.code
  return say`It reads ${difference(Math.abs(apart), unit, decimals)} ${apart > 0 ? 'more' : 'less'} than ${other} beside it.`
}
