import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { OutOfRange } from '../quantities/outOfRange.ts'
import { platinumResistance, platinumTemperature, platinumTolerance } from './platinum.ts'
import { fromFahrenheit, toFahrenheit } from './scales.ts'
import { betaThermistor, steinhartHartThrough, thermistorResistance, thermistorTemperature } from './thermistor.ts'

describe('platinum thermometer', () => {
  // IEC 60751:2008, table 1 for Pt100.
  it.each([
    [-200, 18.52],
    [-100, 60.26],
    [-50, 80.31],
    [0, 100],
    [1, 100.39],
    [25, 109.73],
    [35, 113.61],
    [50, 119.4],
    [100, 138.51],
    [200, 175.86],
    [850, 390.48],
  ])('has at %f degC %f ohm (IEC 60751)', (t, ohm) => {
    expect(platinumResistance(t)).toBeCloseTo(ohm, 2)
    expect(platinumResistance(t, 1000)).toBeCloseTo(10 * platinumResistance(t), 9)
  })

  it('has the tolerances of the classes at 100 degC: A 0.35, B 0.8 degC (IEC 60751)', () => {
    expect(platinumTolerance(100, 'A')).toBeCloseTo(0.35, 9)
    expect(platinumTolerance(-100, 'B')).toBeCloseTo(0.8, 9)
  })

  it('inverts', () => {
    fc.assert(
      fc.property(fc.double({ min: -200, max: 850, noNaN: true }), (t) => {
        expect(platinumTemperature(platinumResistance(t))).toBeCloseTo(t, 6)
      }),
    )
    expect(() => platinumTemperature(5)).toThrow(OutOfRange)
  })
})

describe('thermistor', () => {
  it('of 10 kohm and beta 3950 has 27.2 kohm at 5 degC and 4.16 kohm at 45 (beta law worked by hand)', () => {
    const ntc = betaThermistor(10_000, 3950)
    const hand = (t: number) => 10_000 * Math.exp(3950 * (1 / (t + 273.15) - 1 / 298.15))
    for (const t of [5, 25, 45]) expect(thermistorResistance(t, ntc)).toBeCloseTo(hand(t), 6)
  })

  it('passes through the three points it was made from, and inverts between them', () => {
    // A 10 kohm curve of the common kind: 32650 / 10000 / 3603 ohm at 0 / 25 / 50 degC (common practice, no source).
    const points = [
      [0, 32_650],
      [25, 10_000],
      [50, 3603],
    ] as [[number, number], [number, number], [number, number]]
    const ntc = steinhartHartThrough(points)
    for (const [t, r] of points) expect(thermistorTemperature(r, ntc)).toBeCloseTo(t, 9)
    fc.assert(
      fc.property(fc.double({ min: -20, max: 100, noNaN: true }), (t) => {
        const r = thermistorResistance(t, ntc)
        expect(thermistorTemperature(r, ntc)).toBeCloseTo(t, 6)
        expect(thermistorResistance(t + 0.1, ntc)).toBeLessThan(r)
      }),
    )
    expect(() => steinhartHartThrough([points[0], points[0], points[2]])).toThrow(/different/)
  })
})

it('degF and degC: 212 is 100, -40 is -40', () => {
  expect(fromFahrenheit(212)).toBeCloseTo(100, 12)
  expect(toFahrenheit(-40)).toBeCloseTo(-40, 12)
  expect(() => fromFahrenheit(-500)).toThrow(OutOfRange)
})
