import type { Keeping } from '@frustum/contract'
import { DAY_MS } from '@frustum/core'
import type { Database } from '../database/open.ts'
import { sites } from '../database/schema.ts'

const HOUR_MS = 3_600_000
/** A year and a month: so that this spring can be laid beside the last. */
const USUAL: Keeping = { readingsDays: 400, hoursDays: null }

/** How long readings and their hours are kept; days are kept for ever. */
export async function keepingOf(db: Database): Promise<Keeping> {
  const [site] = await db.select({ readingsDays: sites.keepReadingsDays, hoursDays: sites.keepHoursDays }).from(sites)
  return site ?? USUAL
}

/** Since when readings, and hours, are there: hours since 1970, those of the hours at the beginning of a day (UTC). */
export function keptSince(now: number, { readingsDays, hoursDays }: Keeping): { readings: number; hours: number } {
  const since = (days: number | null, each: number) =>
    days === null ? Number.NEGATIVE_INFINITY : each * Math.floor((now - days * DAY_MS) / (each * HOUR_MS))
  return { readings: since(readingsDays, 1), hours: since(hoursDays, 24) }
}
