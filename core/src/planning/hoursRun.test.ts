import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { plain } from '../../../lab/src/fixtures/plain.ts'
import { forecastDrift } from '../drift/driftForecast.ts'
import { OutOfRange } from '../quantities/outOfRange.ts'
import { countHours } from './hoursRun.ts'
import { type IntervalPolicy, nextDate } from './interval.ts'

const DAY = 86_400_000

describe('countHours', () => {
  it('gives hours since the visit and the pace, between readings by a straight line', () => {
    // 6 h a day for 20 days; the visit was on day 5, between two readings.
    const readings = [
      { at: 0, hours: 1000 },
      { at: 10 * DAY, hours: 1060 },
      { at: 20 * DAY, hours: 1120 },
    ]
    expect(countHours(readings, 5 * DAY)).toEqual({ at: 20 * DAY, sinceVisit: 90, perDay: 6 })
    expect(countHours(readings.toReversed(), 5 * DAY)).toEqual(countHours(readings, 5 * DAY))
  })

  it('starts over with a changed meter, and counts what ran before it', () => {
    const readings = [
      { at: 0, hours: 900 },
      { at: 10 * DAY, hours: 950 },
      { at: 11 * DAY, hours: 5 },
      { at: 21 * DAY, hours: 55 },
    ]
    expect(countHours(readings, 0)?.sinceVisit).toBe(105)
  })

  it('has no pace from one reading, nor from two of the same morning', () => {
    expect(countHours([], 0)).toBeNull()
    expect(countHours([{ at: 0, hours: 5 }], 0)).toBeNull()
    expect(
      countHours(
        [
          { at: 0, hours: 5 },
          { at: DAY / 4, hours: 8 },
        ],
        0,
      ),
    ).toBeNull()
  })

  it('takes the pace of the last quarter, not of a season ago', () => {
    const readings = Array.from({ length: 13 }, (_, m) => ({
      at: 30 * m * DAY,
      hours: m < 9 ? 720 * m : 6480 - 720 + 60 * (m - 8),
    }))
    expect(countHours(readings, 0)?.perDay).toBeCloseTo(2, 9)
  })

  it('never runs faster than the clock, backwards, or into no number', () => {
    fc.assert(
      fc.property(
        fc.array(fc.record({ at: fc.integer({ min: 0, max: 400 }), hours: fc.integer({ min: 0, max: 9000 }) }), {
          maxLength: 12,
        }),
        fc.integer({ min: -50, max: 450 }),
        (read, visit) => {
          const counted = countHours(
            read.map((r) => ({ ...r, at: r.at * DAY })),
            visit * DAY,
          )
          if (!counted) return true
          const { at, sinceVisit, perDay } = counted
          return perDay >= 0 && perDay <= 24 && at >= visit * DAY && Number.isFinite(sinceVisit) && sinceVisit >= 0
        },
      ),
    )
    expect(() => countHours([{ at: 0, hours: -1 }], 0)).toThrow(OutOfRange)
  })
})

describe('the next date by hours in use', () => {
  const forecast = forecastDrift([{ at: 0, asFound: null, asLeft: 0, uncertainty: 0.01, adjusted: true }])
  const policy: IntervalPolicy = {
    method: 'in-use',
    tolerance: 0.5,
    reliability: 0.9,
    floorDays: 0,
    ceilingDays: 400,
    inUseHours: 300,
    hoursPerDay: 24,
  }

  it('runs out when the meter says so, whatever hours a day were stated', () => {
    // 90 h gone by day 20 at 6 a day: 210 left are 35 days more.
    const counted = { at: 20 * DAY, sinceVisit: 90, perDay: 6 }
    const next = nextDate(forecast, { ...policy, hoursCounted: counted })
    expect(next).toMatchObject({ days: 55, limitedBy: 'in-use' })
    expect(plain(next.reason)).toContain('By the meter 90 of 300 hours in use since the last visit, of late 6.0 a day.')
    expect(nextDate(forecast, policy).days).toBe(12)
  })

  it('is due at the last reading when the hours are used up, and waits for the ceiling when nothing runs', () => {
    expect(nextDate(forecast, { ...policy, hoursCounted: { at: 9 * DAY, sinceVisit: 320, perDay: 8 } }).days).toBe(9)
    expect(nextDate(forecast, { ...policy, hoursCounted: { at: 9 * DAY, sinceVisit: 20, perDay: 0 } })).toMatchObject({
      days: 400,
      limitedBy: 'ceiling',
    })
  })
})
