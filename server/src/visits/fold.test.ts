import type { CapturedReading, VisitEntry } from '@frustum/contract'
import { PH_STEPS, type PhStepKey } from '@frustum/core'
import { describe, expect, it } from 'vitest'
import { foldVisit } from './fold.ts'

const reading = (millivolts: number): CapturedReading => ({
  millivolts,
  millivoltsUncertainty: 1,
  temperature: 22,
  shown: 7,
  stability: { state: 'stable', reason: 'known', seconds: 60, confidence: 97 },
  trace: [],
  signature: null,
})
const captured = (step: PhStepKey, mv = 0): VisitEntry => ({ type: 'captured', step, reading: reading(mv) })
const done = (step: PhStepKey): VisitEntry => ({ type: 'done', step })
const fold = (kind: 'two-point' | 'check', entries: VisitEntry[]) =>
  foldVisit(
    kind,
    entries.map((entry, i) => ({ at: i, entry })),
  )

const UP_TO_RESULT: VisitEntry[] = [
  done('hold'),
  captured('found-process'),
  captured('found-buffer'),
  done('clean'),
  captured('first-buffer', 4),
  done('rinse'),
  captured('second-buffer', -170),
]
const decided = (decision: 'adjust' | 'leave-alone'): VisitEntry => ({
  type: 'decided',
  step: 'result',
  decision,
  proposed: 'adjust',
  note: null,
})

describe('foldVisit', () => {
  it('opens one step after the other', () => {
    for (let n = 0; n <= UP_TO_RESULT.length; n++) {
      const { current } = fold('two-point', UP_TO_RESULT.slice(0, n))
      expect(current).toBe(PH_STEPS.filter((s) => s !== 'verdict')[n])
    }
  })

  it('drops apply and verify when nothing is adjusted', () => {
    expect(fold('two-point', [...UP_TO_RESULT, decided('leave-alone')]).current).toBe('back')
    expect(fold('two-point', [...UP_TO_RESULT, decided('adjust')]).current).toBe('apply')
  })

  it('opens again what rests on a point that is taken again, and keeps the rest', () => {
    const progress = fold('two-point', [
      ...UP_TO_RESULT,
      decided('adjust'),
      { type: 'redo', step: 'first-buffer', reason: 'Wrong cup' },
    ])
    expect(progress.current).toBe('first-buffer')
    expect(progress.decision).toBeNull()
    expect(progress.steps.find((s) => s.key === 'second-buffer')?.reading?.millivolts).toBe(-170)
    const again = fold('two-point', [
      ...UP_TO_RESULT,
      { type: 'redo', step: 'first-buffer', reason: 'x' },
      captured('first-buffer', 5),
    ])
    expect(again.current).toBe('result')
    expect(again.readings['first-buffer']?.millivolts).toBe(5)
  })

  it('takes a check short, or on to the whole calibration with what it has', () => {
    const check = [done('hold'), captured('found-process'), captured('found-buffer')]
    expect(fold('check', check).steps.map((s) => s.key)).toEqual([
      'hold',
      'found-process',
      'found-buffer',
      'verdict',
      'back',
      'release',
    ])
    const on = fold('check', [...check, { type: 'went-on' }])
    expect(on.current).toBe('clean')
    expect(on.steps.find((s) => s.key === 'found-buffer')?.status).toBe('done')
  })

  it('keeps the reason of a skipped step, and typed readings of the step at hand only', () => {
    const progress = fold('two-point', [
      { type: 'skipped', step: 'hold', reason: 'Held already' },
      { type: 'typed', step: 'found-process', value: 8, temperature: 20 },
      captured('found-process'),
      { type: 'typed', step: 'found-buffer', value: 7.1, temperature: 20 },
    ])
    expect(progress.steps[0]).toMatchObject({ status: 'skipped', reason: 'Held already' })
    expect(progress.typed.map((t) => t.value)).toEqual([7.1])
  })
})
