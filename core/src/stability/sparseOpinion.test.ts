import { describe, expect, it } from 'vitest'
import { type SparseReading, sparseOpinion } from './sparseOpinion.ts'

const every = (seconds: number, values: readonly number[]): SparseReading[] =>
  values.map((value, i) => [i * seconds, value])

describe('readings that come seldom', () => {
  it('never show settling: only three that agree over half a minute say that it is over', () => {
    expect(sparseOpinion([], 0.01, 0)).toBeNull()
    expect(sparseOpinion(every(20, [7.3]), 0.01, 1)).toMatchObject({ state: 'settling', reason: 'sparse' })
    expect(sparseOpinion(every(20, [7.01, 7.01]), 0.01, 21)?.state).toBe('settling')
    expect(sparseOpinion(every(6, [7.01, 7.01, 7.01]), 0.01, 13)?.state).toBe('settling')
    expect(sparseOpinion(every(20, [7.3, 7.02, 7.01, 7.01]), 0.01, 61)).toMatchObject({
      state: 'stable',
      predictedEnd: 7.01,
    })
    expect(sparseOpinion(every(20, [7.3, 7.04, 7.02, 7.01]), 0.01, 61)?.state).toBe('settling')
  })

  it('say when the next one comes, and how fast it still moves', () => {
    expect(sparseOpinion(every(30, [7.4, 7.1]), 0.01, 40)).toMatchObject({
      nextReadingIn: 20,
      driftPerMinute: expect.closeTo(-0.6, 9),
    })
  })
})
