import { kindOf, modelOf, procedureOf, standards } from '@frustum/core'
import { simulatedResistances } from '@frustum/lab/simulation'
import { describe, expect, it } from 'vitest'
import { CONSUMABLES, fleet, OPERATORS, PLACES, processAt, SITE, truthAt } from './pellwick.ts'
import { SHELF } from './shelf.ts'

const DAY = 86_400_000
const NOW = Date.UTC(2026, 10, 23, 15)
const PAST = [-600, -365, -120, -30, -1, 0, 45]

describe('the invented station', () => {
  it('has about two dozen sensors in three places, each with its own code, serial number and line', () => {
    const sensors = fleet()
    expect(sensors.length).toBeGreaterThanOrEqual(24)
    const distinct = (of: (string | number)[]) => expect(new Set(of).size).toBe(of.length)
    distinct(sensors.map((s) => s.code))
    distinct(sensors.map((s) => s.serial))
    distinct(sensors.flatMap((s) => (s.unit === null ? [] : [s.unit])))
    expect(new Set(sensors.map((s) => s.place))).toEqual(new Set(PLACES.map((p) => p.key)))
    expect(OPERATORS).toHaveLength(3)
    expect(() => new Intl.DateTimeFormat('en', { timeZone: SITE.timeZone })).not.toThrow()
  })

  it.each(fleet().map((s) => [s.code, s] as const))('%s is a sensor that can be kept true', (_, sensor) => {
    const model = modelOf(sensor.kind)
    expect(sensor.lastVisitDaysAgo).toBeLessThan(sensor.installedDaysAgo)
    expect(sensor.tolerance).toBeGreaterThan(0)
    expect(sensor.cautions.every((c) => /[.!]$/.test(c))).toBe(true)
    for (const procedure of [sensor.procedure, sensor.check])
      expect(kindOf(sensor.kind).procedures).toContain(procedureOf(procedure))
    for (const code of Object.values(sensor.standards)) expect(standards().map((s) => s.code)).toContain(code)
    for (const e of sensor.events) expect(e.daysAgo).toBeLessThanOrEqual(sensor.installedDaysAgo)
    for (const day of PAST) {
      const state = truthAt(sensor, day)
      expect(state.kind).toBe(sensor.kind)
      for (const [figure, value] of Object.entries(state.truth)) {
        if (typeof value === 'number') expect(Number.isFinite(value), `${figure} on day ${day}`).toBe(true)
      }
      const { slowShare, fastTime, slowTime, noise } = state.truth
      expect(slowShare).toBeGreaterThanOrEqual(0)
      expect(slowShare).toBeLessThan(1)
      expect(Math.min(fastTime, slowTime, noise)).toBeGreaterThan(0)
    }
    const ideal = model.ideal
    for (let hour = 0; hour < 48; hour++) {
      const there = processAt(sensor, NOW + (hour * DAY) / 24)
      expect(Math.abs(there.value - sensor.process.value)).toBeLessThanOrEqual(1.25 * sensor.process.swing + 1e-12)
      const signal = model.signalOf(there.value, there.temperature, ideal, sensor.device)
      expect(Number.isFinite(model.toShown(signal, there.temperature, ideal, sensor.device))).toBe(true)
    }
  })

  it('gives sensors of one tank one water', () => {
    const waters = fleet().filter((s) => s.water)
    for (const a of waters) {
      for (const b of waters) {
        if (a.water === b.water && a.kind === b.kind) expect(processAt(a, NOW)).toEqual(processAt(b, NOW))
      }
    }
    expect(waters.length).toBeGreaterThan(1)
  })

  it('keeps standards for whatever is calibrated, and things with dates that are still to come', () => {
    const onShelf = new Set(SHELF.map((l) => l.standard))
    for (const sensor of fleet()) for (const code of Object.values(sensor.standards)) expect(onShelf).toContain(code)
    for (const lot of SHELF) expect(lot.left).toBeLessThanOrEqual(lot.volume)
    for (const c of CONSUMABLES) expect(c.everyDays).toBeGreaterThan(c.renewedDaysAgo)
  })

  it('has a junction that blocks and a glass that ages, as a transmitter that measures them would see it', () => {
    const at = (code: string, day: number) => {
      const sensor = fleet().find((s) => s.code === code)
      if (!sensor) throw new Error(code)
      return simulatedResistances(truthAt(sensor, day), 25, false)
    }
    expect(at('BR-pH-1', 0)?.junction).toBeGreaterThan(3 * (at('BR-pH-1', -400)?.junction ?? 0))
    expect(at('WH-pH-4', 0)?.glass).toBeGreaterThan(1.3 * (at('WH-pH-4', -500)?.glass ?? 0))
    expect(at('CH-T-1', 0)).toBeNull()
  })
})
