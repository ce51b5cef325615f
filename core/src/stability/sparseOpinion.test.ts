import { describe, expect, it } from 'vitest'
import { sparseOpinion as opinionOf, type SparseReading } from './sparseOpinion.ts'

/** 0.01 pH a minute. */
const HARMLESS = 0.01 / 60
const sparseOpinion = (readings: readonly SparseReading[], step: number, now: number) =>
  opinionOf(readings, step, HARMLESS, now)

const every = (seconds: number, values: readonly number[]): SparseReading[] =>
  values.map((value, i) => [i * seconds, value])

describe('readings that come seldom', () => {
  it('never show settling: only three that agree over half a minute say what it is', () => {
    expect(sparseOpinion([], 0.01, 0)).toBeNull()
    expect(sparseOpinion(every(20, [7.3]), 0.01, 1)).toMatchObject({ state: 'settling', reason: 'sparse' })
    expect(sparseOpinion(every(20, [7.01, 7.01]), 0.01, 21)?.state).toBe('settling')
    expect(sparseOpinion(every(6, [7.01, 7.01, 7.01]), 0.01, 13)?.state).toBe('settling')
    expect(sparseOpinion(every(20, [7.3, 7.02, 7.01, 7.01]), 0.01, 61)).toMatchObject({
      state: 'known',
      predictedEnd: 7.01,
    })
    expect(sparseOpinion(every(20, [7.3, 7.04, 7.02, 7.01]), 0.01, 61)?.state).toBe('settling')
  })

  it('that come every few seconds are looked at over half a minute too', () => {
    const readings = every(6, [7.3, 7.05, 7.02, 7.01, 7.01, 7.01, 7.01, 7.01, 7.01])
    expect(sparseOpinion(readings.slice(0, 7), 0.01, 37)?.state).toBe('settling')
    expect(sparseOpinion(readings, 0.01, 49)?.state).toBe('known')
  })

  it('that agree are not known while a tail as slow as that of aged glass may have more than a step to go', () => {
    // 0.008 pH in the last 40 of 240 s: by t^-0.7 another 0.06 are to come.
    const slow = every(20, [7.6, 7.4, 7.3, 7.22, 7.17, 7.13, 7.1, 7.08, 7.064, 7.055, 7.05, 7.046, 7.042])
    const opinion = sparseOpinion(slow, 0.01, 241)
    expect(opinion?.state).toBe('settling')
    expect(opinion?.predictedEndUncertainty).toBeCloseTo(Math.hypot(0.005, 0.008 / ((240 / 200) ** 0.7 - 1)), 9)
    // The same movement right after a quick fall is the end of it.
    const quick = every(20, [7.6, 7.046, 7.044, 7.043, 7.042])
    expect(sparseOpinion(quick, 0.01, 81)?.state).toBe('known')
  })

  it('are called stable only over so long that a creep of 0.01 pH a minute would have shown', () => {
    expect(sparseOpinion(every(20, [7.3, 7.01, 7.01, 7.01]), 0.01, 61)?.state).toBe('known')
    expect(sparseOpinion(every(60, [7.3, 7.01, 7.01, 7.01]), 0.01, 181)?.state).toBe('stable')
    for (const apart of [5, 10, 20, 40, 60]) {
      for (let n = 2; n < 60; n++) {
        const creeping = every(
          apart,
          Array.from({ length: n }, (_, i) => Math.round(100 * (7 + (i * apart * 0.01) / 60)) / 100),
        )
        expect(sparseOpinion(creeping, 0.01, n * apart)?.state, `${apart} s, ${n}`).not.toBe('stable')
      }
    }
  })

  it('say when the next one comes, and how fast it still moves', () => {
    expect(sparseOpinion(every(30, [7.4, 7.1]), 0.01, 40)).toMatchObject({
      nextReadingIn: 20,
      driftPerMinute: expect.closeTo(-0.6, 9),
    })
  })
})
