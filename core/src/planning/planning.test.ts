import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { forecastDrift } from '../drift/driftForecast.ts'
import { DAY_MS } from '../drift/observation.ts'
import { nextDate } from './interval.ts'
import { leadingFact, stateWith } from './leadingFact.ts'
import { type PlannedSensor, planTrips } from './planTrips.ts'
import { type Job, timelineOf } from './timeline.ts'

const startOfDay = (at: number) => Math.floor(at / DAY_MS) * DAY_MS
const sensor = (position: string, fromDay: number, days: number, over: Partial<PlannedSensor> = {}): PlannedSensor => ({
  position,
  place: 'hall',
  from: fromDay * DAY_MS,
  days,
  floorDays: 3,
  movedTo: null,
  ...over,
})
const plan = (sensors: PlannedSensor[], today = 100, ahead = 90) =>
  planTrips(sensors, today * DAY_MS, ahead, startOfDay)

describe('an event that asks for a check', () => {
  const history = [0, 30, 60].map((day) => ({
    at: day * DAY_MS,
    asFound: 0.01,
    asLeft: 0,
    uncertainty: 0.02,
    adjusted: true,
  }))
  const forecast = forecastDrift(history, [], { rateSd: 0.1 / 30, walk: 0.01 ** 2 / 30 })
  const policy = { tolerance: 0.2, reliability: 0.95, floorDays: 7, ceilingDays: 60 }

  it('makes it due from then on, whatever the rules; one before the last visit, or after the date, changes nothing', () => {
    const usual = nextDate(forecast, policy, history)
    const at = forecast.from + 2 * DAY_MS
    const asked = nextDate(forecast, policy, history, [], [{ at, what: 'Unplugged' }])
    expect(asked).toMatchObject({ at, days: 2, usualDays: usual.usualDays, limitedBy: 'event' })
    const none = [forecast.from - DAY_MS, forecast.from + 400 * DAY_MS]
    for (const other of none) {
      const next = nextDate(forecast, policy, history, [], [{ at: other, what: 'Unplugged' }])
      expect([next.at, next.limitedBy]).toEqual([usual.at, usual.limitedBy])
    }
  })
})

describe('planTrips', () => {
  it('takes along whoever’s window is open, worked by hand', () => {
    // A is due on 120, B on 128 with its window open from 112: one trip on 120 serves both. C opens on 148 only.
    const [first] = plan([sensor('A', 90, 30), sensor('B', 88, 40), sensor('C', 88, 100)], 100, 25)
    expect(first?.day).toBe(120 * DAY_MS)
    expect(first?.visits.map((v) => v.position)).toEqual(['A', 'B'])
  })

  it('makes fewer trips than visiting each on its own date, and lets nobody pass it', () => {
    fc.assert(
      fc.property(
        fc.array(fc.record({ from: fc.integer({ min: 60, max: 99 }), days: fc.integer({ min: 7, max: 120 }) }), {
          minLength: 1,
          maxLength: 15,
        }),
        (list) => {
          const sensors = list.map((s, i) => sensor(`S${i}`, s.from, s.days))
          const trips = plan(sensors)
          const alone = sensors.reduce((sum, s) => sum + plan([s]).length, 0)
          expect(trips.length).toBeLessThanOrEqual(alone)
          for (const trip of trips) {
            for (const v of trip.visits) {
              expect(trip.day).toBeLessThanOrEqual(Math.max(v.due, 100 * DAY_MS))
              expect(v.opens).toBeLessThanOrEqual(trip.day)
            }
          }
        },
      ),
      { numRuns: 200 },
    )
  })

  it('proposes today for one that is late, and plans its next from there', () => {
    const trips = plan([sensor('A', 20, 30)], 100, 40)
    expect(trips.map((t) => t.day / DAY_MS)).toEqual([100, 130])
  })

  it('goes at once to one whose device lost its numbers, and from there by its interval', () => {
    const trips = plan([sensor('A', 90, 30, { dueAt: 99.4 * DAY_MS }), sensor('B', 95, 30)], 100, 40)
    expect(trips.map((t) => [t.day / DAY_MS, t.visits.map((v) => v.position)])).toEqual([
      [100, ['A']],
      [125, ['A', 'B']],
    ])
  })

  it('does not mix places', () => {
    const trips = plan([sensor('A', 90, 30), sensor('B', 90, 30, { place: 'house' })], 100, 25)
    expect(trips.map((t) => t.place)).toEqual(['hall', 'house'])
  })

  it('puts one that was moved on its day, takes others along there, and goes on by its interval', () => {
    const trips = plan([sensor('A', 90, 30, { movedTo: 110 * DAY_MS }), sensor('B', 88, 30)], 100, 40)
    expect(trips[0]).toMatchObject({ day: 110 * DAY_MS, visits: [{ position: 'A', moved: true }, { position: 'B' }] })
    expect(trips[1]?.day).toBe(140 * DAY_MS)
  })

  it('refuses an interval of no days', () => {
    expect(() => plan([sensor('A', 90, 0)])).toThrow(/Interval of A/)
  })
})

describe('timelineOf', () => {
  const job = (position: string, parts: Job['parts'], after: string[] = []): Job => ({ position, parts, after })
  const hands = (minutes: number, what = 'work') => ({ what, minutes, hands: true })
  const wait = (minutes: number, what = 'dry', shared = false) => ({ what, minutes, hands: false, shared })

  it('works beside a wait, worked by hand', () => {
    // Cell: 5 min, dry 60, 10 min. pH: 20 min. The cell goes first; pH is done while it dries; 75 min in all.
    const t = timelineOf([job('pH', [hands(20)]), job('S', [hands(5, 'clean'), wait(60), hands(10, 'zero')])])
    expect(t.entries.map((e) => [e.position, e.what, e.start, e.end])).toEqual([
      ['S', 'clean', 0, 5],
      ['pH', 'work', 5, 25],
      ['S', 'dry', 5, 65],
      ['S', 'zero', 65, 75],
    ])
    expect(t).toMatchObject({ length: 75, hands: 35, lead: 0 })
  })

  it('starts a float once for all, ahead of the arrival', () => {
    const t = timelineOf([
      job('A', [wait(60, 'float', true), hands(20)]),
      job('B', [wait(60, 'float', true), hands(20)]),
    ])
    expect(t.entries.filter((e) => e.what === 'float')).toEqual([
      { position: null, what: 'float', start: -60, end: 0, hands: false },
    ])
    expect(t).toMatchObject({ lead: 60, length: 40 })
  })

  it('does ions after pH on the same body, and refuses a circle', () => {
    const t = timelineOf([job('Cl', [hands(30)], ['pH']), job('pH', [hands(20)])])
    expect(t.entries.map((e) => e.position)).toEqual(['pH', 'Cl'])
    expect(() => timelineOf([job('A', [hands(1)], ['B']), job('B', [hands(1)], ['A'])])).toThrow(/circle/)
  })

  it('never has two hands-on tasks at once', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.array(fc.record({ minutes: fc.integer({ min: 1, max: 60 }), hands: fc.boolean() }), {
            minLength: 1,
            maxLength: 5,
          }),
          {
            minLength: 1,
            maxLength: 6,
          },
        ),
        (list) => {
          const t = timelineOf(
            list.map((parts, i) =>
              job(
                `P${i}`,
                parts.map((p, k) => ({ what: `${k}`, ...p })),
              ),
            ),
          )
          const busy = t.entries.filter((e) => e.hands)
          busy.slice(1).forEach((e, i) => {
            expect(e.start).toBeGreaterThanOrEqual(busy[i]?.end ?? 0)
          })
          const total = list
            .flat()
            .filter((p) => p.hands)
            .reduce((sum, p) => sum + p.minutes, 0)
          expect(t.hands).toBe(total)
        },
      ),
    )
  })
})

describe('what leads over the drift', () => {
  const visits = Array.from({ length: 8 }, (_, i) => ({
    at: 30 * i * DAY_MS,
    asFound: i === 0 ? null : 0.09,
    asLeft: 0,
    uncertainty: 0.01,
    adjusted: true,
  }))
  const forecast = forecastDrift(visits)
  const policy = { tolerance: 0.1, reliability: 0.95, floorDays: 7, ceilingDays: 365 }
  const calm = { cause: null, end: null }

  it('is nothing where the date comes first', () => {
    const next = nextDate(forecast, policy)
    expect(leadingFact(forecast, policy, next, calm)).toBeNull()
    expect(stateWith('drifting', null)).toBe('drifting')
  })

  it('is that it is out before a date that the calendar sets, from the day on which that is likelier than not', () => {
    const next = nextDate(forecast, { ...policy, method: 'fixed' as const, fixedDays: 120 })
    const fact = leadingFact(forecast, policy, next, calm)
    // Three hundredths in ten days: a tenth after about 33.
    expect(fact?.kind).toBe('out')
    expect((((fact as { at: number }).at ?? 0) - forecast.from) / DAY_MS).toBeGreaterThan(25)
    expect((((fact as { at: number }).at ?? 0) - forecast.from) / DAY_MS).toBeLessThan(45)
    expect(stateWith('holding', fact)).toBe('out soon')
    expect(stateWith('due', fact)).toBe('due')
  })

  it('is a likely cause before all that is only expected, and an end of life only before the date', () => {
    const next = nextDate(forecast, policy)
    const cause = { name: 'junction blocked', probability: 0.7 }
    expect(leadingFact(forecast, policy, next, { cause, end: null })).toEqual({ kind: 'cause', ...cause })
    expect(leadingFact(forecast, policy, next, { cause: { ...cause, probability: 0.4 }, end: null })).toBeNull()
    const end = { name: 'slope', at: next.at - DAY_MS }
    const fact = leadingFact(forecast, policy, next, { cause: null, end })
    expect(fact).toEqual({ kind: 'end', ...end })
    expect(stateWith('holding', fact)).toBe('suspect')
    expect(
      leadingFact(forecast, policy, next, { cause: null, end: { name: 'slope', at: next.at + DAY_MS } }),
    ).toBeNull()
  })
})
