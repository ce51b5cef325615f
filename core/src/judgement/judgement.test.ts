import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { phPoint } from '../../../lab/src/fixtures/testPoints.ts'
import type { Finding } from '../calibration/finding.ts'
import { calibratePhTwoPoint } from '../calibration/phCalibration.ts'
import { nernstSlope } from '../electrode/nernst.ts'
import { millivoltsToPh, phToMillivolts } from '../electrode/phElectrode.ts'
import { OutOfRange } from '../quantities/outOfRange.ts'
import { render } from '../quantities/render.ts'
import { Z95 } from '../statistics/normalDistribution.ts'
import { randomStream } from '../statistics/random.ts'
import { compareResults, normalisedError, weightedMean } from './agreement.ts'
import { type CalibrationEvidence, proposeAfterCalibration } from './decision.ts'
import { phReadingBudget } from './pointOfUse.ts'
import {
  correctPast,
  farthestChange,
  outOfTolerance,
  proratedCorrection,
  rateRecord,
  recordAction,
  splitFoulingAndDrift,
  splitFoulingAndDriftPercent,
} from './record.ts'

const DAY = 86_400_000

describe('record between two visits (USGS TM 1-D3)', () => {
  const readings = { before: 7.2, after: 7.5, fieldBefore: 7.55, fieldAfter: 7.6, inStandard: 6.92, standard: 7 }

  it('splits fouling from drift, and takes off what changed in the water itself', () => {
    const errors = splitFoulingAndDrift(readings)
    expect(errors.fouling).toBeCloseTo(0.25, 9)
    expect(errors.drift).toBeCloseTo(0.08, 9)
    expect(errors.total).toBeCloseTo(0.33, 9)
    const percent = splitFoulingAndDriftPercent({
      ...readings,
      before: 500,
      after: 520,
      fieldBefore: 530,
      fieldAfter: 530,
      inStandard: 980,
      standard: 1000,
    })
    expect(percent.fouling).toBeCloseTo(4, 9)
    expect(percent.drift).toBeCloseTo(2.0408, 4)
  })

  it('prorates in a straight line: nothing at the start, half in the middle, all at the end (worked by hand)', () => {
    const record = [0, 15, 30].map((day) => ({ at: day * DAY, value: 400 }))
    const percent = proratedCorrection(record, 0, 30 * DAY, { fouling: 4, drift: 2 }, 'percent')
    expect(percent.map((r) => r.value)).toEqual([400, 412, 424])
    const unit = proratedCorrection(record, 0, 30 * DAY, { fouling: -0.2, drift: 0.1 })
    expect(unit[1]?.value).toBeCloseTo(399.95, 9)
    expect(() => proratedCorrection(record, 0, 20 * DAY, { fouling: 1, drift: 0 })).toThrow(/outside the two visits/)
    expect(() => proratedCorrection(record, 5, 5, { fouling: 1, drift: 0 })).toThrow(/later visit/)
  })

  // TM 1-D3, table 18: excellent / good / fair to 0.2 / 0.5 / 0.8 degC and pH, 3 / 10 / 15 %.
  it.each([
    ['ph', 0.2, 'excellent'],
    ['ph', 0.21, 'good'],
    ['ph', 0.8, 'fair'],
    ['ph', 0.81, 'poor'],
    ['temperature', 0.5, 'good'],
    ['conductivity', 3, 'excellent'],
    ['conductivity', 10, 'good'],
    ['conductivity', 15, 'fair'],
    ['conductivity', 15.1, 'poor'],
  ] as const)('rates %s off by %f as %s', (quantity, size, rating) => {
    expect(rateRecord(quantity, { fouling: -size, drift: 0 })).toBe(rating)
    expect(rateRecord(quantity, { fouling: -size / 2, drift: size / 2 })).toBe(rating)
  })

  it('corrects from the criteria on and does not use what is beyond the limits (tables 16 and 17)', () => {
    expect(recordAction('ph', { fouling: 0.2, drift: 0 })).toBe('use-as-is')
    expect(recordAction('ph', { fouling: 0.3, drift: 0 })).toBe('correct')
    expect(recordAction('ph', { fouling: 2.1, drift: 0 })).toBe('do-not-use')
    // 4 % of 100 uS/cm is less than the 5 uS/cm that are left alone.
    expect(recordAction('conductivity', { fouling: 4, drift: 0 }, 100)).toBe('use-as-is')
    expect(recordAction('conductivity', { fouling: 4, drift: 0 }, 1000)).toBe('correct')
  })

  it('says from when on the data were out of tolerance', () => {
    const spans = (errorThen: number, errorNow: number) =>
      outOfTolerance({ from: 0, to: 100 * DAY, errorThen, errorNow }, 0.1).map((s) => [
        Math.round(s.from / DAY),
        Math.round(s.to / DAY),
        s.largest,
      ])
    expect(spans(0, 0.4)).toEqual([[25, 100, 0.4]])
    expect(spans(0, 0.1)).toEqual([])
    expect(spans(0.2, 0.4)).toEqual([[0, 100, 0.4]])
    // Left out, and come back by itself; from one side to the other.
    expect(spans(0.4, 0)).toEqual([[0, 75, 0.4]])
    expect(spans(-0.3, 0.2)).toEqual([
      [0, 40, -0.3],
      [80, 100, 0.2],
    ])
  })
})

describe('the past of a device that lost its numbers between two visits', () => {
  // Left at 0, drifting 0.001 a day, numbers lost on day 60: 0.5 more at once, so 0.6 is found on day 100.
  const visits = { from: 0, to: 100 * DAY, errorThen: 0, errorNow: 0.6, steps: [{ at: 60 * DAY, shift: 0.5 }] }

  it('is right until the numbers went and off by what they did from then on', () => {
    const raw = [10, 59, 61, 100].map((day) => ({ at: day * DAY, value: 8 }))
    const corrected = correctPast(raw, visits).map((r) => r.value)
    for (const [i, error] of [0.01, 0.059, 0.561, 0.6].entries()) expect(corrected[i]).toBeCloseTo(8 - error, 9)
  })

  it('was out of tolerance from that moment, not from where a straight line would cross', () => {
    expect(outOfTolerance(visits, 0.1)).toEqual([{ from: 60 * DAY, to: 100 * DAY, largest: 0.6 }])
    expect(outOfTolerance({ ...visits, steps: [] }, 0.1)[0]?.from).toBeCloseTo((100 / 6) * DAY, 3)
    // Drift alone was beyond 0.05 before they went: one span, not two that touch.
    const [early, ...more] = outOfTolerance(visits, 0.05)
    expect(early?.from).toBeCloseTo(50 * DAY, 3)
    expect(more).toEqual([])
  })

  it('that had them back before the visit was out in between, by more than was found', () => {
    const back = { ...visits, errorNow: 0.1, steps: [...visits.steps, { at: 70 * DAY, shift: -0.5 }] }
    const [out, ...more] = outOfTolerance(back, 0.2)
    expect(out).toMatchObject({ from: 60 * DAY, to: 70 * DAY })
    expect(out?.largest).toBeCloseTo(0.57, 9)
    // It is rated by that, and without steps by what was found less what was left.
    expect(farthestChange(back)).toBeCloseTo(0.57, 9)
    expect(farthestChange({ ...visits, errorThen: 0.2, errorNow: -0.1, steps: [] })).toBeCloseTo(-0.3, 12)
    expect(more).toEqual([])
    const [inside] = correctPast([{ at: 65 * DAY, value: 8 }], back)
    expect(inside?.value).toBeCloseTo(8 - 0.565, 9)
  })

  it('is what the straight line says where nothing stepped, whatever the errors', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -5, max: 5, noNaN: true }),
        fc.double({ min: -5, max: 5, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (errorThen, errorNow, share) => {
          const [r] = correctPast([{ at: share * 100 * DAY, value: 0 }], {
            from: 0,
            to: 100 * DAY,
            errorThen,
            errorNow,
          })
          return Math.abs((r?.value ?? Number.NaN) + errorThen + share * (errorNow - errorThen)) < 1e-9
        },
      ),
    )
  })

  it('refuses visits out of order and readings outside them', () => {
    expect(() => correctPast([], { ...visits, to: 0 })).toThrow(RangeError)
    expect(() => correctPast([{ at: -1, value: 8 }], visits)).toThrow('outside the two visits')
  })
})

describe('what is proposed after a calibration', () => {
  const evidence = (change: Partial<CalibrationEvidence>): CalibrationEvidence => ({
    findings: [],
    error: 0.08,
    uncertainty: 0.02,
    tolerance: 0.1,
    scale: { unit: 'pH', decimals: 2 },
    cleaned: true,
    repeated: false,
    worn: null,
    ...change,
  })
  const finding = (code: Finding['code']): Finding => ({
    code,
    severity: 'warn',
    sentence: 'Seen.',
    advice: 'Repeat.',
    numbers: {},
  })

  it('believes a large change that was measured twice, and no standard that expired, however often', () => {
    for (const [code, then] of [
      ['change-larger-than-drift', 'adjust'],
      ['lot-expired', 'repeat'],
    ] as const) {
      const seen = { findings: [finding(code)] }
      expect(proposeAfterCalibration(evidence(seen)).decision).toBe('repeat')
      expect(proposeAfterCalibration(evidence({ ...seen, repeated: true, doubted: [code] })).decision, code).toBe(then)
      const other = { ...seen, repeated: true, doubted: ['slope-high'] as const }
      expect(proposeAfterCalibration(evidence(other)).decision).toBe('repeat')
    }
  })

  it('names the error of a sample apart from that at the process value only where they read differently', () => {
    const reason = (atSample: number) => render(proposeAfterCalibration(evidence({ atSample })).reason)
    expect(reason(0.0849)).toMatch(/^It reads 0\.08/)
    expect(reason(0.09)).toMatch(/^In the sample it reads 0\.09\spH too high\. It reads 0\.08/)
    expect(reason(-0.08)).toMatch(/^In the sample it reads 0\.08\spH too low/)
  })

  it('never adjusts by a rule what is never adjusted', () => {
    const sound = { error: 0.01, routine: true }
    expect(proposeAfterCalibration(evidence(sound)).decision).toBe('adjust')
    expect(proposeAfterCalibration(evidence({ ...sound, neverAdjust: true })).decision).toBe('leave-alone')
  })
})

describe('agreement', () => {
  const m = (value: number, uncertainty = 0.1) => ({ value, uncertainty })

  it('has En of the textbook: 0.3 apart with 0.3 and 0.4 is 0.6 (ISO 13528)', () => {
    expect(normalisedError(m(10.3, 0.3), m(10, 0.4))).toBeCloseTo(0.6, 9)
    expect(() => normalisedError(m(1, 0), m(2, 0))).toThrow(OutOfRange)
  })

  it('names the odd one out of three, but not of two, nor where two could be it', () => {
    expect(compareResults([m(8.1), m(8.12), m(8.5)])).toMatchObject({ agree: false, odd: 2 })
    expect(compareResults([m(8.1), m(8.5)])).toMatchObject({ agree: false, odd: null, consensus: null })
    expect(compareResults([m(8.0), m(8.1), m(8.2)])).toMatchObject({ agree: false, odd: null })
    expect(compareResults([m(8.1), m(8.15)])).toMatchObject({ agree: true, odd: null })
  })

  it('weighs the better known one more', () => {
    const mean = weightedMean([m(8, 0.1), m(9, 0.2)])
    expect(mean.value).toBeCloseTo(8.2, 9)
    expect(mean.uncertainty).toBeCloseTo(1 / Math.sqrt(125), 9)
  })
})

it('a reading at the point of use is less certain than its calibration, by each condition', () => {
  const point = (bufferCode: string, millivolts: number) => ({
    bufferCode,
    millivolts,
    millivoltsUncertainty: 0.8,
    temperature: 25,
  })
  const calibration = calibratePhTwoPoint(point('pH7.00', 0), point('pH10.01', -172))
  const still = { repeatability: 0, displayStep: 0, temperatureUncertainty: 0, driftSince: 0 }
  const bare = phReadingBudget(calibration, 8.1, 25, still).uncertainty
  const used = phReadingBudget(calibration, 8.1, 25, {
    repeatability: 0.02,
    displayStep: 0.01,
    temperatureUncertainty: 0.5,
    driftSince: 0.05,
  })
  expect(used.uncertainty ** 2).toBeCloseTo(
    bare ** 2 + 0.02 ** 2 + (1.959964 * 0.01) ** 2 / 12 + ((1.1 / 298.15) * 0.5) ** 2 + 0.05 ** 2,
    8,
  )
  expect(used.contributions).toHaveLength(5)
})

it('a reading at the point of use scatters as stated, by the Monte Carlo method (JCGM 101:2008), within 3 %', () => {
  const random = randomStream(21)
  const electrode = { zero: -6, slopeEfficiency: 0.95 }
  const points = [phPoint('pH7.00', -6, 0.95, 22), phPoint('pH10.01', -6, 0.95, 22)] as const
  const use = { repeatability: 0.02, displayStep: 0.05, temperatureUncertainty: 2, driftSince: 0.03 }
  const stated = phReadingBudget(calibratePhTwoPoint(...points), 8.6, 28, use).uncertainty
  const signal = phToMillivolts(8.6, 28, electrode)
  const shown = Array.from({ length: 20_000 }, () => {
    // Everything strays by what is stated: the calibration's points, then the reading.
    const [first, second] = points.map((p) => ({
      ...p,
      millivolts:
        p.millivolts +
        (1 / Z95) * random.normal() +
        0.01 * random.normal() * nernstSlope(22) * electrode.slopeEfficiency,
      temperature: 22 + (0.5 / Z95) * random.normal(),
    }))
    const calibration = calibratePhTwoPoint(first as (typeof points)[0], second as (typeof points)[1])
    const read = millivoltsToPh(signal, 28 + (2 / Z95) * random.normal(), calibration)
    return read + (0.02 / Z95) * random.normal() + (0.03 / Z95) * random.normal() + 0.05 * (random.uniform() - 0.5)
  })
  const mean = shown.reduce((a, b) => a + b, 0) / shown.length
  const sd = Math.sqrt(shown.reduce((a, b) => a + (b - mean) ** 2, 0) / (shown.length - 1))
  expect(Math.abs((Z95 * sd) / stated - 1)).toBeLessThan(0.03)
})
