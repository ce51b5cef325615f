import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { T68_PER_T90 } from '../quantities/constants.ts'
import { OutOfRange } from '../quantities/outOfRange.ts'
import { practicalSalinity, STANDARD_SEAWATER_CONDUCTIVITY, seawaterConductivity } from './practicalSalinity.ts'
import { salinityOfSpecificGravity, seawaterDensity, specificGravity } from './seawaterDensity.ts'

/** The check values are on IPTS-68. */
const t90 = (t68: number) => t68 / T68_PER_T90

describe('practical salinity', () => {
  // UNESCO Technical Papers in Marine Science 44 (1983), algorithm 1, check values.
  it.each([
    [1, 15, 0, 35],
    [1.2, 20, 2000, 37.245628],
    [0.65, 5, 1500, 27.995347],
  ])('of ratio %f at %f degC and %f dbar is %f (UNESCO 44)', (ratio, t68, pressure, salinity) => {
    expect(practicalSalinity(ratio * STANDARD_SEAWATER_CONDUCTIVITY, t90(t68), pressure)).toBeCloseTo(salinity, 5)
    expect(seawaterConductivity(salinity, t90(t68), pressure) / STANDARD_SEAWATER_CONDUCTIVITY).toBeCloseTo(ratio, 6)
  })

  it('is 35 at 53.07 mS/cm and 34.95 at 53.0 mS/cm, 25 degC (common practice, no source)', () => {
    expect(seawaterConductivity(35, 25) / 1000).toBeCloseTo(53.07, 2)
    expect(practicalSalinity(53_000, 25)).toBeCloseTo(34.95, 2)
  })

  it('inverts, and rises with conductivity, over the whole range', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.05, max: 44, noNaN: true }),
        fc.double({ min: -2, max: 40, noNaN: true }),
        fc.constantFrom(0, 100, 5000),
        (salinity, t, pressure) => {
          const conductivity = seawaterConductivity(salinity, t, pressure)
          expect(practicalSalinity(conductivity, t, pressure)).toBeCloseTo(salinity, 6)
          expect(seawaterConductivity(salinity + 0.01, t, pressure)).toBeGreaterThan(conductivity)
        },
      ),
    )
  })

  it.each([
    [53_000, 41, 0],
    [53_000, 25, -1],
    [0, 25, 0],
    [120_000, 25, 0],
    [Number.NaN, 25, 0],
  ])('refuses %f uS/cm at %f degC and %f dbar', (c, t, p) => {
    expect(() => practicalSalinity(c, t, p)).toThrow(OutOfRange)
  })
})

describe('seawater density', () => {
  // UNESCO Technical Papers in Marine Science 44 (1983), check values of EOS-80; pressures there in bar.
  it.each([
    [0, 5, 0, 999.96675],
    [0, 5, 10_000, 1044.12802],
    [0, 25, 0, 997.04796],
    [0, 25, 10_000, 1037.90204],
    [35, 5, 0, 1027.67547],
    [35, 5, 10_000, 1069.48914],
    [35, 25, 0, 1023.34306],
    [35, 25, 10_000, 1062.53817],
  ])('of S %f at %f degC and %f dbar is %f kg/m3 (UNESCO 44)', (s, t68, p, density) => {
    expect(seawaterDensity(s, t90(t68), p)).toBeCloseTo(density, 4)
  })

  it('gives 1.0264 for S 35 at 25/25, and inverts', () => {
    expect(specificGravity(35, 25, 25)).toBeCloseTo(1023.34306 / 997.04796, 5)
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 45, noNaN: true }),
        fc.double({ min: 0, max: 40, noNaN: true }),
        fc.constantFrom(4, 15, 20, 25),
        (s, t, ref) => {
          expect(salinityOfSpecificGravity(specificGravity(s, t, ref), t, ref)).toBeCloseTo(s, 6)
        },
      ),
    )
    // Found by the property: one digit beyond what the end of the range computes to.
    const top = 44.999999999999716
    expect(
      salinityOfSpecificGravity(specificGravity(top, 0.0002502287834777257, 4), 0.0002502287834777257, 4),
    ).toBeCloseTo(45, 9)
    expect(() => salinityOfSpecificGravity(1.2, 25, 25)).toThrow(/Specific gravity is 1.2/)
  })
})
