import { type AgeingSeries, type EndOfLife, fromNow } from '@frustum/core'
import { derived } from '../database/derived.ts'
import type { Database } from '../database/open.ts'
import { endsOffThread } from './forecastPool.ts'

interface Held {
  ends: EndOfLife[] | null
}

/** When the ageing numbers of each sensor get to their limits: computed anew only for those that were visited since. */
export async function endsOf(
  db: Database,
  bySensor: ReadonlyMap<number, AgeingSeries[]>,
  now: number,
): Promise<ReadonlyMap<number, EndOfLife[]>> {
  const all = [...bySensor].map(([id, series]) => ({
    id,
    series,
    held: derived<Held>(db, `ends of ${id}`, [JSON.stringify(series)], () => ({ ends: null })),
  }))
  const missing = all.filter(({ held }) => held.ends === null)
  const found = await endsOffThread(missing.flatMap((m) => m.series))
  for (const { held, series } of missing) held.ends = found.splice(0, series.length)
  return new Map(all.map(({ id, held }) => [id, (held.ends ?? []).map((end) => fromNow(end, now))]))
}
