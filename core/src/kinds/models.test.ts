import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { plain } from '../../../lab/src/fixtures/plain.ts'
import { nernstSlope } from '../electrode/nernst.ts'
import type { CalibrationParameters, ConductivityDisplay, DeviceSetting } from '../measurement/measurementModel.ts'
import type { SensorKind } from '../measurement/sensorKind.ts'
import { conductivityBehindDisplay, conductivityOnDisplay } from './conductivity/model.ts'
import { findWrongCompensation } from './conductivity/wrongCompensation.ts'
import { kindOf, modelOf, sensorKinds, standardOf, standards } from './index.ts'

const DEVICES: Record<SensorKind, DeviceSetting> = {
  ph: {},
  orp: { reference: 'agcl-3M' },
  conductivity: { compensation: { law: 'linear', alpha: 2, reference: 25 }, display: 'mS/cm' },
  ion: { ion: 'nitrate' },
  chlorine: {},
  'nitrate-optical': {},
  temperature: {},
}
/** A characteristic that is none of an ideal sensor, and values that it measures. */
const ODD: Record<SensorKind, { c: CalibrationParameters; low: number; high: number }> = {
  ph: { c: { zero: -14, slopeEfficiency: 0.93 }, low: 1, high: 13 },
  orp: { c: { gain: 1.02, offset: -11 }, low: -500, high: 900 },
  conductivity: { c: { factor: 1.07, zero: 3 }, low: 50, high: 60_000 },
  ion: {
    c: { zero: 40, slopeEfficiency: 0.9, temperature: 20, zero2: 46, slopeEfficiency2: 0.88, temperature2: 32 },
    low: 0.5,
    high: 900,
  },
  chlorine: { c: { gain: 1.1, offset: 0.02 }, low: 0, high: 5 },
  'nitrate-optical': { c: { gain: 0.94, offset: 0.4 }, low: 0, high: 90 },
  temperature: { c: { offset: -0.7 }, low: 0, high: 60 },
}

describe.each(sensorKinds())('the channel of %s', (kind) => {
  const model = modelOf(kind)
  const device = DEVICES[kind]
  const { c, low, high } = ODD[kind]

  it('goes from value to signal and display and back, whatever the sensor is', () => {
    fc.assert(
      fc.property(
        fc.double({ min: low, max: high, noNaN: true }),
        fc.double({ min: 12, max: 38, noNaN: true }),
        (value, t) => {
          const signal = model.signalOf(value, t, c, device)
          expect(model.valueOf(signal, t, c, device)).toBeCloseTo(value, 5)
          const shown = model.toShown(signal, t, c, device)
          if (shown > 0) expect(model.fromShown(shown, t, c, device) / signal).toBeCloseTo(1, 5)
        },
      ),
    )
  })

  it('has no error where the device holds what the sensor is, and one with its sign where it does not', () => {
    const value = low + 0.6 * (high - low)
    const process = { value, temperature: 22 }
    expect(model.errorAt(c, c, process, device)).toBeCloseTo(0, 6)
    const [parameter] = model.parameters
    const moved = { ...c, [parameter?.key ?? '']: (c[parameter?.key ?? ''] ?? 1) * 1.05 }
    const error = model.errorAt(c, moved, process, device)
    const signal = model.signalOf(value, 22, c, device)
    expect(error).toBeCloseTo(model.errorOf(model.valueOf(signal, 22, moved, device), value), 6)
    expect(Math.abs(error)).toBeGreaterThan(0)
  })

  it('counts as settled what is worth a tenth of nothing more than its own repeatability', () => {
    for (const level of [low + (high - low) / 10, high]) {
      const preset = model.preset(level, 'signal', device)
      expect(preset.resolution).toBeGreaterThan(2 * preset.repeatability)
      expect(preset.span).toBeGreaterThan(20 * preset.resolution)
    }
  })
})

describe('what a conductivity device shows', () => {
  const DISPLAYS: ConductivityDisplay[] = [
    'µS/cm',
    'mS/cm',
    'CF',
    'ppm 500',
    'ppm 700',
    'salinity',
    'specific gravity',
    'MΩ·cm',
  ]

  it.each(DISPLAYS)('%s: back to the conductivity behind it', (display) => {
    const device: DeviceSetting = { display, compensation: { law: 'linear', alpha: 2, reference: 25 } }
    const truth = display === 'MΩ·cm' ? 0.2 : 48_000
    expect(conductivityBehindDisplay(conductivityOnDisplay(truth, 21, device), 21, device) / truth).toBeCloseTo(1, 4)
  })

  it('the 53.0 mS/cm seawater standard: salinity 34.95, specific gravity about 1.026 (PSS-78, EOS-80)', () => {
    const device: DeviceSetting = { display: 'salinity', compensation: { law: 'seawater' } }
    expect(conductivityOnDisplay(53_000, 25, device)).toBeCloseTo(34.95, 2)
    const there = standardOf('seawater-53').valueAt(20)
    expect(conductivityOnDisplay(there, 20, device)).toBeCloseTo(34.95, 2)
    expect(conductivityOnDisplay(53_000, 25, { ...device, display: 'specific gravity' })).toBeCloseTo(1.0264, 3)
  })

  it('tells a wrong compensation from a bad cell, by the one that fits', () => {
    const noted: DeviceSetting = { display: 'mS/cm', compensation: { law: 'linear', alpha: 2, reference: 25 } }
    const at18 = standardOf('kcl-12.88').valueAt(18)
    const shownWith = (compensation: NonNullable<DeviceSetting['compensation']>) =>
      conductivityOnDisplay(at18, 18, { ...noted, compensation })
    expect(findWrongCompensation(shownWith({ law: 'linear', alpha: 2, reference: 25 }), at18, 18, noted)).toBeNull()
    expect(plain(findWrongCompensation(shownWith({ law: 'none' }), at18, 18, noted)?.sentence)).toMatch(
      /fits no compensation/,
    )
    expect(
      plain(findWrongCompensation(shownWith({ law: 'linear', alpha: 2, reference: 20 }), at18, 18, noted)?.sentence),
    ).toMatch(/2 % per °C to 20 °C/)
    // A cell that reads 15 % low fits no setting: that is the cell.
    expect(
      findWrongCompensation(0.85 * shownWith({ law: 'linear', alpha: 2, reference: 25 }), at18, 18, noted),
    ).toBeNull()
  })
})

describe('bottled standards of every kind', () => {
  it('each has its value at 25 degC within its own range, and a label', () => {
    for (const s of standards()) {
      expect(standardOf(s.code)).toBe(s)
      expect(Math.abs(s.valueAt(25) / s.nominal - 1), s.code).toBeLessThan(0.004)
      expect(s.label.length).toBeGreaterThan(3)
    }
    expect(() => standardOf('kcl-1')).toThrow('There is no standard "kcl-1".')
  })

  it('ORP standards are given as Eh, or as what a sensor with its reference electrode reads (Nordstrom 1977)', () => {
    expect(standardOf('zobell').valueAt(25)).toBeCloseTo(430.28, 2)
    expect(modelOf('orp').standardValue('zobell', 25, { reference: 'agcl-3M' })).toBeCloseTo(430.28 - 209, 2)
  })

  it('a lot\u2019s own table wins', () => {
    expect(standardOf('pH7.00').valueAt(20, { temperatures: [15, 25], values: [7.1, 7.0] })).toBeCloseTo(7.05, 2)
  })
})

it('an ion electrode with two levels is computed between them in a straight line, and keeps the nearest end beyond', () => {
  const model = modelOf('ion')
  const { c } = ODD.ion
  const slopeAt = (t: number) => {
    const decade = (v: number) => model.signalOf(v, t, c, DEVICES.ion)
    return (decade(10) - decade(100)) / nernstSlope(t)
  }
  expect(slopeAt(20)).toBeCloseTo(0.9, 6)
  expect(slopeAt(26)).toBeCloseTo(0.89, 6)
  expect(slopeAt(60)).toBeCloseTo(slopeAt(42), 6)
})

it.each([
  ['chlorine', 'sample'],
  ['nitrate-optical', 'known-standard'],
] as const)('%s opens with its own procedure: %s', (kind, first) => {
  expect(kindOf(kind).procedures[0]?.id).toBe(first)
})
