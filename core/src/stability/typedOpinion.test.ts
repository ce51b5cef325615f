import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { isTaken } from './grade.ts'
import { TYPED_APART, type TypedSample, typedOpinion } from './typedOpinion.ts'

const at = (t: number, value: number, still = false): TypedSample => ({ t, value, still })
/** 0.01 pH a minute. */
const HARMLESS = 0.01 / 60
const judge = (typed: readonly TypedSample[], digit = 0.01) =>
  typedOpinion(typed, digit, HARMLESS, typed.at(-1)?.t ?? 0)

describe('numbers typed off a display', () => {
  it('none tell nothing; one asks for another after 15 s', () => {
    expect(judge([])).toBeNull()
    expect(judge([at(0, 7.11)])).toMatchObject({ state: 'settling', reason: 'typed-once', nextReadingIn: 15 })
    expect(typedOpinion([at(0, 7.11)], 0.01, HARMLESS, 9)?.nextReadingIn).toBe(6)
    expect(typedOpinion([at(0, 7.11)], 0.01, HARMLESS, 60)?.nextReadingIn).toBe(0)
  })

  it('two at least 15 s apart that differ by at most one last digit are enough, and two that are nearer are not', () => {
    expect(judge([at(0, 7.11), at(15, 7.11)])).toMatchObject({ state: 'known', reason: 'typed-agree' })
    expect(judge([at(0, 7.11), at(15, 7.12)])?.state).toBe('known')
    expect(judge([at(0, 7.11), at(15, 7.13)])).toMatchObject({ state: 'settling', reason: 'typed-apart' })
    expect(judge([at(0, 7.11), at(14, 7.11)])).toMatchObject({ state: 'settling', reason: 'typed-once' })
    // The pair counts that is apart far enough, whatever was typed in between.
    expect(judge([at(0, 7.11), at(10, 7.2), at(16, 7.11)])?.state).toBe('known')
  })

  it('rest is known of two so far apart that a creep of 0.01 pH a minute would have changed the digits', () => {
    expect(judge([at(0, 7.11), at(59, 7.11)])?.state).toBe('known')
    expect(judge([at(0, 7.11), at(60, 7.11)])?.state).toBe('stable')
    expect(judge([at(0, 7.11), at(90, 7.12)])?.state).toBe('known')
    expect(judge([at(0, 7.11), at(120, 7.12)])?.state).toBe('stable')
    expect(judge([at(0, 7.11), at(90, 7.3), at(106, 7.3)])?.state).toBe('known')
    // What came back to the same number has not rested meanwhile.
    expect(judge([at(0, 7.11), at(90, 7.3), at(180, 7.11), at(196, 7.11)])?.state).toBe('known')
  })

  it('one that stood still by the own watch is enough at once', () => {
    expect(judge([at(0, 7.11, true)])).toMatchObject({ state: 'known', reason: 'own-watch', nextReadingIn: 0 })
  })

  it('is known to the display’s resolution and that stillness: two digits at most', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 1e-3, max: 10, noNaN: true }),
        fc.integer({ min: -2000, max: 2000 }),
        fc.integer({ min: -1, max: 1 }),
        fc.double({ min: TYPED_APART, max: 7200, noNaN: true }),
        fc.boolean(),
        (digit, count, step, seconds, still) => {
          const opinion = judge([at(0, count * digit), at(seconds, (count + step) * digit, still)], digit)
          expect(isTaken('known', opinion?.state ?? 'settling')).toBe(true)
          expect(opinion?.predictedEnd).toBe((count + step) * digit)
          expect((opinion?.predictedEndUncertainty ?? 0) / digit).toBeGreaterThan(0.5)
          expect((opinion?.predictedEndUncertainty ?? 0) / digit).toBeLessThan(1.2)
        },
      ),
    )
  })
})
