import { kindOf, modelOf, type Observation, procedureOf, randomStream, type VisitEntry } from '@frustum/core'
import { describe, expect, it } from 'vitest'
import { fleet, OPERATORS } from '../pellwick.ts'
import { playHistory } from './history.ts'

const NOW = Date.UTC(2026, 10, 24, 9)
const play = (code: string, seed = 7) => {
  const sensor = fleet().find((s) => s.code === code)
  if (!sensor) throw new Error(code)
  return playHistory(sensor, NOW, OPERATORS, randomStream(seed))
}

describe.each(fleet().map((s) => s.code))('the past of %s', (code) => {
  const history = play(code)
  const observed = history.flatMap((v) => (v.observation ? [v.observation] : []))

  it('is in order of time, ends lately, and begins with a baseline that the device took over', () => {
    const times = history.flatMap((v) => v.entries.map((e) => e.at))
    expect(times.toSorted((a, b) => a - b)).toEqual(times)
    expect(times.at(-1)).toBeLessThan(NOW)
    expect(history.length).toBeGreaterThan(3)
    const [first] = history
    // A factory cell and a comparison leave no calibration behind.
    if (first?.calibration) expect(first.calibration).toMatchObject({ adopted: true, baseline: true })
    expect(first?.observation?.asFound ?? null).toBeNull()
  })

  it('leaves less error behind where it adjusted than it found', () => {
    const tolerance = fleet().find((s) => s.code === code)?.tolerance ?? 1
    const adjusted = observed.filter((o): o is Observation & { asFound: number } => o.adjusted && o.asFound !== null)
    for (const o of adjusted) expect(Math.abs(o.asLeft)).toBeLessThan(Math.max(0.75 * tolerance, Math.abs(o.asFound)))
    expect(observed.every((o) => Number.isFinite(o.asLeft) && o.uncertainty > 0)).toBe(true)
  })

  it('is what the procedures make of their own record', () => {
    for (const visit of history.slice(-3)) {
      const sensor = fleet().find((s) => s.code === code)
      const kind = sensor?.kind ?? 'ph'
      const captured = visit.entries.filter((e) => e.entry.type === 'captured')
      expect(kindOf(kind).procedures).toContain(procedureOf(visit.procedure))
      for (const { entry } of captured) {
        const { reading } = entry as Extract<VisitEntry, { type: 'captured' }>
        expect(Number.isFinite(reading.signal) && Number.isFinite(reading.shown)).toBe(true)
        const { low, high } = modelOf(kind).shownRange(sensor?.device ?? {})
        expect(reading.shown).toBeGreaterThanOrEqual(low)
        expect(reading.shown).toBeLessThanOrEqual(high)
      }
    }
  })
})

it('is the same for the same seed, and another for another', () => {
  const numbers = (seed: number) => JSON.stringify(play('CH-pH-1', seed).map((v) => v.observation))
  expect(numbers(7)).toBe(numbers(7))
  expect(numbers(8)).not.toBe(numbers(7))
})

it('tells the stories that the station is for: a poisoned reference, a spent tip, a pair that parts', () => {
  const lastFound = (code: string) =>
    play(code).findLast((v) => v.observation?.asFound != null)?.observation?.asFound ?? 0
  expect(lastFound('CH-pH-2')).toBeLessThan(-0.08)
  expect(Math.abs(lastFound('CH-pH-3'))).toBeLessThan(0.06)
  const slopes = play('BR-Cl-1').flatMap((v) => v.calibration?.characteristic.slopeEfficiency ?? [])
  expect(slopes[0]).toBeGreaterThan(0.95)
  expect(slopes.at(-1)).toBeLessThan(0.82)
})
