import { describe, expect, it } from 'vitest'
import { plain } from '../../../lab/src/fixtures/plain.ts'
import { ionPoint, phPoint } from '../../../lab/src/fixtures/testPoints.ts'
import { ConductivitySensorSimulation, IonElectrodeSimulation } from '../../../lab/src/simulation/sensors.ts'
import type { Compensation } from '../conductivity/compensation.ts'
import type { IonCharacteristic } from '../electrode/ionSelective.ts'
import { nernstSlope } from '../electrode/nernst.ts'
import { OutOfRange } from '../quantities/outOfRange.ts'
import { conductivityStandardValue } from '../standards/conductivityStandards.ts'
import { ION_STANDARD_UNCERTAINTY, ionStandard, ionStandardValue } from '../standards/ionStandards.ts'
import { Z95 } from '../statistics/normalDistribution.ts'
import { type RandomStream, randomStream } from '../statistics/random.ts'
import {
  type ConductivityPoint,
  calibrateConductivity,
  calibrateConductivityTwoPoint,
  cellConstant,
  testConductivity,
} from './conductivityCalibration.ts'
import { expectedConductivityDisplay, expectedPhDisplay } from './expectedDisplay.ts'
import { calibrateIon, type IonPoint, ionCharacteristicAt, ionZeroShift, pairGapRule } from './ionCalibration.ts'
import { applyOrp, calibrateOrpOffset, calibrateOrpTwoPoint, calibrateOrpZeroPlug } from './orpCalibration.ts'
import { calibratePhTwoPoint, type PhPoint } from './phCalibration.ts'
import { calibratePhBracketing, calibratePhLeastSquares, calibratePhOnePoint, segmentFor } from './phMultiPoint.ts'

const LINEAR: Compensation = { law: 'linear', alpha: 2, reference: 25 }

describe('pH by several points', () => {
  it('least squares of two points is the two-point calibration, uncertainties and covariance included', () => {
    const points = [phPoint('pH7.00', -6, 0.95, 19), phPoint('pH10.01', -6, 0.95, 24)] as const
    const fit = calibratePhLeastSquares(points)
    const two = calibratePhTwoPoint(...points)
    expect(fit.characteristic.zero).toBeCloseTo(two.zero, 9)
    expect(fit.characteristic.slopeEfficiency).toBeCloseTo(two.slopeEfficiency, 9)
    expect(fit.zero.uncertainty / two.zeroUncertainty).toBeCloseTo(1, 2)
    expect(fit.slopeEfficiency.uncertainty / two.slopeEfficiencyUncertainty).toBeCloseTo(1, 2)
    expect(fit.covariance / two.covariance).toBeCloseTo(1, 1)
  })

  it('least squares of three points leaves residuals that sum to nothing, and knows the slope better than the ends alone', () => {
    const points = [phPoint('pH4.01', 3, 0.97), phPoint('pH7.00', 3, 0.97), phPoint('pH10.01', 3, 0.97)]
    const off = points.map((p, i) => ({ ...p, millivolts: p.millivolts + (i === 1 ? -2 : 1) }))
    const fit = calibratePhLeastSquares(off)
    expect(fit.residuals.reduce((a, b) => a + b, 0)).toBeCloseTo(0, 9)
    expect(calibratePhLeastSquares(points).residuals.every((r) => Math.abs(r) < 1e-9)).toBe(true)
    const ends = calibratePhTwoPoint(points[0] as PhPoint, points[2] as PhPoint)
    expect(fit.zero.uncertainty).toBeLessThan(ends.zeroUncertainty)
    expect(() => calibratePhLeastSquares([points[0], points[0]] as PhPoint[])).toThrow(/two different standards/)
  })

  it('bracketing reads each buffer exactly, and takes the piece that encloses the signal', () => {
    const points = [phPoint('pH10.01', 0, 0.9), phPoint('pH4.01', 0, 0.98), phPoint('pH7.00', 0, 0.95)]
    const bracketing = calibratePhBracketing(points)
    expect(bracketing.segments.map((s) => Math.round(s.lowPh))).toEqual([4, 7])
    const [low, high] = bracketing.segments.map((s) => s.calibration)
    expect(segmentFor(bracketing, 120, 22)).toBe(low)
    expect(segmentFor(bracketing, -120, 22)).toBe(high)
    expect(segmentFor(bracketing, -500, 22)).toBe(high)
  })

  it('one point moves the zero so that the sample is met', () => {
    const { value, uncertainty } = calibratePhOnePoint(
      { millivolts: -60, uncertainty: 0.5, temperature: 25 },
      { ph: 8, uncertainty: 0.05 },
      { slopeEfficiency: 1, uncertainty: 0.02 },
    )
    expect(value).toBeCloseTo(-60 + nernstSlope(25), 9)
    expect(uncertainty).toBeCloseTo(Math.hypot(0.5, 0.05 * 59.16, 0.02 * 59.16), 2)
  })
})

describe('expected display', () => {
  it('is 7.04 for a 7.00 buffer and 10.12 for a 10.01 at 15 degC (common practice, no source), and says why', () => {
    const seven = expectedPhDisplay('pH7.00', 15, { temperatureFrom: 'sensor' })
    expect(seven.expected).toBeCloseTo(7.04, 2)
    expect(plain(seven.reasons[0])).toContain('At 15.0 °C')
    expect(expectedPhDisplay('pH10.01', 15, { temperatureFrom: 'sensor' }).expected).toBeCloseTo(10.12, 2)
    expect(expectedPhDisplay('pH7.00', 25, { temperatureFrom: 'sensor' }).reasons).toEqual([])
  })

  it('names a temperature keyed in, and a solution coefficient that a buffer does not follow', () => {
    const keyed = expectedPhDisplay('pH4.01', 5, { temperatureFrom: 'keyed-in', keyedIn: 25 })
    expect(keyed.expected).toBeCloseTo(7 - (3 * nernstSlope(5)) / nernstSlope(25), 2)
    expect(plain(keyed.reasons.at(-1))).toContain('as keyed in')
    const referred = expectedPhDisplay('pH7.00', 35, { temperatureFrom: 'sensor', solutionCoefficient: 0.033 })
    expect(referred.expected - 6.98).toBeCloseTo(0.33, 6)
    expect(() => expectedPhDisplay('pH4.01', 5, { temperatureFrom: 'keyed-in' })).toThrow(/keyed in is not a number/)
  })

  it('of 1413 uS/cm at 20 degC: 1278 without compensation, 1420 with 2 %, 1413 with the standard\u2019s own 1.91 %', () => {
    expect(expectedConductivityDisplay('kcl-1413', 20, { law: 'none' }).expected).toBeCloseTo(1278, 6)
    expect(expectedConductivityDisplay('kcl-1413', 20, LINEAR).expected).toBeCloseTo(1278 / 0.9, 6)
    const own = expectedConductivityDisplay('kcl-1413', 20, { law: 'linear', alpha: 1.9108, reference: 25 })
    expect(own.expected).toBeCloseTo(1413, 0)
    expect(own.reasons).toEqual([])
    expect(plain(expectedConductivityDisplay('kcl-1413', 20, LINEAR).reasons[0])).toContain('1.91 % per °C')
  })
})

describe('ORP calibration', () => {
  const light = { standard: 'light' as const, shown: 466, uncertainty: 2, temperature: 25 }

  it('by one standard sets the offset: 476 is right where 466 is shown', () => {
    const result = calibrateOrpOffset(light, 'agcl-saturated')
    expect(result.offset.value).toBeCloseTo(10, 9)
    expect(result.offset.uncertainty).toBeCloseTo(Math.hypot(2, (10 * Z95) / Z95), 6)
    expect(applyOrp(result, 300)).toBeCloseTo(310, 9)
  })

  it('with a plug reads 0 there and the standard\u2019s value in it', () => {
    const result = calibrateOrpZeroPlug({ shown: 4, uncertainty: 0.5 }, light, 'agcl-saturated')
    expect(applyOrp(result, 4)).toBeCloseTo(0, 9)
    expect(applyOrp(result, 466)).toBeCloseTo(476, 9)
  })

  it('by two standards reads both', () => {
    const zobell = { standard: 'zobell' as const, shown: 228, uncertainty: 2, temperature: 25 }
    const result = calibrateOrpTwoPoint(zobell, light, 'agcl-saturated')
    expect(applyOrp(result, 228)).toBeCloseTo(430.28 - 199, 6)
    expect(applyOrp(result, 466)).toBeCloseTo(476, 9)
    expect(() => calibrateOrpTwoPoint(light, { ...light, shown: 470 }, 'agcl-saturated')).toThrow(OutOfRange)
  })
})

describe('conductivity calibration', () => {
  const point = (shown: number, temperature = 25, standard = 'kcl-1413'): ConductivityPoint => ({
    standard,
    shown,
    uncertainty: 4,
    temperature,
    temperatureUncertainty: 0.3,
  })

  it('by one standard gives right over shown, whatever the device compensates', () => {
    expect(calibrateConductivity(point(1300), LINEAR).factor.value).toBeCloseTo(1413 / 1300, 9)
    const cold = calibrateConductivity(point(1278 / 0.9, 20), LINEAR)
    expect(cold.factor.value).toBeCloseTo(1, 9)
  })

  it('with a dry zero takes the zero off first, and with two standards finds both', () => {
    const dry = calibrateConductivity(point(1303), { law: 'none' }, { shown: 3, uncertainty: 0.5 })
    expect(dry.factor.value).toBeCloseTo(1413 / 1300, 9)
    expect(dry.zero.value).toBe(3)
    const shown = (right: number) => right / 1.08 + 3
    const two = calibrateConductivityTwoPoint(point(shown(1413)), point(shown(12880), 25, 'kcl-12.88'), LINEAR)
    expect(two.factor.value).toBeCloseTo(1.08, 6)
    expect(two.zero.value).toBeCloseTo(3, 4)
    expect(() => calibrateConductivityTwoPoint(point(1400), point(1410), LINEAR)).toThrow(OutOfRange)
  })

  it('works at the very ends of a standard\u2019s table, where its temperature can stray one way only', () => {
    const inner = calibrateConductivity(point(1552, 29.5), { law: 'none' }).factor.uncertainty
    for (const [t, right] of [
      [30, 1552],
      [0, 776],
    ] as const) {
      const { factor } = calibrateConductivity(point(right, t), { law: 'none' })
      expect(factor.value).toBeCloseTo(1, 9)
      expect(factor.uncertainty).toBeGreaterThan(0.5 * inner)
    }
    expect(() => calibrateConductivity(point(1552, 30.1), { law: 'none' })).toThrow(/Temperature of 1413/)
    const cold = calibratePhLeastSquares([phPoint('pH7.00', 0, 0.95, 0), phPoint('pH10.01', 0, 0.95, 50)])
    expect(cold.slopeEfficiency.value).toBeCloseTo(0.95, 9)
    expect(cold.slopeEfficiency.uncertainty).toBeGreaterThan(0)
  })

  it('test only says how far off in percent; a cell constant is right over conductance', () => {
    expect(testConductivity(point(1441.26), LINEAR).value).toBeCloseTo(2, 6)
    expect(cellConstant(1413, 'kcl-1413', 25)).toBeCloseTo(1, 9)
    expect(() => calibrateConductivity(point(0), LINEAR)).toThrow(OutOfRange)
  })
})

describe('ion calibration', () => {
  const electrode: IonCharacteristic = { zero: 5, slopeEfficiency: 0.96, charge: -1 }

  it('of two points finds the electrode back', () => {
    const result = calibrateIon(ionPoint('chloride-319', electrode), ionPoint('chloride-46.2', electrode))
    const found = ionCharacteristicAt(result, 25)
    expect(found.zero).toBeCloseTo(5, 6)
    expect(found.slopeEfficiency).toBeCloseTo(0.96, 9)
  })

  it('of three and four points lets E0, then both, go with temperature in a straight line', () => {
    const warm = { ...electrode, zero: 9 }
    const [high, low] = [ionPoint('chloride-319', electrode, 20), ionPoint('chloride-46.2', electrode, 20)]
    const three = calibrateIon(high, low, ionPoint('chloride-319', warm, 30))
    expect(ionCharacteristicAt(three, 25).zero).toBeCloseTo(7, 6)
    const weak = { ...warm, slopeEfficiency: 0.9 }
    const four = calibrateIon(high, low, ionPoint('chloride-319', weak, 30), ionPoint('chloride-46.2', weak, 30))
    expect(ionCharacteristicAt(four, 25).slopeEfficiency).toBeCloseTo(0.93, 6)
    expect(() => ionCharacteristicAt(four, 45)).toThrow(OutOfRange)
    expect(() => calibrateIon(high, low, ionPoint('chloride-319', warm, 20.5))).toThrow(/temperature levels/)
  })

  it('passes the pair 138.6 mV at 21.3 degC / 185.2 mV at 21.2 degC, 40 to 55 mV apart (common practice, no source)', () => {
    const high = { ...ionPoint('chloride-319', electrode, 21.3), millivolts: 138.6 }
    const low = { ...ionPoint('chloride-46.2', electrode, 21.2), millivolts: 185.2 }
    const rule = pairGapRule(high, low)
    // By hand: 185.2 - 138.6 = 46.6.
    expect(rule.gap).toBeCloseTo(46.6, 9)
    expect(rule.low).toBeCloseTo(40, -0.5)
    expect(rule.high).toBeCloseTo(55, -0.5)
    expect(rule.gap).toBeGreaterThan(rule.low)
    // Ammonium goes up with concentration and has two decades between its standards.
    const up = { ...electrode, charge: 1 }
    const wide = pairGapRule(ionPoint('ammonium-100N', up), ionPoint('ammonium-1N', up))
    expect(wide.gap).toBeGreaterThan(wide.low)
    expect(wide.low).toBeGreaterThan(90)
  })

  it('one point moves E0 by the slope times the decades between result and frozen reading', () => {
    expect(ionZeroShift(100, 10, electrode, 25)).toBeCloseTo(0.96 * 59.159, 2)
  })
})

/** What the calibrator sees of a sensor that has stood long enough: the mean of 20 readings and its stated half-width. */
function settled(read: (now: number) => number, truth: { noise: number; step: number }): [number, number] {
  const values = Array.from({ length: 20 }, (_, i) => read(7200 + i / 2))
  const sd = Math.sqrt(truth.noise ** 2 / 20 + truth.step ** 2 / 12)
  return [values.reduce((a, b) => a + b, 0) / 20, Z95 * sd]
}

function coverage(run: (random: RandomStream) => boolean[]): number[] {
  const random = randomStream(77)
  const held: number[] = []
  for (let i = 0; i < 1000; i++) {
    for (const [k, ok] of run(random).entries()) held[k] = (held[k] ?? 0) + (ok ? 1 : 0)
  }
  return held
}
const response = { fastTime: 2, slowShare: 0.03, slowTime: 12 }

describe('calibrations on simulated readings hold the truth in 93 to 98 % of 1,000 runs, as their 95 % says', () => {
  it('conductivity, one point', () => {
    const held = coverage((random) => {
      const truth = {
        ...response,
        noise: 2,
        step: 1,
        factor: random.between(0.9, 1.1),
        zero: 0,
        coating: 0,
        wet: false,
        compensation: LINEAR,
        temperatureError: (0.3 / Z95) * random.normal(),
      }
      const temperature = random.between(18, 29)
      // The bottle strays by its stated 1 %, the built-in thermometer by its stated 0.3 degC.
      const conductivity = conductivityStandardValue('kcl-1413', temperature) * (1 + (0.01 / Z95) * random.normal())
      const sensor = new ConductivitySensorSimulation(truth, { conductivity, temperature }, random)
      const [shown, uncertainty] = settled((now) => sensor.read(now).conductivity, truth)
      const measured = sensor.read(7300).temperature
      const { factor } = calibrateConductivity(
        { standard: 'kcl-1413', shown, uncertainty, temperature: measured, temperatureUncertainty: 0.3 },
        LINEAR,
      )
      return [Math.abs(factor.value - truth.factor) <= factor.uncertainty]
    })
    for (const count of held) {
      expect(count).toBeGreaterThanOrEqual(930)
      expect(count).toBeLessThanOrEqual(980)
    }
  })

  it('ion, two points', () => {
    const held = coverage((random) => {
      const electrode = { zero: random.between(-20, 20), slopeEfficiency: random.between(0.88, 1), charge: -1 }
      const truth = { ...response, noise: 0.3, step: 0.1, electrode, zeroPerDegree: 0 }
      const [high, low] = ['chloride-319', 'chloride-46.2'].map((code): IonPoint => {
        const standard = ionStandard(code)
        const temperature = random.between(20, 24)
        const strayed = 1 + (ION_STANDARD_UNCERTAINTY / 100 / Z95) * random.normal()
        const activity = ionStandardValue(standard, temperature).activityMolar * strayed
        const sensor = new IonElectrodeSimulation(truth, { activity, temperature }, random)
        const [millivolts, uncertainty] = settled((now) => sensor.read(now).millivolts, truth)
        return { standard, millivolts, uncertainty, temperature: temperature + (0.3 / Z95) * random.normal() }
      })
      const [level] = calibrateIon(high as IonPoint, low as IonPoint).levels
      return [
        Math.abs((level?.zero.value ?? 0) - electrode.zero) <= (level?.zero.uncertainty ?? 0),
        Math.abs((level?.slopeEfficiency.value ?? 0) - electrode.slopeEfficiency) <=
          (level?.slopeEfficiency.uncertainty ?? 0),
      ]
    })
    for (const count of held) {
      expect(count).toBeGreaterThanOrEqual(930)
      expect(count).toBeLessThanOrEqual(980)
    }
  })
})
