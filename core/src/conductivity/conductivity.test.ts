import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { EC_SCALES, type EcScale } from '../quantities/ecScales.ts'
import { OutOfRange } from '../quantities/outOfRange.ts'
import { type Compensation, compensate, naturalWaterFactor, uncompensate, waterViscosity } from './compensation.ts'
import { highPurityTo25, ionProductOfWater, pureWaterConductivity } from './pureWater.ts'
import { fromEcScale, reciprocal, toEcScale } from './scales.ts'

describe('natural-water compensation', () => {
  // ISO 7888:1985 / EN 27888, factors f25; from memory of the table.
  it.each([
    [0, 1.918],
    [1, 1.857],
    [20, 1.116],
    [25, 1],
  ])('has factor at %f degC: %f (ISO 7888)', (t, factor) => expect(naturalWaterFactor(t)).toBeCloseTo(factor, 2))

  it('rests on the viscosity of water: 1001.6 uPa s at 20 degC, 890 at 25 (ISO/TR 3666; CRC handbook)', () => {
    expect(waterViscosity(20)).toBeCloseTo(1001.6, 0)
    expect(waterViscosity(25)).toBeCloseTo(890.0, 0)
  })
})

describe('pure water', () => {
  // W. L. Marshall and E. U. Franck 1981; CRC handbook, "ion product of water": 14.947, 13.995, 13.262, 12.265.
  it.each([
    [0, 14.938],
    [25, 13.995],
    [50, 13.275],
    [100, 12.265],
  ])('has pKw at %f degC: %f', (t, pk) => expect(-Math.log10(ionProductOfWater(t))).toBeCloseTo(pk, 1))

  it('has 18.18 Mohm cm at 25 degC (Light et al. 2005; ASTM D5391)', () => {
    expect(1 / pureWaterConductivity(25)).toBeCloseTo(18.18, 6)
  })

  // Conductivity of highly purified water, 1.15 uS/m at 0.01 degC and 76.5 uS/m at 100 degC (CRC handbook; from memory), within 2 %.
  it.each([
    [0.01, 0.0115],
    [100, 0.765],
  ])('conducts at %f degC: %f uS/cm', (t, value) => {
    expect(Math.abs(pureWaterConductivity(t) / value - 1)).toBeLessThan(0.02)
  })

  // ASTM D5391, resistivity of water with nothing in it, Mohm cm; from memory of the table, within 1 %.
  it.each([
    [0, 86.1],
    [5, 60.5],
    [10, 43.4],
    [15, 31.9],
    [20, 23.9],
    [30, 14.1],
    [40, 8.85],
    [50, 5.85],
  ])('has at %f degC %f Mohm cm (ASTM D5391)', (t, value) => {
    expect(Math.abs(1 / pureWaterConductivity(t) / value - 1)).toBeLessThan(0.01)
  })

  it('stays pure at 25 degC whatever the temperature at which it is measured', () => {
    for (const t of [0, 10, 40, 80, 100]) {
      expect(1 / highPurityTo25(pureWaterConductivity(t), t)).toBeCloseTo(18.18, 6)
    }
    // Less than water itself is no water: a dry cell or an open plug.
    expect(() => highPurityTo25(0.03, 25)).toThrow(OutOfRange)
  })
})

describe('compensation', () => {
  const laws: [Compensation, number, number, number, number][] = [
    [{ law: 'none' }, 0, 1e6, -5, 100],
    [{ law: 'linear', alpha: 2, reference: 25 }, 0, 1e5, 0, 60],
    [{ law: 'linear', alpha: 1.9, reference: 20 }, 0, 1e5, 0, 60],
    [{ law: 'natural-water' }, 0, 2e4, 0, 36],
    [{ law: 'seawater' }, 2000, 38_000, 5, 38],
    [{ law: 'high-purity' }, 2, 9, 0, 80],
  ]

  it.each(laws)('$law inverts and is monotone', (law, low, high, cold, warm) => {
    fc.assert(
      fc.property(
        fc.double({ min: low, max: high, noNaN: true }),
        fc.double({ min: cold, max: warm, noNaN: true }),
        (c, t) => {
          const shown = compensate(c, t, law)
          expect(uncompensate(shown, t, law)).toBeCloseTo(c, 4)
          expect(compensate(c * 1.01 + 0.01, t, law)).toBeGreaterThan(shown)
        },
      ),
    )
  })

  it('is linear as the textbook has it: 1120 uS/cm at 18 degC with 2 %/degC is 1302.3 at 25', () => {
    expect(compensate(1120, 18, { law: 'linear', alpha: 2, reference: 25 })).toBeCloseTo(1120 / 0.86, 9)
    expect(() => compensate(1000, -5, { law: 'linear', alpha: 5, reference: 25 })).toThrow(/compensation factor/)
  })
})

describe('EC scales', () => {
  it('know the trade: 2.0 mS/cm is CF 20, 1000 ppm 500, 1280 ppm 640, 1400 ppm 700 (common practice, no source)', () => {
    const shown = (scale: EcScale) => toEcScale(2000, scale)
    expect([shown('CF'), shown('ppm 500'), shown('ppm 640'), shown('ppm 700'), shown('S/m')]).toEqual([
      20, 1000, 1280, 1400, 0.2,
    ])
  })

  it('invert', () => {
    for (const scale of Object.keys(EC_SCALES) as EcScale[]) {
      expect(toEcScale(fromEcScale(123.4, scale), scale)).toBeCloseTo(123.4, 9)
    }
    expect(reciprocal(reciprocal(0.055))).toBeCloseTo(0.055, 12)
    expect(reciprocal(0.055) / 1e6).toBeCloseTo(18.18, 2)
    expect(() => reciprocal(0)).toThrow(OutOfRange)
    expect(() => fromEcScale(-1, 'CF')).toThrow(OutOfRange)
  })
})
