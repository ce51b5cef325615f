import { tz } from '@date-fns/tz'
import { isValid } from 'date-fns/isValid'
import { parse } from 'date-fns/parse'

/** Dates as people write them; where day and month could be either, nobody guesses. */

export type DateOrder = 'dmy' | 'mdy'

const NUMBERS = /^(\d{1,2})[./-](\d{1,2})[./-](\d{2}|\d{4})(?=$|[\sT,])/

/**
 * What these dates say of the order of day and month: the one that is possible for all of them; null where both are.
 * @returns 'none' where neither is
 */
export function dateOrderOf(texts: readonly string[]): DateOrder | 'none' | null {
  const pairs = texts.flatMap((text) => {
    const found = NUMBERS.exec(text.trim())
    return found ? [[Number(found[1]), Number(found[2])] as const] : []
  })
  if (pairs.length === 0) return 'dmy'
  const dayFirst = pairs.every(([, month]) => month <= 12)
  const monthFirst = pairs.every(([month]) => month <= 12)
  // The same number twice is the same date either way.
  if (dayFirst && monthFirst) return pairs.every(([a, b]) => a === b) ? 'dmy' : null
  return dayFirst ? 'dmy' : monthFirst ? 'mdy' : 'none'
}

/** A date that is another one where day and month change places; undefined where there is none. */
export const readTwoWays = (texts: readonly string[]): string | undefined =>
  texts.find((text) => {
    const [, first, second] = NUMBERS.exec(text.trim()) ?? []
    return first !== undefined && Number(first) !== Number(second)
  })

const WORDS = [
  'd MMM yyyy',
  'd MMMM yyyy',
  'd-MMM-yy',
  'd-MMM-yyyy',
  'd. MMMM yyyy',
  'MMM d, yyyy',
  'MMMM d, yyyy',
  'MMM d yyyy',
]
const ISO = ['yyyy-MM-dd', 'yyyy/MM/dd', 'yyyy.MM.dd', 'yyyyMMdd']
const TIMES = [' HH:mm', ' HH:mm:ss', ' h:mm a', "'T'HH:mm", "'T'HH:mm:ss"]

/** Where no time was noted, hours after midnight. */
const NOON = 12

export interface Calendar {
  order: DateOrder
  /** Of the site. */
  timeZone: string
  /** Epoch ms: two figures of a year are of the century around it. */
  now: number
}

export interface ReadDate {
  /** Epoch ms. */
  at: number
  /** When the day or the minute that it says begins. */
  from: number
}

/**
 * The instant of a date, of noon where no time stands with it.
 * @returns null for what is no date
 */
export function readDate(text: string, time: string, { order, timeZone, now }: Calendar): ReadDate | null {
  const written = text
    .trim()
    .replace(/\s+/g, ' ')
    .replace(/, (?=\d{1,2}:)/, ' ')
  const whole = time.trim() === '' ? written : `${written} ${time.trim()}`
  for (const date of formatsOf(written, order)) {
    for (const clock of whole.includes(':') ? TIMES : ['']) {
      const at = parse(whole, `${date}${clock}`, new Date(now), { in: tz(timeZone) })
      if (!isValid(at) || at.getFullYear() < 1900) continue
      const from = at.getTime()
      return { at: clock === '' ? from + NOON * 3_600_000 : from, from }
    }
  }
  return null
}

function formatsOf(text: string, order: DateOrder): string[] {
  const numbers = NUMBERS.exec(text)
  if (!numbers) return [...ISO, ...WORDS]
  const mark = /[./-]/.exec(text)?.[0] ?? '.'
  const year = numbers[3]?.length === 2 ? 'yy' : 'yyyy'
  return [(order === 'dmy' ? ['d', 'M', year] : ['M', 'd', year]).join(mark)]
}
