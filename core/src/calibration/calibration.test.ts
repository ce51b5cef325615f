import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { plain } from '../../../lab/src/fixtures/plain.ts'
import { nernstSlope } from '../electrode/nernst.ts'
import { phToMillivolts } from '../electrode/phElectrode.ts'
import { judgeTolerance, proposeAfterCalibration, proposeAfterCheck } from '../judgement/decision.ts'
import { findingsOfTwoPoints } from '../kinds/ph/findings.ts'
import { difference, quantity } from '../quantities/sentence.ts'
import { phBuffer, phBufferValue } from '../standards/phBuffers.ts'
import { randomStream } from '../statistics/random.ts'
import {
  calibratePhTwoPoint,
  errorAtProcessValue,
  millivoltsBehindDisplay,
  type PhPoint,
  phUncertaintyAt,
} from './phCalibration.ts'

const point = (bufferCode: string, zero: number, slopeEfficiency: number, temperature = 22): PhPoint => ({
  bufferCode,
  temperature,
  millivolts: phToMillivolts(phBufferValue(bufferCode, temperature), temperature, { zero, slopeEfficiency }),
  millivoltsUncertainty: 1,
})
const pair = (zero: number, eta: number): [PhPoint, PhPoint] => [
  point('pH7.00', zero, eta),
  point('pH10.01', zero, eta),
]
const codes = (...args: Parameters<typeof findingsOfTwoPoints>) => findingsOfTwoPoints(...args).map((f) => f.code)

describe('two-point calibration', () => {
  it('works a plain example at 25 degC by hand: 0 mV in 7.00 and -171.2 mV in 10.01', () => {
    // slope -171.2 / 3.01 = -56.877 mV/pH; of 59.159 that is 96.14 %
    const result = calibratePhTwoPoint(
      { bufferCode: 'pH7.00', millivolts: 0, millivoltsUncertainty: 1, temperature: 25 },
      { bufferCode: 'pH10.01', millivolts: -171.2, millivoltsUncertainty: 1, temperature: 25 },
    )
    expect(100 * result.slopeEfficiency).toBeCloseTo(96.14, 2)
    expect(result.zero).toBeCloseTo(0, 9)
  })

  it('finds any electrode back, whatever the order and with the cups at different temperatures', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -80, max: 80, noNaN: true }),
        fc.double({ min: 0.7, max: 1.05, noNaN: true }),
        fc.double({ min: 1, max: 49, noNaN: true }),
        fc.double({ min: 1, max: 49, noNaN: true }),
        (zero, eta, t1, t2) => {
          for (const [a, b] of [
            ['pH7.00', 'pH4.01'],
            ['carbonate', 'phthalate'],
          ] as const) {
            const result = calibratePhTwoPoint(point(a, zero, eta, t1), point(b, zero, eta, t2))
            expect(result.zero).toBeCloseTo(zero, 8)
            expect(result.slopeEfficiency).toBeCloseTo(eta, 10)
          }
        },
      ),
    )
  })

  it('states an uncertainty that a Monte Carlo run confirms (GUM Supplement 1) within 5 %', () => {
    const random = randomStream(5)
    const [first, second] = pair(-8, 0.96)
    const stated = calibratePhTwoPoint(first, second)
    const shaken = (p: PhPoint): PhPoint => {
      // Signal, buffer and temperature each stray as their stated uncertainties say; the buffer's as a shift of its signal.
      const temperature = p.temperature + (0.5 / 1.96) * random.normal()
      const buffer = (phBuffer(p.bufferCode).uncertainty / 2) * nernstSlope(22) * 0.96 * random.normal()
      return { ...p, temperature, millivolts: p.millivolts + (1 / 1.96) * random.normal() + buffer }
    }
    const runs = Array.from({ length: 6000 }, () => calibratePhTwoPoint(shaken(first), shaken(second)))
    const sd = (xs: number[]) => {
      const mean = xs.reduce((a, b) => a + b, 0) / xs.length
      return Math.sqrt(xs.reduce((a, x) => a + (x - mean) ** 2, 0) / (xs.length - 1))
    }
    expect((1.96 * sd(runs.map((r) => r.zero))) / stated.zeroUncertainty).toBeCloseTo(1, 1)
    expect((1.96 * sd(runs.map((r) => r.slopeEfficiency))) / stated.slopeEfficiencyUncertainty).toBeCloseTo(1, 1)
    const at82 = runs.map((r) => errorAtProcessValue({ zero: -8, slopeEfficiency: 0.96 }, r, 8.2, 22))
    expect((1.96 * sd(at82)) / phUncertaintyAt(stated, 8.2, 22)).toBeCloseTo(1, 1)
  })

  it('refuses the same standard twice', () => {
    expect(() => calibratePhTwoPoint(point('pH7.00', 0, 1), point('pH7.00', 0, 1))).toThrow(/two different/)
  })

  it('combines zero and slope error at the process value, not at the buffer', () => {
    const actual = { zero: 6, slopeEfficiency: 0.93 }
    const activeCalibration = { zero: 0, slopeEfficiency: 0.98 }
    const expected = 7 - (6 + 0.93 * nernstSlope(20) * (7 - 5.8)) / (0.98 * nernstSlope(20)) - 5.8
    expect(errorAtProcessValue(actual, activeCalibration, 5.8, 20)).toBeCloseTo(expected, 12)
    expect(errorAtProcessValue(activeCalibration, activeCalibration, 5.8, 20)).toBeCloseTo(0, 12)
  })

  it('computes the millivolts behind a displayed value through the calibration in force', () => {
    const activeCalibration = { zero: -5, slopeEfficiency: 0.95 }
    expect(millivoltsBehindDisplay(7.29, 23, activeCalibration)).toBeCloseTo(
      phToMillivolts(7.29, 23, activeCalibration),
      12,
    )
  })
})

describe('findings', () => {
  it('says nothing of two good points', () => expect(codes(...pair(4, 0.98))).toEqual([]))

  it('recognises swapped standards, and only a wrong sign when even exchanging them does not help', () => {
    const [a, b] = pair(4, 0.98)
    const swapped: [PhPoint, PhPoint] = [
      { ...a, millivolts: b.millivolts },
      { ...b, millivolts: a.millivolts },
    ]
    expect(codes(...swapped)).toEqual(['standards-swapped'])
    expect(codes({ ...a, millivolts: 0 }, { ...b, millivolts: 90 })).toEqual(['wrong-sign'])
  })

  it('names the same standard twice, and points too close: 4.01 with 5.9 apart is fine, 9.21 with 10.01 is not', () => {
    expect(codes(point('pH7.00', 0, 1), point('pH7.00', 0, 1))).toContain('same-standard-twice')
    expect(codes(point('pH9.21', 0, 0.98), point('pH10.01', 0, 0.98))).toContain('points-too-close')
    expect(codes(point('pH7.00', 0, 0.98), point('pH9.21', 0, 0.98))).not.toContain('points-too-close')
  })

  it.each([
    [0.953, []],
    [0.947, ['slope-ageing']],
    [0.853, ['slope-ageing']],
    [0.847, ['slope-low']],
    [1.019, []],
    [1.021, ['slope-high']],
    [0.1, ['no-response']],
  ])('judges a slope efficiency of %f', (eta, expected) => expect(codes(...pair(0, eta))).toEqual(expected))

  it.each([
    [14.9, []],
    [-15.2, ['zero-watch']],
    [30.5, ['zero-beyond']],
    [-61, ['zero-beyond']],
  ])('judges a zero of %f mV', (zero, expected) => expect(codes(...pair(zero, 0.98))).toEqual(expected))

  it('sees temperatures of the pair apart and implausible ones, from just beyond the limit', () => {
    expect(codes(point('pH7.00', 0, 0.98, 22), point('pH10.01', 0, 0.98, 23.9))).toEqual([])
    expect(codes(point('pH7.00', 0, 0.98, 22), point('pH10.01', 0, 0.98, 24.1))).toEqual(['temperatures-apart'])
    expect(codes(point('pH7.00', 0, 0.98, 4.9), point('pH10.01', 0, 0.98, 5.1))).toEqual(['temperature-implausible'])
  })

  it('sees an expired lot, one open too long, and a change larger than drift', () => {
    const lot = { lot: '7-24C', expired: true, openTooLong: false, daysOver: 3 }
    expect(codes(...pair(0, 0.98), { first: lot })).toEqual(['lot-expired'])
    expect(codes(...pair(0, 0.98), { second: { ...lot, expired: false, openTooLong: true } })).toEqual([
      'lot-open-too-long',
    ])
    expect(codes(...pair(0, 0.98), {}, { zero: 24, slopeEfficiency: 0.98 })).toEqual([])
    expect(codes(...pair(0, 0.98), {}, { zero: 26, slopeEfficiency: 0.98 })).toEqual(['change-larger-than-drift'])
  })
})

describe('judgement', () => {
  const sound = {
    findings: [],
    worn: null,
    uncertainty: 0.02,
    tolerance: 0.1,
    scale: { unit: 'pH', decimals: 2 },
    cleaned: true,
    repeated: false,
  }

  it('keeps a guard band (JCGM 106): in, too close to tell, out', () => {
    expect(judgeTolerance(0.079, 0.02, 0.1)).toBe('in')
    expect(judgeTolerance(-0.1, 0.02, 0.1)).toBe('too-close-to-tell')
    expect(judgeTolerance(-0.121, 0.02, 0.1)).toBe('out')
  })

  it('leaves a small error alone, adjusts a large one, and says the numbers', () => {
    expect(proposeAfterCalibration({ ...sound, error: 0.03 }).decision).toBe('leave-alone')
    const adjust = proposeAfterCalibration({ ...sound, error: -0.14 })
    expect(adjust.decision).toBe('adjust')
    expect(plain(adjust.reason)).toBe('It reads 0.14 pH too low at the process value, beyond your limit of 0.10 pH.')
  })

  it('never calls an error beyond the limit "more than half" of it, also where the uncertainty leaves it open', () => {
    const percent = { ...sound, tolerance: 2, scale: { unit: '%', decimals: 1 } }
    const reason = (error: number, uncertainty: number) =>
      plain(proposeAfterCalibration({ ...percent, error, uncertainty }).reason)
    expect(reason(-2.7, 1)).toBe(
      'It reads 2.7 % too low at the process value, beyond your limit of 2.0 %. That is too close to tell within ± 1.0 %.',
    )
    expect(reason(-2.7, 0.2)).toBe('It reads 2.7 % too low at the process value, beyond your limit of 2.0 %.')
    expect(reason(1.4, 0.2)).toBe(
      'It reads 1.4 % too high at the process value, more than half of your limit of 2.0 %.',
    )
  })

  it('gives a worn electrode one cleaning before it is replaced, and never adjusts on points that cannot be', () => {
    const worn = { ...sound, worn: 'Slope 80.0 %, zero 5.0 mV.', error: 0.2 }
    expect(proposeAfterCalibration({ ...worn, cleaned: false }).decision).toBe('clean-and-recheck')
    expect(proposeAfterCalibration(worn).decision).toBe('replace')
    const [a, b] = pair(4, 0.98)
    const findings = findingsOfTwoPoints({ ...a, millivolts: b.millivolts }, { ...b, millivolts: a.millivolts })
    expect(proposeAfterCalibration({ ...sound, findings, error: 0 }).decision).toBe('repeat')
  })

  it('judges a check in one buffer', () => {
    const check = (shown: number) =>
      proposeAfterCheck(
        {
          shown: quantity(shown, 'pH', 2),
          right: quantity(7.02, 'pH', 2),
          limit: difference(0.1, 'pH', 2),
          unsure: difference(0.02, 'pH', 2),
        },
        shown - 7.02,
        0.02,
        0.1,
      )
    expect(plain(check(7.03).reason)).toBe('It reads pH 7.03 where pH 7.02 is right; your limit is 0.10 pH.')
    expect(check(7.3).decision).toBe('adjust')
    expect(plain(check(7.11).reason)).toMatch(/too close to tell within ± 0.02 pH/)
  })
})
