import { TZDate } from '@date-fns/tz'

/**
 * A calendar day such as 2026-03-31, as on a label or in a diary. It has no time zone: converting between a day and an
 * instant always needs one.
 */
export type CalendarDay = string & { readonly calendarDay: true }

const DAY_MS = 86_400_000

/** Whether a text is a day that a calendar has, of a time in which anybody works with this. */
export function isCalendarDay(text: string): text is CalendarDay {
  if (!/^(19|20|21)\d{2}-\d{2}-\d{2}$/.test(text)) return false
  const at = Date.parse(`${text}T00:00:00Z`)
  return !Number.isNaN(at) && new Date(at).toISOString().startsWith(text)
}

const formatters = new Map<string, Intl.DateTimeFormat>()

/** The day on the clocks of a time zone at an instant, epoch ms. */
export function dayAt(at: number, timeZone: string): CalendarDay {
  let formatter = formatters.get(timeZone)
  if (!formatter) {
    formatter = new Intl.DateTimeFormat('sv-SE', { timeZone, year: 'numeric', month: '2-digit', day: '2-digit' })
    formatters.set(timeZone, formatter)
  }
  return formatter.format(at) as CalendarDay
}

/** Its first instant in a time zone, epoch ms; where midnight is skipped, the first after it. */
export function startOfDayIn(day: CalendarDay, timeZone: string): number {
  const [y = 0, m = 1, d = 1] = day.split('-').map(Number)
  const at = new TZDate(y, m - 1, d, timeZone).getTime()
  // A clock that goes from before midnight to 1:00 may be taken to stand an hour before it.
  return dayAt(at, timeZone) === day ? at : at + 3_600_000
}

/** Its middle in a time zone, epoch ms: the same day in nearly every other zone. */
export const noonOf = (day: CalendarDay, timeZone: string): number => startOfDayIn(day, timeZone) + DAY_MS / 2

const number = (day: CalendarDay): number => Date.parse(`${day}T00:00:00Z`) / DAY_MS

/** The day so many days later. */
export const addDays = (day: CalendarDay, days: number): CalendarDay =>
  new Date((number(day) + days) * DAY_MS).toISOString().slice(0, 10) as CalendarDay

/** Days from one day to another; negative where the other is before it. */
export const daysBetween = (from: CalendarDay, to: CalendarDay): number => number(to) - number(from)
