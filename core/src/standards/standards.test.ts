import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  fromEh,
  REFERENCE_ELECTRODES,
  type ReferenceCode,
  referencePotential,
  toEh,
} from '../electrode/referenceElectrodes.ts'
import { OutOfRange } from '../quantities/outOfRange.ts'
import { CONDUCTIVITY_STANDARDS, conductivityStandard, conductivityStandardValue } from './conductivityStandards.ts'
import { ION_STANDARDS, ionStandard, ionStandardValue } from './ionStandards.ts'
import { ORP_STANDARDS, type OrpStandardCode, orpStandardEh, orpStandardReading } from './orpStandards.ts'
import { dilutedConcentration, massToWeigh, molarityOfMass, SALTS, stockVolume } from './preparation.ts'

describe('reference electrodes', () => {
  // USGS National Field Manual A6.5 (2002), table of half-cell potentials; from memory.
  it.each<[ReferenceCode, number, number]>([
    ['agcl-3M', 25, 209],
    ['agcl-3.5M', 20, 208],
    ['agcl-saturated', 10, 214],
    ['agcl-saturated', 25, 199],
    ['calomel-saturated', 25, 244],
    ['calomel-saturated', 40, 234],
  ])('%s at %f degC: %f mV', (code, t, mv) => expect(referencePotential(code, t)).toBeCloseTo(mv, 9))

  it('convert to Eh and back, and fall as it gets warmer', () => {
    for (const { code } of REFERENCE_ELECTRODES) {
      expect(fromEh(toEh(231.5, code, 22.5), code, 22.5)).toBeCloseTo(231.5, 9)
      for (let t = 10; t < 40; t += 1) expect(referencePotential(code, t + 1)).toBeLessThan(referencePotential(code, t))
      expect(() => referencePotential(code, 9)).toThrow(OutOfRange)
    }
  })
})

describe('ORP standards', () => {
  // USGS National Field Manual A6.5, Eh of ZoBell's solution (after Nordstrom 1977), mV.
  it.each([
    [10, 467],
    [14, 457],
    [20, 443],
    [25, 430],
    [30, 418],
  ])('ZoBell at %f degC: %f mV', (t, eh) => expect(Math.round(orpStandardEh('zobell', t))).toBe(eh))

  // ASTM D1498, ORP of quinhydrone solutions, mV against hydrogen; from memory, last digit open.
  it.each<[OrpStandardCode, number, number]>([
    ['quinhydrone-4', 20, 470],
    ['quinhydrone-4', 25, 462],
    ['quinhydrone-4', 30, 454],
    ['quinhydrone-7', 20, 295],
    ['quinhydrone-7', 25, 285],
    ['quinhydrone-7', 30, 275],
  ])('%s at %f degC: %f mV', (code, t, eh) => expect(Math.abs(orpStandardEh(code, t) - eh)).toBeLessThan(1.5))

  it('Light at 25 degC shows 476 mV against saturated Ag/AgCl (ASTM D1498: 675 against hydrogen)', () => {
    expect(orpStandardReading('light', 'agcl-saturated', 25)).toBeCloseTo(476, 9)
  })

  it('refuse temperatures for which nobody measured them', () => {
    for (const { code, high, low } of ORP_STANDARDS) {
      expect(() => orpStandardEh(code, high + 0.1)).toThrow(/Temperature of/)
      expect(Number.isFinite(orpStandardEh(code, low))).toBe(true)
    }
  })
})

describe('conductivity standards', () => {
  // Pratt et al. 2001 (IUPAC), Jones and Bradshaw 1933 / ASTM D1125; uS/cm.
  it.each([
    ['kcl-molal-0.01', 0, 772.92],
    ['kcl-molal-0.01', 25, 1408.23],
    ['kcl-molal-0.1', 20, 11615.9],
    ['kcl-molal-0.1', 25, 12824.6],
    ['kcl-molal-1', 25, 108620],
    ['kcl-demal-0.01', 0, 773.64],
    ['kcl-demal-0.01', 25, 1408.77],
    ['kcl-demal-0.1', 18, 11166.7],
    ['kcl-demal-1', 25, 111342],
    ['kcl-1413', 25, 1413],
    ['kcl-1413', 20, 1278],
    ['kcl-12.88', 20, 11670],
  ])('%s at %f degC: %f', (code, t, value) => expect(conductivityStandardValue(code, t)).toBeCloseTo(value, 6))

  it('demal and molal of about the same strength agree within 0.3 % at every temperature', () => {
    for (let t = 0; t <= 25; t += 2.5) {
      const ratio = conductivityStandardValue('kcl-demal-0.1', t) / conductivityStandardValue('kcl-molal-0.1', t)
      expect(Math.abs(ratio - 1)).toBeLessThan(0.003)
    }
  })

  it('rise with temperature, all of them, and give their nominal value at 25 degC', () => {
    for (const { code, nominal, low, high } of CONDUCTIVITY_STANDARDS) {
      expect(conductivityStandardValue(code, 25) / nominal).toBeCloseTo(1, 6)
      for (let t = low; t + 1 <= high; t++) {
        expect(conductivityStandardValue(code, t + 1)).toBeGreaterThan(conductivityStandardValue(code, t))
      }
      expect(() => conductivityStandardValue(code, high + 1)).toThrow(OutOfRange)
    }
  })

  it('let the table printed on a lot win', () => {
    const lot = { temperatures: [20, 25, 30], values: [1275, 1410, 1548] }
    expect(conductivityStandardValue('kcl-1413', 25, lot)).toBe(1410)
    expect(() => conductivityStandardValue('kcl-1413', 15, lot)).toThrow(/this lot/)
    expect(() => conductivityStandard('nothing')).toThrow(RangeError)
  })
})

describe('ion standards', () => {
  it('know that 319 mg/L chloride is an activity and 354.5 the concentration (common practice, no source)', () => {
    const value = ionStandardValue(ionStandard('chloride-319'), 25)
    expect(value.concentration).toBeCloseTo(354.5, 1)
    expect(Math.abs(value.activity - 319)).toBeLessThan(1)
    expect(Math.abs(ionStandardValue(ionStandard('chloride-46.2'), 25).activity - 46.2)).toBeLessThan(0.2)
  })

  it('have an activity below their concentration, and the less so the thinner they are', () => {
    for (const standard of ION_STANDARDS) {
      const { activity, concentration, activityCoefficient } = ionStandardValue(standard, 20)
      expect(activity).toBeLessThan(concentration)
      const thinner = ionStandardValue({ ...standard, molarity: standard.molarity / 10 }, 20)
      expect(thinner.activityCoefficient).toBeGreaterThan(activityCoefficient)
    }
  })
})

describe('preparation', () => {
  it('weighs 745.48 mg of KCl for a litre of 0.01 mol/L, and more of an impure salt', () => {
    const kcl = SALTS[0] as (typeof SALTS)[number]
    expect(massToWeigh(kcl.molarMass, 0.01, 1)).toBeCloseTo(0.74548, 9)
    expect(massToWeigh(kcl.molarMass, 0.01, 1, 99)).toBeCloseTo(0.74548 / 0.99, 9)
    expect(() => massToWeigh(kcl.molarMass, 0.01, 1, 0)).toThrow(/Purity/)
  })

  it('and dilution invert', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 1e-4, max: 5, noNaN: true }),
        fc.double({ min: 0.01, max: 100, noNaN: true }),
        (c, v) => {
          expect(molarityOfMass(74.5, massToWeigh(74.5, c, v, 98), v, 98)).toBeCloseTo(c, 9)
          expect(dilutedConcentration(6, stockVolume(6, c, v), v)).toBeCloseTo(c, 9)
        },
      ),
    )
    expect(() => stockVolume(10, 11, 1)).toThrow(/Wanted concentration/)
  })
})
