import { describe, expect, it } from 'vitest'
import { plain } from '../../../lab/src/fixtures/plain.ts'
import { type ConductivityPoint, calibrateConductivity } from '../calibration/conductivityCalibration.ts'
import { type DisplayEvent, displayChain } from '../calibration/displayChain.ts'
import { checkElectronics, checkOpenOrShort, type SimulatorStep } from '../calibration/electronicsCheck.ts'
import { calibrateIon, type IonPoint } from '../calibration/ionCalibration.ts'
import { findingsOfLots } from '../calibration/lotFindings.ts'
import { calibrateOrpOffset, calibrateOrpTwoPoint } from '../calibration/orpCalibration.ts'
import { calibratePhBracketing } from '../calibration/phMultiPoint.ts'
import { correctFromSample } from '../calibration/sampleCorrection.ts'
import {
  findChangeBeyondDrift,
  findLeftOver,
  findNoResponse,
  findSlowResponse,
  findUnitSlip,
} from '../calibration/slips.ts'
import { calibrateTemperature } from '../calibration/temperatureCalibration.ts'
import { type IonCharacteristic, ionToMillivolts } from '../electrode/ionSelective.ts'
import { phToMillivolts } from '../electrode/phElectrode.ts'
import { ionStandard, ionStandardValue } from '../standards/ionStandards.ts'
import { phBufferValue } from '../standards/phBuffers.ts'
import { TWO_PERCENT } from './common.ts'
import { findingsOfConductivity } from './conductivity/findings.ts'
import { kindOf } from './index.ts'
import { findingsOfIonPair } from './ion/findings.ts'
import { findingsOfOrp } from './orp/findings.ts'
import { findingsOfSegments } from './ph/findings.ts'

const codes = (findings: readonly { code: string }[]) => findings.map((f) => f.code)

describe('slips', () => {
  it.each([
    [1413, 1.413, 'µS/cm for mS/cm'],
    [0.0529, 53, 'µS/cm for mS/cm'],
    [44.3, 10, 'nitrate for nitrate-N'],
    [1000, 1400, 'ppm 700'],
    [18, 1.8, 'CF'],
  ])('%f where %f is right is a unit: %s', (reading, expected, name) => {
    const found = findUnitSlip(reading, expected, 'amount')
    expect(found?.code).toBe('unit-slip')
    expect(plain(found?.sentence)).toContain(name)
  })

  it('a large error that is no unit stays an error, and so does a small one', () => {
    expect(findUnitSlip(2.2, 1, 'amount')).toBeNull()
    expect(findUnitSlip(1.1, 1, 'amount')).toBeNull()
    expect(findUnitSlip(4.6, 1, 'amount')).toBeNull()
    expect(findUnitSlip(0, 1, 'amount')).toBeNull()
  })

  it('77 where 25 degC is right is degF; 29 is not', () => {
    expect(plain(findUnitSlip(77, 25, 'temperature')?.sentence)).toContain('°F')
    expect(findUnitSlip(29, 25, 'temperature')).toBeNull()
  })

  it('sees a value left over from the standard before, and not one that fits the new standard', () => {
    expect(findLeftOver(7.01, 7.02, 10.01, 0.05)?.code).toBe('left-over-value')
    expect(findLeftOver(9.9, 7.02, 10.01, 0.05)).toBeNull()
    expect(findLeftOver(7.01, 7.02, 7.1, 0.05)).toBeNull()
  })

  it('sees a response far slower than this sensor\u2019s own, and not one within its scatter', () => {
    const history = [30, 34, 28, 40, 33]
    expect(findSlowResponse(90, history)?.code).toBe('slow-response')
    expect(findSlowResponse(70, history)).toBeNull()
    expect(findSlowResponse(900, [30, 34])).toBeNull()
  })

  it('sees a change that drift does not explain, and not one that it does', () => {
    const factor = { name: 'The cell factor', unit: '%' }
    expect(plain(findChangeBeyondDrift(6, 0.02, 90, 2, factor)?.sentence)).toBe(
      'The cell factor changed by 6 % since last time; its drift explains 1.8 %.',
    )
    expect(findChangeBeyondDrift(4.7, 0.02, 90, 2, factor)).toBeNull()
    expect(findChangeBeyondDrift(-1.5, 0.02, 90, 2, factor)?.code).toBe('change-larger-than-drift')
  })

  it('names lots past their date or open too long, and no others', () => {
    const lot = { lot: 'K-12', expired: false, openTooLong: false, daysOver: 0 }
    expect(findingsOfLots([lot, undefined])).toEqual([])
    expect(codes(findingsOfLots([{ ...lot, expired: true, daysOver: 1 }]))).toEqual(['lot-expired'])
    expect(codes(findingsOfLots([{ ...lot, openTooLong: true, daysOver: 9 }]))).toEqual(['lot-open-too-long'])
  })

  it('sees a sensor that does not answer, and not one that answers weakly', () => {
    expect(findNoResponse(12, 178)?.code).toBe('no-response')
    expect(findNoResponse(-20, 178)).toBeNull()
  })
})

describe('findings by kind', () => {
  const ph = (code: string, eta: number) => ({
    bufferCode: code,
    temperature: 25,
    millivolts: phToMillivolts(phBufferValue(code, 25), 25, { zero: 0, slopeEfficiency: eta }),
    millivoltsUncertainty: 0.5,
  })

  it('pH pieces that contradict each other, and such as do not', () => {
    const bad = calibratePhBracketing([ph('pH4.01', 0.97), ph('pH7.00', 0.97), ph('pH10.01', 0.91)])
    expect(codes(findingsOfSegments(bad))).toEqual(['segments-disagree'])
    const good = calibratePhBracketing([ph('pH4.01', 0.97), ph('pH7.00', 0.97), ph('pH10.01', 0.945)])
    expect(findingsOfSegments(good)).toEqual([])
  })

  const electrode: IonCharacteristic = { zero: 5, slopeEfficiency: 0.96, charge: -1 }
  const ion = (code: string, by: Partial<IonPoint> = {}, e = electrode): IonPoint => {
    const standard = ionStandard(code)
    const temperature = by.temperature ?? 21
    const millivolts = ionToMillivolts(ionStandardValue(standard, temperature).activityMolar, temperature, e)
    return { standard, millivolts, uncertainty: 0.5, temperature, ...by }
  }
  const high = ion('chloride-319')
  const low = ion('chloride-46.2')

  it('an ion pair: sound, at its limits, and each thing that may be wrong with it', () => {
    expect(findingsOfIonPair(high, low)).toEqual([])
    expect(codes(findingsOfIonPair(high, ion('chloride-46.2', { temperature: 21.49 })))).toEqual([])
    expect(codes(findingsOfIonPair(high, ion('chloride-46.2', { temperature: 21.6 })))).toEqual(['temperatures-apart'])
    expect(codes(findingsOfIonPair(low, high))).toEqual(['standards-swapped'])
    expect(codes(findingsOfIonPair(high, high))).toEqual(['same-standard-twice'])
    expect(
      codes(findingsOfIonPair({ ...high, millivolts: low.millivolts }, { ...low, millivolts: high.millivolts })),
    ).toEqual(['standards-swapped'])
    expect(codes(findingsOfIonPair(high, { ...low, millivolts: high.millivolts + 3 }))).toEqual(['no-response'])
    const weak = { ...electrode, slopeEfficiency: 0.79 }
    expect(codes(findingsOfIonPair(ion('chloride-319', {}, weak), ion('chloride-46.2', {}, weak)))).toEqual([
      'gap-outside',
    ])
    const just = { ...electrode, slopeEfficiency: 0.83 }
    expect(findingsOfIonPair(ion('chloride-319', {}, just), ion('chloride-46.2', {}, just))).toEqual([])
    const near = { ...low, standard: { ...low.standard, molarity: 0.004 } }
    expect(
      codes(
        findingsOfIonPair(high, {
          ...near,
          millivolts: ionToMillivolts(ionStandardValue(near.standard, 21).activityMolar, 21, electrode),
        }),
      ),
    ).toEqual(['points-too-close'])
    expect(() => calibrateIon(high, { ...ion('nitrate-1N'), uncertainty: 1 })).toThrow(/one ion/)
  })

  it('a conductivity cell: not dry, beyond belief, and neither', () => {
    const point: ConductivityPoint = {
      standard: 'kcl-1413',
      shown: 1400,
      uncertainty: 4,
      temperature: 25,
      temperatureUncertainty: 0.3,
    }
    const of = (shown: number, dry: number) =>
      codes(
        findingsOfConductivity(
          calibrateConductivity({ ...point, shown }, { law: 'none' }, { shown: dry, uncertainty: 1 }),
          { ...point, shown },
        ),
      )
    expect(of(1400, 6.9)).toEqual([])
    expect(of(1400, 7.3)).toEqual(['cell-not-dry'])
    expect(of(1140, 0)).toEqual([])
    expect(of(1120, 0)).toEqual(['factor-beyond'])
    expect(of(1800, 0)).toEqual(['factor-beyond'])
  })

  it('an ORP channel: offset and gain at and beyond their limits', () => {
    const light = (shown: number) => ({ standard: 'light' as const, shown, uncertainty: 2, temperature: 25 })
    const offset = (shown: number) => findingsOfOrp(calibrateOrpOffset(light(shown), 'agcl-saturated'))
    expect(offset(447)).toEqual([])
    expect(offset(445)[0]?.severity).toBe('warn')
    expect(offset(400)[0]?.severity).toBe('stop')
    const zobell = { standard: 'zobell' as const, shown: 231.28, uncertainty: 2, temperature: 25 }
    expect(codes(findingsOfOrp(calibrateOrpTwoPoint(zobell, light(450), 'agcl-saturated')))).toContain('slope-low')
    expect(codes(findingsOfOrp(calibrateOrpTwoPoint(zobell, light(470), 'agcl-saturated')))).toEqual([])
  })

  it('a reference sample: frozen reading, age, flow, floor, size', () => {
    const rules = { floor: 0.2, oldestHours: 0.25, largestCorrection: 0.5 }
    const sample = {
      frozen: 0.8,
      frozenUncertainty: 0.02,
      result: 0.9,
      resultUncertainty: 0.05,
      ageHours: 0.2,
      flowOn: true,
    }
    const good = correctFromSample(sample, rules)
    expect(good.factor?.value).toBeCloseTo(1.125, 9)
    expect(good.offset.value).toBeCloseTo(0.1, 9)
    expect(good.agrees).toBe(false)
    expect(good.findings).toEqual([])
    expect(correctFromSample({ ...sample, result: 0.84 }, rules).agrees).toBe(true)
    expect(codes(correctFromSample({ ...sample, ageHours: 0.3 }, rules).findings)).toEqual(['sample-too-old'])
    expect(codes(correctFromSample({ ...sample, flowOn: false }, rules).findings)).toEqual(['flow-off'])
    expect(codes(correctFromSample({ ...sample, frozen: 0.15, result: 0.19 }, rules).findings)).toEqual([
      'result-below-floor',
    ])
    expect(codes(correctFromSample({ ...sample, result: 1.3 }, rules).findings)).toEqual(['correction-implausible'])
    expect(correctFromSample({ ...sample, frozen: 0 }, rules).factor).toBeNull()
  })

  it('temperature: the mean of two thermometers, unless they disagree', () => {
    const t = (reading: number, uncertainty = 0.1) => ({ reading, uncertainty })
    const sound = calibrateTemperature(t(24.6), t(25.1), t(25))
    expect(sound.offset.value).toBeCloseTo(0.45, 9)
    expect(sound.offset.uncertainty).toBeCloseTo(Math.hypot(0.1, 0.1 / Math.SQRT2), 6)
    expect(sound.findings).toEqual([])
    expect(codes(calibrateTemperature(t(24.6), t(25.2), t(25)).findings)).toEqual(['thermometers-disagree'])
    expect(codes(calibrateTemperature(t(21), t(25), t(25)).findings)).toEqual(['correction-implausible'])
  })
})

describe('electronics check', () => {
  const step = (
    right: number,
    asFound: number,
    direction: 'up' | 'down' = 'up',
    asLeft: number | null = null,
  ): SimulatorStep => ({
    right,
    asFound,
    asLeft,
    direction,
  })

  const limits = (tolerance: number) => ({ toleranceAt: () => tolerance, zeroAt: 0 })

  it('judges each row by its own tolerance where the span is wide: 0.30 for 1 is far off, whatever is allowed at 40', () => {
    const all = [0, 1, 10, 18, 40]
    const check = (shown: number[]) =>
      checkElectronics(
        all.map((right, i) => step(right, shown[i] as number)),
        { toleranceAt: (right) => TWO_PERCENT(right, all), zeroAt: 0 },
      ).asFound
    // By hand: 2 % of each; of 0 that of the smallest other one.
    expect(all.map((right) => TWO_PERCENT(right, all))).toEqual([0.02, 0.02, 0.2, 0.36, 0.8])
    expect(check([0.01, 1.01, 10.1, 18.2, 40.5]).withinTolerance).toBe(true)
    expect(check([0, 0.3, 10, 18, 40]).withinTolerance).toBe(false)
    // Inputs close to each other share what the largest allows.
    expect(TWO_PERCENT(50, [50, 100, 150])).toBeCloseTo(3, 9)
  })

  it('the zero of a pH transmitter is at pH 7, where its input is 0 mV', () => {
    const steps = [4, 7, 10].map((right) => step(right, 7 + 1.02 * (right - 7)))
    const { asFound } = checkElectronics(steps, { toleranceAt: () => 0.05, zeroAt: 7 })
    expect(asFound.zero).toBeCloseTo(0, 9)
    expect(asFound.gain).toBeCloseTo(1.02, 9)
    expect(kindOf('ph').simulator?.zeroAt).toBe(7)
  })

  it('gives gain, zero, linearity and hysteresis, as found and as left', () => {
    const steps = [
      step(0, 1, 'up', 0),
      step(10, 11.2, 'up', 10),
      step(20, 21.4, 'up', 20),
      step(10, 11.4, 'down', 10),
      step(0, 1, 'down', 0),
    ]
    const { asFound, asLeft } = checkElectronics(steps, limits(0.5))
    expect(asFound.gain).toBeCloseTo(1.02, 2)
    expect(asFound.hysteresis).toBeCloseTo(0.2, 9)
    expect(asFound.largestError).toBeCloseTo(1.4, 9)
    expect(asFound.withinTolerance).toBe(false)
    expect(asLeft).toMatchObject({ gain: 1, linearity: 0, withinTolerance: true })
    expect(checkElectronics(steps.slice(0, 2), limits(5)).asFound.hysteresis).toBeNull()
    expect(() => checkElectronics([step(0, 1)], limits(1))).toThrow(RangeError)
  })

  it('an open circuit that shows a value is found out', () => {
    expect(checkOpenOrShort('open circuit', 'over-range', 'over-range')).toEqual([])
    expect(codes(checkOpenOrShort('open circuit', 'over-range', 'a value'))).toEqual(['no-response'])
  })
})

describe('display-only chain', () => {
  const DAY = 86_400_000
  /** What a device with this calibration in force shows for an electrode. */
  const shown = (
    code: string,
    electrode: { zero: number; slopeEfficiency: number },
    activeCalibration = { zero: 0, slopeEfficiency: 1 },
  ) => {
    const e = phToMillivolts(phBufferValue(code, 25), 25, electrode)
    const value = 7 - (e - activeCalibration.zero) / phToMillivolts(6, 25, { ...activeCalibration, zero: 0 })
    return { bufferCode: code, shown: value, uncertainty: 0.02, temperature: 25 }
  }
  const visit = (
    day: number,
    electrode: { zero: number; slopeEfficiency: number },
    activeCalibration: { zero: number; slopeEfficiency: number },
    adjusted: boolean,
  ): DisplayEvent => ({
    kind: 'visit',
    at: day * DAY,
    points: [shown('pH7.00', electrode, activeCalibration), shown('pH10.01', electrode, activeCalibration)],
    adjusted,
  })
  const new_ = { zero: 0, slopeEfficiency: 1 }
  const e1 = { zero: -5, slopeEfficiency: 0.97 }
  const e2 = { zero: -11, slopeEfficiency: 0.94 }

  it('gives slope and zero without a single millivolt, through adjustments and checks', () => {
    const { points, breaks } = displayChain(
      [visit(30, e1, new_, true), visit(60, e2, e1, false), visit(61, e2, e1, true)],
      new_,
    )
    expect(points.map((p) => Math.round(p.zero * 10) / 10)).toEqual([-5, -11, -11])
    expect(points.map((p) => Math.round(1000 * (p.slopeEfficiency ?? 0)))).toEqual([970, 940, 940])
    expect(points.every((p) => !p.relative && p.section === 0)).toBe(true)
    expect(breaks).toEqual([])
  })

  it('breaks at a reset, which it survives, and at a calibration nobody wrote down, which makes it relative', () => {
    const reset = displayChain(
      [visit(30, e1, new_, true), { kind: 'device-reset', at: 40 * DAY }, visit(60, e2, new_, false)],
      new_,
    )
    expect(reset.points[1]).toMatchObject({ section: 1, relative: false })
    expect(reset.points[1]?.zero).toBeCloseTo(-11, 6)
    const lost = displayChain(
      [visit(30, e1, new_, true), { kind: 'unrecorded-calibration', at: 40 * DAY }, visit(60, e2, e2, false)],
      new_,
    )
    expect(lost.points[1]).toMatchObject({ section: 1, relative: true })
    expect(lost.breaks).toEqual([{ at: 40 * DAY, reason: 'unrecorded-calibration' }])
    expect(displayChain([visit(30, e1, new_, true)], null).points[0]?.relative).toBe(true)
  })

  it('makes a zero of one buffer, and refuses events out of order', () => {
    const one: DisplayEvent = { kind: 'visit', at: DAY, points: [shown('pH7.00', e1)], adjusted: false }
    const [point] = displayChain([one], new_).points
    expect(point?.zero).toBeCloseTo(-5, 6)
    expect(point?.slopeEfficiency).toBeNull()
    expect(() => displayChain([{ ...one, at: 2 * DAY }, one], new_)).toThrow(/order of time/)
  })
})
