import { TZDate } from '@date-fns/tz'
import { numberText, PLAIN_STYLE, type Quantity, quantityText, render, type Scale, type Sentence } from '@frustum/core'
import { differenceInCalendarDays, format, formatDistanceStrict } from 'date-fns'
import { now, zoneOfSite } from '../store/clock.ts'

/** Numbers and dates as they are written on every screen. */
export const fixed = (value: number, decimals: number) => numberText(value, decimals)

export const signed = (value: number, decimals: number) => numberText(value, decimals, { signed: true })

const STYLE = { ...PLAIN_STYLE, instant: (at: number) => dayTime(at, zoneOfSite()) }

/** A sentence or a quantity from core as text. */
export const text = (from: Sentence | Quantity) =>
  typeof from === 'object' && 'value' in from ? quantityText(from) : render(from, STYLE)

/** A number on its scale, without the unit. */
export const scaled = (value: number | null | undefined, { decimals, factor }: Scale) =>
  value == null ? '–' : fixed(value * factor, decimals)
export const celsius = (value: number | null | undefined) => (value == null ? '–' : `${fixed(value, 1)} °C`)

/** "8 Sep", with the year when it is not this one. */
export const day = (at: number, timeZone: string, today = now()) => {
  const date = new TZDate(at, timeZone)
  const sameYear = date.getFullYear() === new TZDate(today, timeZone).getFullYear()
  return format(date, sameYear ? 'd MMM' : 'd MMM yyyy')
}

export const dayTime = (at: number, timeZone: string, today = now()) =>
  `${day(at, timeZone, today)}, ${clock(at, timeZone)}`
export const clock = (at: number, timeZone: string) => format(new TZDate(at, timeZone), 'HH:mm')
export const weekdayTime = (at: number, timeZone: string) => format(new TZDate(at, timeZone), 'EEE d MMM HH:mm')

export const daysUntil = (at: number, today = now()) => differenceInCalendarDays(at, today)

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
