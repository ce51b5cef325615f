import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { randomStream } from '../statistics/random.ts'
import { type SpanSummary, summaryOf } from './bins.ts'
import { KeepRule } from './keepRule.ts'
import { READING_STATES } from './readingState.ts'
import { deviationOf, EMPTY_ROLL_UP, rollUpOf, together } from './rollUp.ts'

const reading = fc.record({
  value: fc.option(fc.double({ min: -1e6, max: 1e6, noNaN: true })),
  state: fc.constantFrom(...READING_STATES),
})

describe('what readings come to', () => {
  it('is the same in one piece and put together of any two', () => {
    fc.assert(
      fc.property(fc.array(reading), fc.nat(), (all, cut) => {
        const at = all.length === 0 ? 0 : cut % all.length
        const whole = rollUpOf(all)
        const both = together(rollUpOf(all.slice(0, at)), rollUpOf(all.slice(at)))
        expect(both).toMatchObject({ count: whole.count, good: whole.good, min: whole.min, max: whole.max })
        if (whole.mean !== null) expect(both.mean).toBeCloseTo(whole.mean, 4)
        expect(Math.abs(both.squares - whole.squares)).toBeLessThanOrEqual(1e-6 * (1 + whole.squares))
      }),
    )
    expect(together(EMPTY_ROLL_UP, EMPTY_ROLL_UP)).toEqual(EMPTY_ROLL_UP)
  })

  // NIST/SEMATECH e-Handbook, StRD "NumAcc3" (from memory): mean 1000000.2, standard deviation 0.1, digits that cancel.
  it('keeps its digits where they cancel', () => {
    const values = [1000000.2, ...Array.from({ length: 1000 }, (_, i) => (i % 2 === 0 ? 1000000.1 : 1000000.3))]
    const rolled = rollUpOf(values.map((value) => ({ value, state: 'good' as const })))
    expect(rolled.mean).toBeCloseTo(1000000.2, 9)
    expect(deviationOf(rolled)).toBeCloseTo(0.1, 8)
  })

  it('over a span is of its time, however densely it was kept', () => {
    // An hour of a step up, kept every 10 s, after nine quiet ones that were kept every ten minutes.
    const hour = (value: number, count: number) => rollUpOf(Array(count).fill({ value, state: 'good' }))
    const bins = [...Array.from({ length: 9 }, () => hour(8, 6)), hour(9, 360)]
    const { mean, deviation, ...rest } = summaryOf(bins) as SpanSummary
    expect(rest).toEqual({ good: 414, min: 8, max: 9 })
    // Nine parts of ten at 8 and one at 9: variance p (1 - p).
    expect([mean, deviation]).toEqual([expect.closeTo(8.1, 12), expect.closeTo(0.3, 12)])
    expect(summaryOf([EMPTY_ROLL_UP])).toBeNull()
    expect(summaryOf([hour(7, 1)])).toMatchObject({ mean: 7, deviation: null })
  })

  it('is of what the water did alone', () => {
    const rolled = rollUpOf([
      { value: 8, state: 'good' },
      { value: 4.01, state: 'in-visit' },
      { value: null, state: 'blind' },
      { value: 8.2, state: 'typed' },
    ])
    expect(rolled).toMatchObject({ count: 4, good: 2, min: 8, max: 8.2, mean: expect.closeTo(8.1, 12) })
  })
})

describe('which are kept', () => {
  const run = (values: readonly number[], everyMs = 60_000, step = 0.01, apart = 500) => {
    const rule = new KeepRule({ step, everyMs })
    return values.flatMap((value, i) => (rule.isKept({ at: i * apart, value, state: 'good' }) ? [i * apart] : []))
  }

  it('one a minute of a quiet one, however noisy', () => {
    const random = randomStream(4)
    for (const noise of [0, 0.002, 0.05]) {
      const kept = run(Array.from({ length: 7200 }, () => 8.1 + noise * random.normal()))
      expect(kept.length).toBeGreaterThanOrEqual(60)
      expect(kept.length).toBeLessThanOrEqual(66)
    }
  })

  it('a move, at once it is more than chance, and no more often than in ten seconds', () => {
    const kept = run(Array.from({ length: 240 }, (_, i) => (i < 60 ? 8.1 : 7.6)))
    // Kept at 0 s, at the move (30 s), and a minute after it.
    expect(kept).toEqual([0, 30_000, 90_000])
    const ramp = run(Array.from({ length: 240 }, (_, i) => 8.1 - i * 0.01))
    expect(Math.min(...ramp.slice(1).map((at, i) => at - (ramp[i] as number)))).toBeGreaterThanOrEqual(10_000)
    expect(ramp.length).toBeGreaterThanOrEqual(10)
  })

  it('another state at once, nothing twice, and nothing out of order', () => {
    const rule = new KeepRule({ step: 0.01, everyMs: 60_000 })
    expect(rule.isKept({ at: 0, value: 8, state: 'good' })).toBe(true)
    expect(rule.isKept({ at: 1000, value: null, state: 'blind' })).toBe(true)
    expect(rule.isKept({ at: 300_000, value: null, state: 'blind' })).toBe(false)
    expect(rule.isKept({ at: 301_000, value: 8, state: 'good' })).toBe(true)
    expect(rule.isKept({ at: 301_000, value: 8, state: 'good' })).toBe(false)
    expect(rule.isKept({ at: 0, value: 9, state: 'good' })).toBe(false)
    expect(() => new KeepRule({ step: 0, everyMs: 1 })).toThrow(RangeError)
  })
})
