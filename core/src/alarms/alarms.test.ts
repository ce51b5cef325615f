import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { ReadingState } from '../readings/readingState.ts'
import { type AlarmLimits, limitsProblem } from './alarmLimits.ts'
import type { AlarmKind } from './alarmType.ts'
import { type AlarmChange, AlarmWatch } from './alarmWatch.ts'
import { limitsAround, limitsOfDays } from './quickLimits.ts'

const LIMITS: AlarmLimits = { lowLow: 7.5, low: 7.8, high: 8.5, highHigh: 8.8, hysteresis: 0.05, delaySeconds: 60 }

/** Readings, ten seconds apart. */
function played(
  values: readonly (number | null | [number | null, ReadingState])[],
  watch = new AlarmWatch(LIMITS),
): AlarmChange[] {
  return values.flatMap((one, i) => {
    const [value, state] = Array.isArray(one) ? one : ([one, one === null ? 'blind' : 'good'] as const)
    return watch.push({ at: 10_000 * i, value, state })
  })
}
const times = <T>(count: number, value: T) => Array.from({ length: count }, () => value)
const said = (changes: readonly AlarmChange[]) => changes.map((c) => `${c.raised ? '+' : '-'}${c.kind} ${c.at / 1000}`)

describe('what one sensor reads', () => {
  it('is raised beyond a limit for its delay, and well again inside it by the hysteresis for as long', () => {
    expect(said(played([...times(3, 8.1), ...times(7, 8.6), ...times(10, 8.47), ...times(7, 8.4)]))).toEqual([
      '+high 90',
      '-high 260',
    ])
    expect(said(played([...times(6, 8.6), 8.1, ...times(6, 8.6)]))).toEqual([])
    expect(said(played(times(8, 7.4)))).toEqual(['+low-low 60', '+low 60'])
  })

  it('says nothing of the water in a visit, while held, where it cannot be, or where nobody answers', () => {
    expect(said(played(times(100, [4.01, 'in-visit'])))).toEqual([])
    expect(said(played(times(100, [4.01, 'held'])))).toEqual([])
    expect(said(played(times(8, [348_700, 'out-of-range'])))).toEqual(['+impossible 60'])
    expect(said(played([...times(14, null), 8.1]))).toEqual(['+blind 120', '-blind 140'])
    // What was raised before a visit is raised after it.
    const watch = new AlarmWatch(LIMITS, { raised: ['high'] })
    expect(said(played([...times(20, [7, 'in-visit'] as [number, ReadingState]), ...times(20, 8.6)], watch))).toEqual(
      [],
    )
  })

  it('goes with its limit, and is never raised twice nor ended twice, whatever comes', () => {
    const watch = new AlarmWatch(LIMITS, { raised: ['high'] })
    watch.setLimits({ hysteresis: 0, delaySeconds: 0 })
    expect(said(played([8.9], watch))).toEqual(['-high 0'])
    fc.assert(
      fc.property(
        fc.array(
          fc.tuple(
            fc.option(fc.double({ min: 6, max: 10, noNaN: true })),
            fc.constantFrom<ReadingState>('good', 'blind', 'in-visit', 'held', 'out-of-range'),
          ),
        ),
        (all) => {
          const raised = new Set<AlarmKind>()
          for (const { kind, raised: up } of played(all)) {
            expect(raised.has(kind)).toBe(!up)
            if (up) raised.add(kind)
            else raised.delete(kind)
          }
        },
      ),
    )
  })
})

describe('limits', () => {
  const range = { low: 0, high: 14 }
  it('are refused where they cannot be meant', () => {
    expect(limitsProblem(LIMITS, range)).toBeNull()
    expect(limitsProblem({ ...LIMITS, low: 8.6 }, range)).toContain('rise')
    expect(limitsProblem({ ...LIMITS, high: 15, highHigh: undefined }, range)).toContain('between 0 and 14')
    expect(limitsProblem({ ...LIMITS, hysteresis: 0.4 }, range)).toContain('half')
    expect(limitsProblem({ ...LIMITS, delaySeconds: 1e6 }, range)).toContain('day')
    expect(limitsProblem({ hysteresis: 0, delaySeconds: 0 }, range)).toBeNull()
  })

  it('of now and of the ordinary days raise nothing there, and are sound ones', () => {
    const around = limitsAround(8.13, 0.1, 2, range)
    expect(around).toMatchObject({ lowLow: 7.83, low: 7.93, high: 8.33, highHigh: 8.43, hysteresis: 0.02 })
    const days = Array.from({ length: 24 }, (_, hour) => ({ hour, low: 7.8 + hour / 100, high: 7.9 + hour / 100 }))
    const ordinary = limitsOfDays(days, 0.1, 2, range) as AlarmLimits
    expect(ordinary.low).toBeLessThan(7.8)
    expect(ordinary.high).toBeGreaterThan(8.13)
    for (const limits of [around, ordinary, limitsAround(0.05, 0.1, 2, range)])
      expect(limitsProblem(limits, range)).toBeNull()
    expect(limitsOfDays([], 0.1, 2, range)).toBeNull()
  })
})
