import { TZDate } from '@date-fns/tz'
import { type CalendarDay, dayAt } from '@frustum/contract'
import { readerStyle, render, type Sentence, USUAL_READER } from '@frustum/core'
import { format } from 'date-fns'
import type { Database } from '../database/open.ts'
import { sites } from '../database/schema.ts'

/** How a site's messages write instants and sentences. */
export interface SiteText {
  name: string
  /** 0 to 23 by the site's own clock. */
  hour(at: number): number
  /** "2026-11-27". */
  date(at: number): CalendarDay
  time(at: number): string
  dayTime(at: number): string
  text(sentence: Sentence): string
}

export async function siteText(db: Database): Promise<SiteText | null> {
  const [site] = await db.select({ name: sites.name, timeZone: sites.timeZone }).from(sites)
  if (!site) return null
  const written = (at: number, pattern: string) => format(new TZDate(at, site.timeZone), pattern)
  const dayTime = (at: number) => written(at, 'EEE d MMM HH:mm')
  const style = readerStyle(USUAL_READER, dayTime)
  return {
    name: site.name,
    hour: (at) => Number(written(at, 'H')),
    date: (at) => dayAt(at, site.timeZone),
    time: (at) => written(at, 'HH:mm'),
    dayTime,
    text: (sentence) => render(sentence, style),
  }
}
