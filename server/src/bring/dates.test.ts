import { expect, it } from 'vitest'
import { dateOrderOf, readDate, readTwoWays } from './dates.ts'

const calendar = { order: 'dmy', timeZone: 'Europe/Berlin', now: Date.UTC(2026, 10, 26) } as const
const iso = (text: string, time = '') => {
  const read = readDate(text, time, calendar)
  return read && new Date(read.at).toISOString().slice(0, 16)
}

it.each([
  ['3.4.24', '2024-04-03T10:00'],
  ['03/04/2024', '2024-04-03T10:00'],
  ['2024-01-03', '2024-01-03T11:00'],
  ['2024-04-03T10:30', '2024-04-03T08:30'],
  ['3 Apr 2024', '2024-04-03T10:00'],
  ['Apr 3, 2024', '2024-04-03T10:00'],
  ['12-Mar-24', '2024-03-12T11:00'],
  ['3.4.2024 2:30 PM', '2024-04-03T12:30'],
  ['31.2.2024', null],
  ['3.4.0024', null],
  ['yesterday', null],
])('%s in a list of Berlin is %s', (text, expected) => {
  expect(iso(text)).toBe(expected)
})

it('takes the time from a column of its own, also across the change of the clocks', () => {
  expect(iso('29.3.2025', '08:00')).toBe('2025-03-29T07:00')
  expect(iso('30.3.2025', '08:00')).toBe('2025-03-30T06:00')
})

it('tells the order of day and month only where all dates agree on one', () => {
  expect(dateOrderOf(['3.4.24', '13.4.24'])).toBe('dmy')
  expect(dateOrderOf(['3/14/24', '4/5/24'])).toBe('mdy')
  expect(dateOrderOf(['3/4/24', '4/5/24'])).toBeNull()
  expect(dateOrderOf(['4/4/24', '2024-05-01'])).toBe('dmy')
  expect(dateOrderOf(['3/14/24', '14/3/24'])).toBe('none')
  expect(readTwoWays(['1/1/24', '3/4/24'])).toBe('3/4/24')
})
