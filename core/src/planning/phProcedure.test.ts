import { expect, it } from 'vitest'
import { CAPTURE_STEPS, currentStep, PH_STEPS, phProcedure, proposeBuffers } from './phProcedure.ts'

it('a two-point visit goes through every step but the verdict of a check', () => {
  expect(phProcedure({ kind: 'two-point', wentOn: false, adjusts: null })).toEqual(
    PH_STEPS.filter((s) => s !== 'verdict'),
  )
})

it('a check is short, and has all steps once it went on', () => {
  expect(phProcedure({ kind: 'check', wentOn: false, adjusts: null })).toHaveLength(6)
  expect(phProcedure({ kind: 'check', wentOn: true, adjusts: null })).toEqual(PH_STEPS)
})

it('what is left alone needs neither apply nor verify', () => {
  const steps = phProcedure({ kind: 'two-point', wentOn: false, adjusts: false })
  expect(steps).not.toContain('apply')
  expect(steps).not.toContain('verify')
})

it('the hold comes first and its release last, whatever the course', () => {
  for (const kind of ['two-point', 'check'] as const) {
    for (const adjusts of [true, false, null]) {
      for (const wentOn of [true, false]) {
        const steps = phProcedure({ kind, wentOn, adjusts })
        expect([steps[0], steps.at(-1)]).toEqual(['hold', 'release'])
        expect(steps.every((s) => PH_STEPS.includes(s))).toBe(true)
      }
    }
  }
})

it('the current step is the first that is not done', () => {
  expect(currentStep(PH_STEPS, new Set(['hold', 'found-buffer']))).toBe('found-process')
  expect(currentStep(PH_STEPS, new Set(PH_STEPS))).toBeNull()
  expect(CAPTURE_STEPS.every((s) => PH_STEPS.includes(s))).toBe(true)
})

it('seawater is calibrated with 7 and 10, nutrient with 7 and 4 (common practice, no source)', () => {
  expect(proposeBuffers(8.2)).toEqual({ first: 'pH7.00', second: 'pH10.01' })
  expect(proposeBuffers(5.9)).toEqual({ first: 'pH7.00', second: 'pH4.01' })
})
