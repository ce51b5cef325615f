import fc from 'fast-check'
import Qty from 'js-quantities'
import { describe, expect, it } from 'vitest'
import { convertUnit, readQuantity, type UnitSymbol } from './quantityText.ts'

describe('a number with its unit', () => {
  it.each<[string, UnitSymbol, number, boolean]>([
    ['26.1 C', '°C', 26.1, false],
    ['26,1 °C', '°C', 26.1, false],
    ['77 F', '°C', 25, true],
    ['298.15 K', '°C', 25, true],
    ['53 mS', 'µS/cm', 53_000, true],
    ['53 mS/cm', 'mS/cm', 53, false],
    ['1413 uS/cm', 'mS/cm', 1.413, true],
    ['1413 \u03bcS/cm', 'µS/cm', 1413, false],
    ['1,413.0 uS/cm', 'µS/cm', 1413, false],
    ['1.413,5', 'µS/cm', 1413.5, false],
    ['0,413', 'mS/cm', 0.413, false],
    ['21 CF', 'mS/cm', 2.1, true],
    ['1400 ppm 700', 'mS/cm', 2, true],
    ['-0.171 V', 'mV', -171, true],
    ['\u2212171 mV', 'mV', -171, false],
    ['18.18 Mohm cm', 'MΩ·cm', 18.18, false],
    ['18.18 MΩ', 'Ω·cm', 18_180_000, true],
    ['50 mM', 'mol/L', 0.05, true],
    ['8.1 pH', 'pH', 8.1, false],
    ['35 psu', '', 35, false],
    ['250 mL', 'L', 0.25, true],
  ])('reads "%s" in a field of %s as %f', (text, unit, value, converted) => {
    const read = readQuantity(text, unit)
    expect(read).toMatchObject({ ok: true, converted })
    expect(read.ok && read.value).toBeCloseTo(value, 9)
  })

  it.each<[string, UnitSymbol, RegExp]>([
    ['1,413 uS/cm', 'µS/cm', /can mean 1413 or 1.413/],
    ['1,413', 'µS/cm', /can mean/],
    ['2 ppm', 'mS/cm', /which scale/],
    ['26 mV', '°C', /mV measures potential; this field wants temperature in °C/],
    ['26 furlongs', '°C', /"furlongs" is not a unit/],
    ['26.1.2 C', '°C', /isn't a number/],
    ['about 7', 'pH', /"about 7" is not a number/],
    ['  ', 'pH', /Nothing is entered/],
    ['1e3', 'mV', /not a unit|not a number/],
  ])('refuses "%s" in a field of %s with a reason', (text, unit, reason) => {
    const read = readQuantity(text, unit)
    expect(read.ok).toBe(false)
    expect(!read.ok && read.problem).toMatch(reason)
  })

  it('converts between units of one dimension both ways, and refuses others', () => {
    const pairs: [UnitSymbol, UnitSymbol][] = [
      ['°C', '°F'],
      ['K', '°F'],
      ['µS/cm', 'ppm 640'],
      ['S/m', 'mS/cm'],
      ['kΩ·cm', 'MΩ·cm'],
      ['g', 'kg'],
    ]
    fc.assert(
      fc.property(fc.constantFrom(...pairs), fc.double({ min: -1000, max: 1000, noNaN: true }), ([a, b], x) => {
        expect(convertUnit(convertUnit(x, a, b), b, a)).toBeCloseTo(x, 6)
      }),
    )
    expect(convertUnit(1, 'S/m', 'mS/cm')).toBe(10)
    expect(() => convertUnit(1, 'mV', '°C')).toThrow(RangeError)
  })

  // js-quantities 1.8, an independent library of units.
  it.each<[UnitSymbol, UnitSymbol, string, string]>([
    ['°F', '°C', 'tempF', 'tempC'],
    ['K', '°C', 'tempK', 'tempC'],
    ['mS/cm', 'µS/cm', 'mS/cm', 'uS/cm'],
    ['S/m', 'µS/cm', 'S/m', 'uS/cm'],
    ['MΩ·cm', 'Ω·cm', 'Mohm*cm', 'ohm*cm'],
    ['V', 'mV', 'V', 'mV'],
    ['g/L', 'mg/L', 'g/L', 'mg/L'],
    ['µg/L', 'mg/L', 'ug/L', 'mg/L'],
    ['mmol/L', 'mol/L', 'mmol/L', 'mol/L'],
    ['L', 'mL', 'L', 'mL'],
    ['kg', 'mg', 'kg', 'mg'],
    ['kΩ', 'Ω', 'kohm', 'ohm'],
  ])('%s to %s as an independent library of units has it', (from, to, theirs, wanted) => {
    for (const value of [0.5, 26.1, 300]) {
      expect(convertUnit(value, from, to)).toBeCloseTo(new Qty(value, theirs).to(wanted).scalar, 6)
    }
  })
})
