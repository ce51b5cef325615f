import fc from 'fast-check'
import { expect, it } from 'vitest'
import { addDays, type CalendarDay, dayAt, daysBetween, isCalendarDay, noonOf, startOfDayIn } from './calendarDay.ts'

/** From the farthest behind UTC to the farthest ahead, with half and quarter hours, and zones whose clocks change at midnight. */
const ZONES = [
  ...['Pacific/Niue', 'Pacific/Honolulu', 'America/St_Johns', 'America/New_York', 'UTC', 'Europe/Berlin'],
  ...['Asia/Kathmandu', 'Australia/Sydney', 'Australia/Lord_Howe', 'Pacific/Chatham', 'Pacific/Kiritimati'],
  ...['America/Santiago', 'Asia/Beirut', 'America/Havana', 'Africa/Cairo'],
]
const zones = fc.constantFrom(...ZONES)
const days = fc.integer({ min: 0, max: 90 * 366 }).map((n) => addDays('1990-01-01' as CalendarDay, n))

it('a day begins with an instant of it, in every zone and on the days on which clocks change', () => {
  fc.assert(
    fc.property(zones, days, (zone, day) => {
      const start = startOfDayIn(day, zone)
      expect(dayAt(start, zone)).toBe(day)
      expect(dayAt(start - 1, zone)).toBe(addDays(day, -1))
      expect(dayAt(noonOf(day, zone), zone)).toBe(day)
      const hours = (startOfDayIn(addDays(day, 1), zone) - start) / 3_600_000
      expect(hours).toBeGreaterThanOrEqual(23)
      expect(hours).toBeLessThanOrEqual(25)
    }),
    { seed: 35, numRuns: 1000 },
  )
})

it('days are counted by the calendar, whatever clocks do in between', () => {
  fc.assert(
    fc.property(days, fc.integer({ min: -2000, max: 2000 }), (day, n) => {
      expect(daysBetween(day, addDays(day, n))).toBe(n)
      expect(addDays(day, n) > day).toBe(n > 0)
      expect(isCalendarDay(day)).toBe(true)
    }),
    { seed: 35 },
  )
  // The day the clocks go forward in Berlin, and back.
  expect(
    startOfDayIn('2026-03-30' as CalendarDay, 'Europe/Berlin') -
      startOfDayIn('2026-03-29' as CalendarDay, 'Europe/Berlin'),
  ).toBe(23 * 3_600_000)
  expect(
    startOfDayIn('2026-10-26' as CalendarDay, 'Europe/Berlin') -
      startOfDayIn('2026-10-25' as CalendarDay, 'Europe/Berlin'),
  ).toBe(25 * 3_600_000)
})

it.each(['2025-02-29', '2026-13-01', '2026-1-1', '0000-01-01', '9999-12-31', '2026-03-31T00:00', '', 'today'])(
  '"%s" is not a day',
  (text) => {
    expect(isCalendarDay(text)).toBe(false)
  },
)
