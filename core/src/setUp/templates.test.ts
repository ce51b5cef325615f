import { expect, it } from 'vitest'
import { kindOf, modelOf, sensorKinds } from '../kinds/index.ts'
import { WATER_KINDS } from '../measurement/waters.ts'
import { cautionsIn, templateFor, usualIn, valueShown } from './templates.ts'

it('every kind has a start in every water that its device can show, and that its rules accept', () => {
  for (const water of WATER_KINDS) {
    expect(cautionsIn(water)[0]).toMatch(/\.$/)
    expect(usualIn('ph', water)).toBe(true)
    for (const kind of sensorKinds()) {
      const t = templateFor(kind, water)
      const { low, high } = modelOf(kind).shownRange(t.device)
      expect(t.shown, `${kind} in ${water}`).toBeGreaterThanOrEqual(low)
      expect(t.shown).toBeLessThanOrEqual(high)
      expect(t.floorDays).toBeLessThanOrEqual(t.startingDays)
      expect(t.startingDays).toBeLessThanOrEqual(t.ceilingDays)
      expect(Number.isFinite(valueShown(kind, t.shown, t.temperature, t.device))).toBe(true)
      expect(kindOf(kind).settingText(t.device)).not.toContain('undefined')
    }
  }
})

it('starts with the calendars of the trade', () => {
  // Common practice, no source: 90 days in an aquarium, 30 in a grow room, 7 to 30 in a process.
  expect(templateFor('ph', 'seawater').startingDays).toBe(90)
  expect(templateFor('conductivity', 'freshwater').startingDays).toBe(90)
  expect(templateFor('ph', 'nutrient').startingDays).toBe(30)
  for (const water of ['boiler', 'pure', 'cooling', 'drinking', 'wash'] as const) {
    const { startingDays } = templateFor('ph', water)
    expect(startingDays >= 7 && startingDays <= 30, water).toBe(true)
  }
  expect(() => templateFor('turbidity' as never, 'seawater')).toThrow(RangeError)
})

it('a value as it is shown becomes the one behind it', () => {
  expect(valueShown('ph', 8.2, 25, {})).toBeCloseTo(8.2, 9)
  // Salinity 35 at 15 degC is 42.914 mS/cm by definition (PSS-78).
  const salinity = { display: 'salinity', compensation: { law: 'seawater' } } as const
  expect(valueShown('conductivity', 35, 15, salinity)).toBeCloseTo(42_914, -1)
  expect(valueShown('conductivity', 2, 25, { display: 'mS/cm' })).toBeCloseTo(2000, 6)
})
