import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { OutOfRange } from '../quantities/outOfRange.ts'
import { PH_BUFFERS, phBufferTemperatureCoefficient, phBufferValue } from './phBuffers.ts'

describe('pH standards', () => {
  // IUPAC Recommendations 2002 (Buck et al., Pure Appl. Chem. 74, 2169), primary standards; from memory of that table.
  it.each([
    ['tartrate', 25, 3.557],
    ['citrate', 10, 3.82],
    ['phthalate', 0, 4.0],
    ['phthalate', 25, 4.005],
    ['phthalate', 50, 4.05],
    ['phosphate-equimolal', 5, 6.951],
    ['phosphate-equimolal', 25, 6.865],
    ['phosphate-blood', 37, 7.386],
    ['borax', 15, 9.276],
    ['borax', 25, 9.18],
    ['carbonate', 25, 10.012],
    ['carbonate', 40, 9.889],
  ])('%s at %f degC is %f (IUPAC 2002)', (code, temperature, ph) => {
    expect(phBufferValue(code, temperature)).toBeCloseTo(ph, 6)
  })

  it('knows that 7.00 is 7.04 and 10.01 is 10.12 at 15 degC (common practice, no source)', () => {
    expect(phBufferValue('pH7.00', 15)).toBeCloseTo(7.04, 6)
    expect(phBufferValue('pH10.01', 15)).toBeCloseTo(10.12, 6)
  })

  it('never leaves the span of the two neighbouring rows', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...PH_BUFFERS.map((b) => b.code)),
        fc.double({ min: 25, max: 50, noNaN: true }),
        (code, t) => {
          const [below, above] = [5 * Math.floor(t / 5), Math.min(50, 5 * Math.floor(t / 5) + 5)]
          if (code !== 'tartrate' && (below === 45 || above === 45) && !code.startsWith('pH')) return
          const ends = [phBufferValue(code, below), phBufferValue(code, above)]
          const value = phBufferValue(code, t)
          // 0.0015 allows for the 37 degC row inside the 35 to 40 span and for a turning point
          expect(value).toBeGreaterThanOrEqual(Math.min(...ends) - 0.0015)
          expect(value).toBeLessThanOrEqual(Math.max(...ends) + 0.0015)
        },
      ),
    )
  })

  it('lets a lot bring its own table, which wins', () => {
    const lotTable = { temperatures: [15, 20, 25], values: [7.05, 7.03, 7.01] }
    expect(phBufferValue('pH7.00', 20, lotTable)).toBeCloseTo(7.03, 9)
    expect(() => phBufferValue('pH7.00', 30, lotTable)).toThrow(/15 to 25\u00a0°C/)
  })

  it('refuses a temperature off the table and a code it does not know', () => {
    expect(() => phBufferValue('pH7.00', 51)).toThrow(OutOfRange)
    expect(() => phBufferValue('tartrate', 20)).toThrow(OutOfRange)
    expect(() => phBufferValue('pH8.00', 20)).toThrow(/no pH standard "pH8.00"/)
  })

  it('falls with temperature in the alkaline standards, by about 0.01 pH per degC', () => {
    expect(phBufferTemperatureCoefficient('pH10.01', 20)).toBeCloseTo(-0.011, 2)
    expect(phBufferTemperatureCoefficient('pH4.01', 20)).toBeCloseTo(0, 2)
  })
})
