import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { dip, drawNature, SETTLING_SHAPES } from '../../../lab/src/otherSimulation/settling.ts'
import { nernstSlope } from '../electrode/nernst.ts'
import { randomStream } from '../statistics/random.ts'
import { isTaken } from './grade.ts'
import type { StabilityOpinion } from './opinion.ts'
import { type Display, TYPED_APART, type TypedSample, typedOpinion } from './typedOpinion.ts'

const at = (t: number, value: number, still = false): TypedSample => ({ t, value, still })
/** pH; 0.01 pH a minute does no harm. */
const DISPLAY: Display = { digit: 0.01, resolution: 0.03, harmless: 0.01 / 60, goesOn: 120 }
const judge = (typed: readonly TypedSample[], display: Partial<Display> = {}, now = typed.at(-1)?.t ?? 0) =>
  typedOpinion(typed, { ...DISPLAY, ...display }, now)

describe('numbers typed off a display', () => {
  it('none tell nothing; one asks for another after 15 s', () => {
    expect(judge([])).toBeNull()
    expect(judge([at(0, 7.11)])).toMatchObject({ state: 'settling', reason: 'typed-once', nextReadingIn: 15 })
    expect(judge([at(0, 7.11)], {}, 9)?.nextReadingIn).toBe(6)
    expect(judge([at(0, 7.11)], {}, 60)?.nextReadingIn).toBe(0)
  })

  it('two that are the same are enough after 15 s, one digit apart after 30 s, and two that are nearer are not', () => {
    expect(judge([at(0, 7.11), at(15, 7.11)])).toMatchObject({ state: 'known', reason: 'typed-agree' })
    expect(judge([at(0, 7.11), at(14, 7.11)])).toMatchObject({ state: 'settling', reason: 'typed-once' })
    expect(judge([at(0, 7.11), at(15, 7.12)])).toMatchObject({ state: 'settling', reason: 'typed-apart' })
    expect(judge([at(0, 7.11), at(20, 7.12)])?.nextReadingIn).toBeCloseTo(10, 9)
    expect(judge([at(0, 7.11), at(30, 7.12)])?.state).toBe('known')
    expect(judge([at(0, 7.11), at(40, 7.13)])).toMatchObject({ state: 'settling', reason: 'typed-apart' })
    // The pair counts that is apart far enough, unless it left the number in between.
    expect(judge([at(0, 7.11), at(10, 7.11), at(16, 7.11)])?.state).toBe('known')
    expect(judge([at(0, 7.11), at(10, 7.2), at(16, 7.11)])?.state).toBe('settling')
  })

  it('rest is known of two so far apart that a creep of 0.01 pH a minute would have changed the digits', () => {
    expect(judge([at(0, 7.11), at(119, 7.11)])?.state).toBe('known')
    expect(judge([at(0, 7.11), at(120, 7.11)])?.state).toBe('stable')
    expect(judge([at(0, 7.11), at(179, 7.12)])?.state).toBe('known')
    expect(judge([at(0, 7.11), at(180, 7.12)])?.state).toBe('stable')
    // What came back to the same number has not rested meanwhile.
    expect(judge([at(0, 7.11), at(90, 7.3), at(280, 7.11), at(296, 7.11)])?.state).toBe('known')
  })

  it('one that stood still by the own watch is enough at once', () => {
    expect(judge([at(0, 7.11, true)])).toMatchObject({ state: 'known', reason: 'own-watch', nextReadingIn: 0 })
  })

  it('half a digit in 15 s may go on for as long as people wait, and no farther than they are off when they look', () => {
    const width = (typed: TypedSample[], display?: Partial<Display>) => judge(typed, display)?.predictedEndUncertainty
    expect(width([at(0, 7.11, true)])).toBeCloseTo(Math.hypot(0.005, (0.005 / 15) * 120), 9)
    expect(width([at(0, 7.11), at(60, 7.11)])).toBeCloseTo(Math.hypot(0.005, (0.005 / 60) * 120), 9)
    expect(width([at(0, 7.1, true)], { digit: 0.1 })).toBeCloseTo(Math.hypot(0.05, 0.09), 9)
    // Water that it never left: the last digit is all that is not known.
    expect(width([at(0, 7.11, true)], { goesOn: 0 })).toBeCloseTo(Math.hypot(0.005, 0.005), 9)
  })

  it('hold what they state on electrodes of other hands, and hardly ever call a creep of 0.01 pH a minute stable', () => {
    const random = randomStream(6)
    const [digit, perPh] = [0.01 * nernstSlope(25), nernstSlope(25)]
    const display = { digit, resolution: 0.03 * perPh, harmless: digit / 60, goesOn: 120 }
    const watched = SETTLING_SHAPES.flatMap((shape) =>
      Array.from({ length: 6 }, () => {
        const own = random.fork()
        const trace = dip(drawNature(shape, own), own)
        const typed: TypedSample[] = []
        let known: boolean | null = null
        for (const { t, value } of trace.samples) {
          if (t < 20 + 20 * typed.length) continue
          typed.push(at(t, Math.round((value as number) / digit) * digit))
          const opinion = typedOpinion(typed, display, t) as StabilityOpinion
          if (!isTaken('known', opinion.state)) continue
          known ??= Math.abs(opinion.predictedEnd - trace.end) <= opinion.predictedEndUncertainty
          if (opinion.state === 'stable') return { creep: trace.creep, known, stable: true }
        }
        return { creep: trace.creep, known, stable: false }
      }),
    )
    const resting = watched.filter((w) => w.creep === 0 && w.known !== null)
    const creeping = watched.filter((w) => Math.abs(w.creep) >= digit)
    expect(resting.filter((w) => w.known).length / resting.length).toBeGreaterThan(0.9)
    expect(creeping.filter((w) => w.stable).length).toBeLessThanOrEqual(1)
  })

  it('are known to the display and that stillness, whatever was typed', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 1e-3, max: 10, noNaN: true }),
        fc.integer({ min: -2000, max: 2000 }),
        fc.integer({ min: -1, max: 1 }),
        fc.double({ min: 2 * TYPED_APART, max: 7200, noNaN: true }),
        fc.boolean(),
        (digit, count, step, seconds, still) => {
          const typed = [at(0, count * digit), at(seconds, (count + step) * digit, still)]
          const opinion = judge(typed, { digit, resolution: 2 * digit })
          expect(isTaken('known', opinion?.state ?? 'settling')).toBe(true)
          expect(opinion?.predictedEnd).toBe((count + step) * digit)
          expect((opinion?.predictedEndUncertainty ?? 0) / digit).toBeGreaterThan(0.5)
          expect((opinion?.predictedEndUncertainty ?? 0) / digit).toBeLessThan(6.1)
        },
      ),
    )
  })
})
