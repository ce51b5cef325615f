import { addDays, type CalendarDay, dayAt, startOfDayIn } from '@frustum/contract'
import type { Database, Transaction } from './database/open.ts'
import { sites } from './database/schema.ts'

/** The hour of the day on the site's clocks. A formatter that is kept: asked for each hour of a month, dates are slow. */
export function hourIn(timeZone: string): (at: number) => number {
  const hour = new Intl.DateTimeFormat('en', { timeZone, hour: 'numeric', hourCycle: 'h23' })
  return (at) => Number(hour.format(at))
}

/** Days as the site's clocks have them. */
export interface SiteCalendar {
  timeZone: string
  today: CalendarDay
  tomorrow: CalendarDay
  dayOf(at: number): CalendarDay
  /** The first instant of a day, epoch ms. */
  startOf(day: CalendarDay): number
}

export function calendarIn(timeZone: string, now: number): SiteCalendar {
  const today = dayAt(now, timeZone)
  return {
    timeZone,
    today,
    tomorrow: addDays(today, 1),
    dayOf: (at) => dayAt(at, timeZone),
    startOf: (day) => startOfDayIn(day, timeZone),
  }
}

/** Read each time: a changed time zone holds from then on, everywhere. */
export async function siteCalendar(db: Database | Transaction, now: number): Promise<SiteCalendar> {
  const [site] = await db.select({ timeZone: sites.timeZone }).from(sites)
  return calendarIn(site?.timeZone ?? 'UTC', now)
}
