import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { OutOfRange } from '../quantities/outOfRange.ts'
import { nernstSlope } from './nernst.ts'
import { IDEAL_CHARACTERISTIC, millivoltsToPh, phToMillivolts } from './phElectrode.ts'

describe('nernstSlope', () => {
  // Worked outside this code with the CODATA 2018 constants R = 8.314462618 J/(mol K), F = 96485.33212 C/mol.
  it.each([
    [0, 54.1988],
    [25, 59.1593],
    [37, 61.5404],
    [50, 64.1199],
    [100, 74.041],
  ])('is ln(10) R T / F at %f degC (CODATA 2018)', (temperature, slope) => {
    expect(nernstSlope(temperature)).toBeCloseTo(slope, 3)
  })

  it('gives the table of the trade: 54, 59, 64 mV per pH (common practice, no source)', () => {
    expect([0, 25, 50].map((t) => Math.round(nernstSlope(t)))).toEqual([54, 59, 64])
  })

  it.each([-5.1, 110.1, Number.NaN, Number.POSITIVE_INFINITY])(
    'refuses %f degC, naming quantity, value and range',
    (t) => {
      expect(() => nernstSlope(t)).toThrow(OutOfRange)
      expect(() => nernstSlope(t)).toThrow(/Temperature is .* \u22125 to 110\u00a0°C/)
    },
  )
})

describe('pH electrode', () => {
  it('gives 379 / 414 / 449 mV in pH 0 at 0 / 25 / 50 degC (common practice, no source)', () => {
    expect([0, 25, 50].map((t) => Math.round(phToMillivolts(0, t, IDEAL_CHARACTERISTIC)))).toEqual([379, 414, 449])
  })

  it('does not depend on temperature at its isothermal point', () => {
    for (const t of [0, 20, 80]) expect(phToMillivolts(7, t, { zero: -4.2, slopeEfficiency: 0.93 })).toBe(-4.2)
    expect(phToMillivolts(6.5, 60, { zero: 3, slopeEfficiency: 0.9, isothermalPh: 6.5 })).toBe(3)
  })

  it('inverts over the whole valid range, and falls as pH rises', () => {
    const characteristic = fc.record({
      zero: fc.double({ min: -100, max: 100, noNaN: true }),
      slopeEfficiency: fc.double({ min: 0.5, max: 1.1, noNaN: true }),
    })
    fc.assert(
      fc.property(
        fc.double({ min: -1, max: 14.99, noNaN: true }),
        fc.double({ min: -5, max: 110, noNaN: true }),
        characteristic,
        (ph, t, electrode) => {
          const e = phToMillivolts(ph, t, electrode)
          expect(millivoltsToPh(e, t, electrode)).toBeCloseTo(ph, 9)
          expect(phToMillivolts(ph + 0.01, t, electrode)).toBeLessThan(e)
        },
      ),
    )
  })

  it('refuses an electrode without a slope instead of dividing by it', () => {
    expect(() => millivoltsToPh(10, 25, { zero: 0, slopeEfficiency: 0 })).toThrow(OutOfRange)
  })
})
