import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { type IonCharacteristic, ionSlope, ionToMillivolts, millivoltsToIon } from '../electrode/ionSelective.ts'
import { OutOfRange } from '../quantities/outOfRange.ts'
import {
  davies,
  debyeHueckelConstants,
  extendedDebyeHueckel,
  ionicStrength,
  ionicStrengthOfConductivity,
} from './activity.ts'
import { hypochlorousPka, hypochlorousShare } from './hypochlorousAcid.ts'
import { IONS, toMilligrams, toMolar } from './ions.ts'
import { convertNitrogen, NITROGEN_FORMS, type NitrogenForm, unionisedAmmonia } from './nitrogen.ts'
import { doubleAddition, singleAddition } from './standardAddition.ts'

describe('activity', () => {
  it('has A = 0.509 and B = 0.3286 at 25 degC (Bates, Determination of pH; A = 0.4918 at 0 degC)', () => {
    expect(debyeHueckelConstants(25).a).toBeCloseTo(0.509, 2)
    expect(debyeHueckelConstants(25).b).toBeCloseTo(0.3286, 2)
    expect(debyeHueckelConstants(0).a).toBeCloseTo(0.4918, 2)
  })

  // CRC Handbook, mean activity coefficients of KCl at 25 degC: 0.965, 0.951, 0.927, 0.901, 0.816, 0.768 (molal).
  it.each([
    [0.001, 0.965, 0.003],
    [0.002, 0.951, 0.003],
    [0.005, 0.927, 0.003],
    [0.01, 0.901, 0.003],
    [0.05, 0.816, 0.012],
    [0.1, 0.768, 0.016],
  ])('of KCl %f mol/L is %f (CRC handbook)', (molarity, coefficient, allowed) => {
    expect(Math.abs(extendedDebyeHueckel(-1, 3, molarity) - coefficient)).toBeLessThan(allowed)
    expect(Math.abs(davies(-1, molarity) - coefficient)).toBeLessThan(allowed)
  })

  // Kielland 1937, extended law at I = 0.01: 0.902 (size 4), 0.675 (Ca, size 6).
  it('of a doubly charged ion is Kielland\u2019s', () => {
    expect(extendedDebyeHueckel(1, 4, 0.01)).toBeCloseTo(0.902, 2)
    expect(extendedDebyeHueckel(2, 6, 0.01)).toBeCloseTo(0.675, 2)
  })

  it('refuses what the laws do not cover', () => {
    expect(() => extendedDebyeHueckel(1, 3, 0.2)).toThrow(OutOfRange)
    expect(() => davies(1, 0.6)).toThrow(/Davies/)
    expect(() => davies(0, 0.1)).toThrow(/charge/)
  })

  it('ionic strength: of CaCl2 0.01 mol/L is 0.03; of a 1.413 mS/cm water about 0.018', () => {
    expect(
      ionicStrength([
        { concentration: 0.01, charge: 2 },
        { concentration: 0.02, charge: -1 },
      ]),
    ).toBeCloseTo(0.03, 12)
    expect(ionicStrengthOfConductivity(1413)).toBeCloseTo(0.0179, 4)
  })
})

describe('ion-selective electrode', () => {
  const chloride: IonCharacteristic = { zero: 10, slopeEfficiency: 0.97, charge: -1 }

  it('falls by the Nernst slope per decade for an anion and by half of it for calcium', () => {
    expect(ionSlope({ zero: 0, slopeEfficiency: 1, charge: -1 }, 25)).toBeCloseTo(-59.16, 2)
    expect(ionSlope({ zero: 0, slopeEfficiency: 1, charge: 2 }, 25)).toBeCloseTo(29.58, 2)
  })

  it('has 40 to 55 mV between 319 and 46.2 mg/L chloride (common practice, no source)', () => {
    const [high, low] = [319, 46.2].map((mg) => ionToMillivolts(toMolar(mg, IONS.chloride), 21.3, chloride)) as [
      number,
      number,
    ]
    expect(low - high).toBeGreaterThan(40)
    expect(low - high).toBeLessThan(55)
  })

  it('inverts with and without interference, and bromide-like interference adds to the activity', () => {
    const others = [{ activity: 1e-4, charge: -1, selectivity: 2 }]
    fc.assert(
      fc.property(
        fc.double({ min: -5.5, max: 0, noNaN: true }),
        fc.double({ min: 0, max: 60, noNaN: true }),
        (log, t) => {
          const a = 10 ** log
          expect(millivoltsToIon(ionToMillivolts(a, t, chloride), t, chloride) / a).toBeCloseTo(1, 9)
          const disturbed = ionToMillivolts(a, t, chloride, others)
          expect(millivoltsToIon(disturbed, t, chloride, others)).toBeCloseTo(a, 9)
          expect(millivoltsToIon(disturbed, t, chloride)).toBeCloseTo(a + 2e-4, 9)
        },
      ),
    )
    expect(() => ionToMillivolts(0, 25, chloride)).toThrow(OutOfRange)
    expect(() => ionToMillivolts(1e-3, 25, { ...chloride, charge: 0 })).toThrow(/charge/)
  })

  it('of mixed charges raises the other ion to z/zj (Nikolsky-Eisenman)', () => {
    const calcium: IonCharacteristic = { zero: 0, slopeEfficiency: 1, charge: 2 }
    const mv = ionToMillivolts(1e-4, 25, calcium, [{ activity: 0.1, charge: 1, selectivity: 0.01 }])
    expect(mv).toBeCloseTo(29.58 * Math.log10(1e-4 + 0.01 * 0.1 ** 2), 1)
  })
})

describe('standard addition', () => {
  it('finds the sample from an answer worked forward', () => {
    const slope = -57
    const sample = 3.2
    const addition = { sampleVolume: 100, addedVolume: 2, standard: 200 }
    const after = (n: number) => (sample * 100 + n * 2 * 200) / (100 + n * 2)
    const e = (c: number) => slope * Math.log10(c)
    expect(singleAddition(addition, e(after(1)) - e(sample), slope)).toBeCloseTo(sample, 9)
    const double = doubleAddition(addition, e(after(1)) - e(sample), e(after(2)) - e(after(1)))
    expect(double.concentration).toBeCloseTo(sample, 6)
    expect(double.slope).toBeCloseTo(slope, 5)
  })

  it('refuses an answer in the wrong direction', () => {
    const addition = { sampleVolume: 100, addedVolume: 2, standard: 200 }
    expect(() => singleAddition(addition, 12, -57)).toThrow(OutOfRange)
    expect(() => doubleAddition(addition, -20, -25)).toThrow(/Second change/)
  })
})

describe('hypochlorous acid', () => {
  // Acid constants of the table in Morris 1966, J. Phys. Chem. 70, 3798; from memory.
  it.each([
    [0, 7.825],
    [10, 7.69],
    [20, 7.582],
    [30, 7.497],
  ])('has its pKa at %f degC: %f', (temperature, pka) => {
    expect(hypochlorousPka(temperature)).toBeCloseTo(pka, 3)
  })

  it('is half of free chlorine at its pKa, a tenth nearly one pH higher', () => {
    expect(hypochlorousShare(hypochlorousPka(25), 25)).toBe(0.5)
    expect(hypochlorousShare(hypochlorousPka(25) + 1, 25)).toBeCloseTo(1 / 11, 12)
    expect(() => hypochlorousPka(60)).toThrow(OutOfRange)
    expect(() => hypochlorousShare(15, 25)).toThrow(OutOfRange)
  })
})

describe('nitrogen', () => {
  it('knows the 4.43-fold slip, and inverts', () => {
    expect(convertNitrogen(1, 'NO3-N', 'NO3')).toBeCloseTo(4.427, 3)
    expect(convertNitrogen(1, 'NH4-N', 'NH4')).toBeCloseTo(1.288, 3)
    for (const form of Object.keys(NITROGEN_FORMS) as NitrogenForm[]) {
      expect(convertNitrogen(convertNitrogen(7, form, 'NO3-N'), 'NO3-N', form)).toBeCloseTo(7, 9)
    }
  })

  // Emerson et al. 1975, percent un-ionised ammonia.
  it.each([
    [7, 25, 0.566],
    [8, 25, 5.38],
    [8, 20, 3.82],
    [9, 25, 36.3],
    [7.5, 10, 0.586],
  ])('at pH %f and %f degC: %f %% un-ionised (Emerson et al. 1975)', (ph, t, percent) => {
    expect(Math.abs((100 * unionisedAmmonia(ph, t)) / percent - 1)).toBeLessThan(0.005)
  })

  it('mg/L and mol/L invert', () => {
    expect(toMilligrams(0.01, IONS.chloride)).toBeCloseTo(354.5, 6)
    expect(toMolar(354.5, IONS.chloride)).toBeCloseTo(0.01, 12)
    expect(() => toMolar(-1, IONS.chloride)).toThrow(/Concentration of chloride is \u22121/)
  })
})
