import { TZDate } from '@date-fns/tz'
import { type CalendarDay, dayAt, daysBetween, startOfDayIn } from '@frustum/contract/calendarDay'
import { followDecimalMark } from '@frustum/contract/decimalMark'
import {
  numberText,
  type Quantity,
  quantityText,
  type ReaderChoices,
  type ReadUnit,
  readerStyle,
  render,
  type Scale,
  type Sentence,
  USUAL_READER,
  unitRead,
} from '@frustum/core'
import { format, formatDistanceStrict } from 'date-fns'
import { now, zoneOfSite } from '../store/clock.ts'

/** Numbers and dates as they are written on every screen, for the person who reads them. */

const styleOf = (choices: ReaderChoices) => readerStyle(choices, (at) => dayTime(at, zoneOfSite()))

let reader: ReaderChoices = USUAL_READER
let style = styleOf(reader)

/** From now on everything is written for this reader; what stands on the screen already is not written anew by it. */
export function followReader(choices: ReaderChoices): void {
  reader = choices
  followDecimalMark(choices.decimals === 'comma' ? 'comma' : undefined)
  style = styleOf(choices)
}

export const fixed = (value: number, decimals: number) => numberText(value, decimals, { locale: style.locale })

export const signed = (value: number, decimals: number) =>
  numberText(value, decimals, { signed: true, locale: style.locale })

/** A sentence or a quantity from core as text. */
export const text = (from: Sentence | Quantity) =>
  typeof from === 'object' && 'value' in from ? quantityText(from, style) : render(from, style)

/** How what is stored in a unit is read. */
export const asRead = (scale: { unit: string; decimals: number }): ReadUnit => unitRead(scale, style)

/** A number on its scale, and its unit, as they are read. */
export function scaled(
  value: number | null | undefined,
  { unit: stored, decimals: fine, factor }: Scale,
): { number: string; unit: string } {
  const { unit, decimals, of } = asRead({ unit: stored, decimals: fine })
  return { number: value == null ? '–' : fixed(of(value * factor), decimals), unit }
}

/** The same in one. */
export function scaledText(value: number | null | undefined, scale: Scale): string {
  const { number, unit } = scaled(value, scale)
  return `${number} ${unit}`
}

export const celsius = (value: number | null | undefined) =>
  value == null ? '–' : text({ value, unit: '°C', decimals: 1 })

/** The day of the week with which weeks begin, 0 being Sunday. */
export const weekStart = () => Number(reader.weekStart) as 0 | 1 | 6

/** "8 Sep", with the year when it is not this one. */
export const day = (at: number, timeZone: string, today = now()) => {
  const date = new TZDate(at, timeZone)
  const sameYear = date.getFullYear() === new TZDate(today, timeZone).getFullYear()
  return format(date, sameYear ? 'd MMM' : 'd MMM yyyy')
}

export const dayTime = (at: number, timeZone: string, today = now()) =>
  `${day(at, timeZone, today)}, ${clock(at, timeZone)}`
export const clock = (at: number, timeZone: string) =>
  format(new TZDate(at, timeZone), reader.clock === '12' ? 'h:mm aaa' : 'HH:mm')
export const weekdayTime = (at: number, timeZone: string) =>
  `${format(new TZDate(at, timeZone), 'EEE d MMM')} ${clock(at, timeZone)}`

/** Days on the site's calendar from today until an instant, or until a calendar day. */
export const daysUntil = (at: number | CalendarDay, today = now()): number =>
  daysBetween(dayAt(today, zoneOfSite()), typeof at === 'number' ? dayAt(at, zoneOfSite()) : at)

/** A calendar day as `day` writes instants. */
export const calendarDay = (of: CalendarDay) => day(startOfDayIn(of, 'UTC'), 'UTC')

export const ago = (at: number, today = now()) => formatDistanceStrict(at, today, { addSuffix: true })

/** A probability in percent; nothing is certain: never 0 and never 100. */
export function percent(probability: number): string {
  if (probability > 0.99) return '> 99\u00a0%'
  if (probability < 0.01) return '< 1\u00a0%'
  return `${Math.round(100 * probability)}\u00a0%`
}

/** What is there of several things, in one line. */
export const listed = (...parts: (string | false | null | undefined)[]) => parts.filter(Boolean).join(' · ')

export const plural = (count: number, one: string, many = `${one}s`) => `${count} ${count === 1 ? one : many}`

/** Minutes as they are said: "45 min", "2 h 05", "1 d 3 h". */
export function duration(minutes: number): string {
  if (minutes > 0 && minutes < 1) return `${Math.ceil(60 * minutes)} s`
  const whole = Math.max(0, Math.ceil(minutes))
  if (whole < 60) return `${whole} min`
  if (whole < 48 * 60) return `${Math.floor(whole / 60)} h ${String(whole % 60).padStart(2, '0')}`
  return `${Math.floor(whole / 1440)} d ${Math.round((whole % 1440) / 60)} h`
}
