import { describe, expect, it } from 'vitest'
import { plain } from '../../../lab/src/fixtures/plain.ts'
import { testSetup } from '../../../lab/src/fixtures/testSetup.ts'
import { modelOf, procedureOf } from '../kinds/index.ts'
import { PH_TWO_POINT } from '../kinds/ph/procedures.ts'
import type { ReadingSource } from '../measurement/capturedReading.ts'
import type { CalibrationParameters } from '../measurement/measurementModel.ts'
import { tellable } from '../measurement/wholeCalibration.ts'
import { randomStream } from '../statistics/random.ts'
import { entrySentence } from '../visits/recordSentences.ts'
import { assumedTemperature } from '../visits/typing.ts'
import { reduceVisit, type VisitEntry } from '../visits/visitReducer.ts'
import { observationOf } from '../visits/visitView.ts'
import { heldFields, heldFor, statedHeld } from './heldCalibration.ts'
import type { Procedure } from './procedure.ts'
import type { Setup } from './setup.ts'
import type { Step } from './step.ts'

const MODEL = modelOf('ph')
const T = 25
const UNKNOWN = ['slopeEfficiency', 'zero']

interface Truth {
  sensor: CalibrationParameters
  held: CalibrationParameters
}

/** What device and sensor of a truth give in the two buffers, as the device of the setup lets it be read. */
function readings(
  { sensor, held }: Truth,
  { source, believed = MODEL.ideal }: { source: ReadingSource; believed?: CalibrationParameters },
): VisitEntry[] {
  return ['pH7.00', 'pH10.01'].map((code, i) => {
    const value = MODEL.standardValue(code, T, {})
    const truth = MODEL.signalOf(value, T, sensor, {})
    const shown = MODEL.toShown(truth, T, held, {})
    const isDisplay = source === 'display-typed'
    return {
      type: 'captured',
      step: `point-${i + 1}`,
      reading: {
        source,
        signal: isDisplay ? MODEL.fromShown(shown, T, believed, {}) : truth,
        signalUncertainty: 0.3,
        temperature: T,
        shown: source === 'signal-typed' && believed !== MODEL.ideal ? null : shown,
        stability: { state: 'stable', reason: 'not-noted', seconds: 60, confidence: 0.9 },
        trace: [],
        signature: null,
        standard: { code, value, lot: null, expired: false, openTooLong: false, daysOver: 0 },
      },
    } as VisitEntry
  })
}

const setupOf = (change: Partial<Setup>, procedure: Procedure = PH_TWO_POINT) =>
  testSetup(procedure, 'ph', { linked: false, shows: 'value', processTemperature: T, adjustsBy: 'key', ...change })

const visitOf = (setup: Setup, entries: readonly VisitEntry[]) =>
  reduceVisit(
    PH_TWO_POINT,
    setup,
    0,
    entries.map((entry, at) => ({ at, entry })),
  ).evidence

/** Sensors and devices as they are met: the device still holds the calibration of another sensor. */
const truths = (n: number): Truth[] => {
  const random = randomStream(35)
  const one = () => ({ slopeEfficiency: 0.88 + 0.13 * random.uniform(), zero: 50 * (random.uniform() - 0.5) })
  return Array.from({ length: n }, () => ({ sensor: one(), held: one() }))
}

describe('a device that was at work before, and nobody knows its calibration', () => {
  it('its display tells its own errors exactly, and nothing of slope and zero', () => {
    for (const truth of truths(40)) {
      const e = visitOf(setupOf({ unknownParameters: UNKNOWN }), readings(truth, { source: 'display-typed' }))
      const judged = PH_TWO_POINT.judge(e, 'result')
      const error = MODEL.errorAt(truth.sensor, truth.held, { value: 8.2, temperature: T }, {})
      expect(judged?.errorNow).toBeCloseTo(error, 9)
      expect(judged?.figures.map((f) => f.label)).toEqual(['As found, at the process', 'Now, before any change'])
      expect(judged?.findings.map((f) => f.code)).toEqual(['calibration-unknown'])
      expect(['leave-alone', 'adjust']).toContain(judged?.proposal.decision)
    }
  })

  it('numbers for it cannot be worked out; its own key can be pressed', () => {
    const [truth] = truths(1) as [Truth]
    const choices = (adjustsBy: Setup['adjustsBy']) =>
      PH_TWO_POINT.judge(
        visitOf(setupOf({ unknownParameters: UNKNOWN, adjustsBy }), readings(truth, { source: 'display-typed' })),
        'result',
      )?.choices
    expect(choices('numbers')).not.toContain('adjust')
    expect(choices('key')).toContain('adjust')
    const known = setupOf({ activeCalibration: truth.held, adjustsBy: 'numbers' })
    const judged = PH_TWO_POINT.judge(
      visitOf(known, readings(truth, { source: 'display-typed', believed: truth.held })),
      'result',
    )
    expect(judged?.choices).toContain('adjust')
    expect(judged?.found?.characteristic.zero).toBeCloseTo(truth.sensor.zero as number, 6)
  })

  it('where value and millivolts are read, the errors are those of the display, and the sensor is known', () => {
    for (const truth of truths(40)) {
      const setup = setupOf({ unknownParameters: UNKNOWN, shows: 'signal', adjustsBy: 'numbers' })
      const judged = PH_TWO_POINT.judge(visitOf(setup, readings(truth, { source: 'signal-typed' })), 'result')
      const error = MODEL.errorAt(truth.sensor, truth.held, { value: 8.2, temperature: T }, {})
      expect(judged?.errorNow).toBeCloseTo(error, 6)
      expect(judged?.found?.characteristic.zero).toBeCloseTo(truth.sensor.zero as number, 6)
      expect(judged?.findings.map((f) => f.code)).not.toContain('calibration-unknown')
    }
  })

  it('what it showed counts, not what it is believed to hold', () => {
    const [truth] = truths(1) as [Truth]
    const setup = setupOf({ shows: 'signal', adjustsBy: 'numbers' })
    const judged = PH_TWO_POINT.judge(visitOf(setup, readings(truth, { source: 'signal-typed' })), 'result')
    const error = MODEL.errorAt(truth.sensor, truth.held, { value: 8.2, temperature: T }, {})
    expect(judged?.errorNow).toBeCloseTo(error, 6)
  })

  it('millivolts alone tell no error, until the device has its numbers', () => {
    const [truth] = truths(1) as [Truth]
    const setup = setupOf({ unknownParameters: UNKNOWN, shows: 'signal', adjustsBy: 'numbers' })
    const lines = readings(truth, { source: 'signal-typed', believed: truth.held })
    const judged = PH_TWO_POINT.judge(visitOf(setup, lines), 'result')
    expect([judged?.errorNow, judged?.asFoundError, judged?.proposal.decision]).toEqual([null, null, 'adjust'])
    expect(observationOf(PH_TWO_POINT, visitOf(setup, lines))).toBeNull()
    const applied: VisitEntry = {
      type: 'applied',
      way: 'keyed',
      characteristic: judged?.found?.characteristic ?? {},
      readBack: null,
      shownAfter: null,
    }
    expect(observationOf(PH_TWO_POINT, visitOf(setup, [...lines, applied]))).toMatchObject({
      asFound: null,
      asLeft: 0,
      adjusted: true,
    })
  })
})

it('its record says what was shown, and no millivolts, slope or zero that nobody knows', () => {
  const [truth] = truths(1) as [Truth]
  const given: VisitEntry = {
    type: 'applied',
    way: 'key',
    characteristic: { slopeEfficiency: 1.06, zero: -14 },
    readBack: null,
    shownAfter: null,
  }
  const said = (unknownParameters?: readonly string[]) => {
    const lines = [...readings(truth, { source: 'display-typed' }), given]
    const e = visitOf(setupOf(unknownParameters ? { unknownParameters } : {}), lines)
    return lines.map((entry) => plain(entrySentence(entry, new Map(), e))).join('; ')
  }
  expect(said()).toMatch(/shows pH .* mV.*slope 106\.0 %, zero .14\.0 mV/)
  expect(said(UNKNOWN)).toMatch(/shows pH .*Calibrated itself by its own key$/)
  expect(said(UNKNOWN)).not.toMatch(/mV|slope|zero/)
})

describe('the temperature of a cup that is not typed', () => {
  it('is that of the cup before, within one level', () => {
    const at = (step: string, temperature: number) => {
      const [entry] = readings({ sensor: MODEL.ideal, held: MODEL.ideal }, { source: 'display-typed' })
      const { reading } = entry as Extract<VisitEntry, { type: 'captured' }>
      return { type: 'captured', step, reading: { ...reading, temperature } } as VisitEntry
    }
    const e = visitOf(setupOf({}), [at('point-1', 21.4)])
    const step = (change: Partial<Step>) => ({ key: 'point-2', medium: 'standard', role: 'second', ...change }) as Step
    expect(assumedTemperature(e, step({}))).toEqual({ value: 21.4, from: 'earlier' })
    expect(assumedTemperature(e, step({ medium: 'air', role: undefined }))).toEqual({ value: 21.4, from: 'earlier' })
    // After warming the cups before tell nothing.
    expect(assumedTemperature(e, step({ key: 'point-3', sameLevel: ['point-3', 'point-4'] }))).toBeNull()
    const warm = visitOf(setupOf({}), [at('point-1', 21.4), at('point-3', 27.9)])
    expect(assumedTemperature(warm, step({ key: 'point-4', sameLevel: ['point-3', 'point-4'] }))?.value).toBe(27.9)
  })
})

describe('what is known of a calibration', () => {
  it('an unknown zero hides the zero; an unknown slope hides both', () => {
    const c = { slopeEfficiency: 0.97, zero: -4 }
    expect(tellable(c, [])).toEqual(c)
    expect(tellable(c, ['zero'])).toEqual({ slopeEfficiency: 0.97 })
    expect(tellable(c, ['slopeEfficiency'])).toEqual({})
    expect(tellable({ factor: 1.04, zero: 2 }, ['zero'])).toEqual({ factor: 1.04 })
    expect(tellable({ gain: 1.04, offset: 2 }, ['gain', 'offset'])).toEqual({})
    expect(tellable({ gain: 1.04, offset: 2 }, ['offset'])).toEqual({ gain: 1.04 })
  })

  it('a device without a calibration of its own, and a bare signal, leave nothing unknown', () => {
    const of = (change: object) =>
      heldFor(MODEL, {}, { adjustsBy: 'key', linked: false, ...change } as Setup).unknownParameters
    expect(of({})).toEqual(UNKNOWN)
    expect(of({ adjustsBy: 'nothing' })).toBeUndefined()
    expect(of({ linked: true, gives: 'signal' })).toBeUndefined()
    expect(heldFor(MODEL, { slopeEfficiency: 0.96 }, setupOf({}))).toEqual({
      activeCalibration: { ...MODEL.ideal, slopeEfficiency: 0.96 },
      unknownParameters: ['zero'],
    })
  })

  it('it is asked before the visit; not to know it is an answer', () => {
    const fields = heldFields(MODEL, UNKNOWN)
    expect(fields.map((f) => [f.key, f.usual])).toEqual([
      ['held', 'unknown'],
      ['held-slopeEfficiency', undefined],
      ['held-zero', undefined],
    ])
    expect(heldFields(MODEL, [])).toEqual([])
    expect(statedHeld(MODEL, { held: 'unknown' })).toEqual({})
    expect(statedHeld(MODEL, { held: 'default' })).toEqual(MODEL.ideal)
    expect(statedHeld(MODEL, { held: 'menu', 'held-slopeEfficiency': 96, 'held-zero': -7 })).toEqual({
      slopeEfficiency: 0.96,
      zero: -7,
    })
  })

  it('a cell of an unknown factor is off by what its display shows', () => {
    const procedure = procedureOf('conductivity-one-point')
    const model = modelOf('conductivity')
    const value = model.standardValue('kcl-12.88', T, {})
    const setup = testSetup(procedure, 'conductivity', {
      linked: false,
      shows: 'value',
      unknownParameters: ['factor', 'zero'],
      adjustsBy: 'key',
    })
    const entry = {
      ...(readings({ sensor: MODEL.ideal, held: MODEL.ideal }, { source: 'display-typed' })[0] as object),
    } as Extract<VisitEntry, { type: 'captured' }>
    const reading = {
      ...entry.reading,
      signal: value * 1.1,
      shown: 1.1 * value,
      signalUncertainty: 10,
      standard: { ...entry.reading.standard, code: 'kcl-12.88', value },
    } as typeof entry.reading
    const { evidence } = reduceVisit(procedure, setup, 0, [{ at: 0, entry: { ...entry, reading } }])
    const judged = procedure.judge(evidence, 'result')
    expect(judged?.errorNow).toBeCloseTo(10, 1)
    expect(judged?.figures.map((f) => f.label)).not.toContain('Cell factor')
  })
})
