import fc from 'fast-check'
import { expect, it } from 'vitest'
import { keptBackups } from './rotation.ts'

const DAY = 86_400_000
const night = (day: string) => Date.parse(`${day}T02:00:00Z`)

it('keeps 7 days, 4 weeks and 12 months of a backup every night', () => {
  // By hand: nights from 1 Jan 2025 to Thursday, 26 Nov 2026.
  const all = Array.from({ length: 695 }, (_, i) => night('2025-01-01') + i * DAY)
  const kept = [...keptBackups(all, { keepDays: 7, keepWeeks: 4, keepMonths: 12 }, 'UTC')].sort((a, b) => b - a)
  expect(kept.map((at) => new Date(at).toISOString().slice(0, 10))).toEqual([
    ...['26', '25', '24', '23', '22', '21', '20'].map((day) => `2026-11-${day}`),
    // Sundays that end the weeks before, the newest of which is among the days.
    '2026-11-15',
    '2026-11-08',
    ...['10-31', '09-30', '08-31', '07-31', '06-30', '05-31', '04-30', '03-31', '02-28', '01-31'].map(
      (d) => `2026-${d}`,
    ),
    '2025-12-31',
  ])
})

it('counts days by the clock of the site, and the last of a day', () => {
  const at = ['2026-03-01T22:30:00Z', '2026-03-01T23:30:00Z', '2026-03-02T12:00:00Z'].map((t) => Date.parse(t))
  const keep = { keepDays: 2, keepWeeks: 0, keepMonths: 0 }
  expect([...keptBackups(at, keep, 'Europe/Berlin')]).toEqual([at[2], at[0]])
  expect([...keptBackups(at, keep, 'UTC')]).toEqual([at[2], at[1]])
})

it('never lets the newest go, and grows no further than its limits', () => {
  const count = fc.integer({ min: 0, max: 12 })
  fc.assert(
    fc.property(
      fc.array(fc.integer({ min: 0, max: 900 * DAY }), { minLength: 1, maxLength: 300 }),
      fc.record({ keepDays: count, keepWeeks: count, keepMonths: count }),
      (at, keep) => {
        const kept = keptBackups(at, keep, 'UTC')
        expect(kept.has(Math.max(...at))).toBe(true)
        expect(kept.size).toBeLessThanOrEqual(1 + keep.keepDays + keep.keepWeeks + keep.keepMonths)
        // What is let go is not asked back: rotating again changes nothing.
        expect(keptBackups([...kept], keep, 'UTC')).toEqual(kept)
      },
    ),
  )
})
