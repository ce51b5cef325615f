import { describe, expect, it } from 'vitest'
import { testSetup } from '../../../lab/src/fixtures/testSetup.ts'
import { procedureOf, sensorKinds } from '../kinds/index.ts'
import type { SensorKind } from '../measurement/sensorKind.ts'
import type { Setup } from '../procedures/setup.ts'
import type { Step } from '../procedures/step.ts'
import type { StabilityOpinion } from '../stability/opinion.ts'
import { type Capturable, captureReading } from './captureReading.ts'
import { JudgedScale } from './judgedScale.ts'
import { VisitRefusal } from './refusal.ts'
import { completeReading, manualReading, withTemperature } from './stepReading.ts'
import { expectedSignal, hasArrived, type StepSetting, standardValueAt } from './stepSetting.ts'
import { Trace } from './trace.ts'
import { ROOM_TEMPERATURE } from './typing.ts'
import { reduceVisit } from './visitReducer.ts'

const T = 25
/** Slope at 25 °C, mV: R T ln(10) / F. */
const NERNST = 59.159

const PROCEDURE: Partial<Record<SensorKind, string>> = { ph: 'ph-two-point' }

/** The setting of a step in a standard, in the water, or in air. */
function settingOf(change: Partial<Setup> = {}, step: Partial<Step> = {}, kind: SensorKind = 'ph'): StepSetting {
  const procedure = procedureOf(PROCEDURE[kind] ?? 'compare')
  const setup = testSetup(procedure, kind, { processTemperature: T, ...change })
  const { evidence } = reduceVisit(procedure, setup, 0, [])
  const capture = { key: 'point-1', kind: 'capture', medium: 'standard', role: 'first', ...step } as Step
  return { step: capture, procedure, evidence, past: [] }
}

describe('the scale of a step', () => {
  it.each(sensorKinds())('leads back to the signal, for %s, whether it or the display is judged', (kind) => {
    for (const shows of ['signal', 'value'] as const) {
      for (const linked of [true, false]) {
        const setting = settingOf({ shows, linked }, { medium: 'process' }, kind)
        const scale = new JudgedScale(setting)
        const signal = expectedSignal(setting)
        expect(scale.toSignal(scale.fromSignal(signal, T), T, Number.NaN)).toBeCloseTo(signal, 6)
      }
    }
  })

  it('is millivolts for a pH electrode over a connection, and pH for a display alone', () => {
    const connected = new JudgedScale(settingOf({ linked: true, shows: 'value', gives: 'both' }))
    expect([connected.scale.unit, connected.isDisplay]).toEqual(['mV', false])
    expect(connected.fromSignal(-100, T)).toBeCloseTo(-100, 9)
    const display = new JudgedScale(settingOf({ linked: false, shows: 'value' }))
    expect([display.scale.unit, display.isDisplay, display.rounding]).toEqual(['pH', true, 0.01])
    // By Nernst: 100 mV above neutral is 100 / 59.16 below pH 7.
    expect(display.fromSignal(100, T)).toBeCloseTo(7 - 100 / NERNST, 3)
    expect(display.signalWidth(0.01, 0, T)).toBeCloseTo(0.01 * NERNST, 3)
  })

  it('a displayed value is taken as it is shown', () => {
    const display = new JudgedScale(settingOf({ linked: false, shows: 'value' }))
    expect(display.ofReading({ shown: 7.04, signal: -1, temperature: T })).toBe(7.04)
  })

  it('the same solution has another signal at another temperature', () => {
    const scale = new JudgedScale(settingOf({ linked: true, gives: 'both' }))
    // The slope is proportional to the absolute temperature.
    expect(scale.atTemperature(-177.5, 25, 35)).toBeCloseTo((-177.5 * (273.15 + 35)) / (273.15 + 25), 3)
    expect(scale.atTemperature(-177.5, 25, 25)).toBe(-177.5)
  })
})

describe('a sensor in its solution', () => {
  const setting = settingOf({ linked: true, gives: 'both' })
  const first = new JudgedScale(setting).signalBehind(standardValueAt(setting, T) as number, T) as number

  it('has arrived once it has moved, or reads what is expected', () => {
    expect(hasArrived(setting, first, first, T)).toBe(true)
    expect(hasArrived(setting, first + 150, first + 150, T)).toBe(false)
    expect(hasArrived(setting, first + 100, first + 150, T)).toBe(true)
  })

  it('is expected at the signal of the standard in a room', () => {
    const value = standardValueAt(setting, ROOM_TEMPERATURE) as number
    const slope = (NERNST * (ROOM_TEMPERATURE + 273.15)) / (T + 273.15)
    expect(expectedSignal(setting)).toBeCloseTo(-slope * (value - 7), 3)
  })
})

describe('a reading', () => {
  const setting = settingOf({ linked: true, shows: 'value', gives: 'value' }, { medium: 'process' })
  const scale = new JudgedScale(setting)
  const read = { at: 1, signal: null, temperature: null, shown: 4, resistances: undefined } as never

  it('whose temperature is missing is completed with what was entered, and its signal worked out again', () => {
    const warm = completeReading(read, setting, scale, { value: 35, from: 'device' })
    expect(warm).toMatchObject({ temperature: 35, temperatureFrom: { from: 'device' }, source: 'line-display' })
    const room = completeReading(read, settingOf({ linked: true, gives: 'value' }), scale, null)
    const entered = room && withTemperature(room, { value: 35, from: 'device' }, scale)
    expect(entered?.signal).toBeCloseTo(warm?.signal ?? 0, 9)
    expect(entered).not.toHaveProperty('guessed')
  })

  it('that tells nothing is none', () => {
    expect(completeReading({ ...(read as object), shown: null } as never, setting, scale, null)).toBeNull()
  })

  it('by hand is the display, or the millivolts where the device shows those', () => {
    const sample = { at: 1, value: 4, shown: 4.1, temperature: T } as never
    expect(manualReading(sample, scale)).toMatchObject({ shown: 4 })
    const millivolts = new JudgedScale(settingOf({ linked: false, shows: 'signal' }))
    expect(manualReading(sample, millivolts)).toMatchObject({ shown: 4.1, signal: 4 })
  })
})

describe('a capture', () => {
  const opinion = { state: 'stable', reason: 'known', elapsed: 61.4, confidence: 96.6 } as StabilityOpinion
  const ready: Capturable = {
    setting: settingOf({ linked: true, gives: 'both' }),
    latest: { at: 1, signal: -1, temperature: T, shown: 7.01 },
    opinion,
    end: { signal: -1.2, noise: 0.1, uncertainty: 0.4 },
    finding: null,
    isManual: false,
    isTaken: true,
    lacksTemperature: false,
    isStale: false,
    mostUncertain: () => 10,
    source: 'line',
    trace: Array.from({ length: 500 }, (_, i) => [i, i] as [number, number]),
    signature: null,
  }
  const refusal = (change: Partial<Capturable>) => {
    try {
      captureReading({ ...ready, ...change })
    } catch (error) {
      if (error instanceof VisitRefusal) return error.refusal.code
      throw error
    }
    return null
  }

  it('keeps the end, its uncertainty, the standard and at most 80 points, from the first to the last', () => {
    const captured = captureReading(ready)
    expect(captured).toMatchObject({
      signal: -1.2,
      signalUncertainty: 0.4,
      noise: 0.1,
      stability: { state: 'stable', seconds: 61, confidence: 97 },
      standard: { code: ready.setting.evidence.setup.standards.first?.code },
    })
    expect(captured.trace).toHaveLength(80)
    expect([captured.trace[0], captured.trace.at(-1)]).toEqual([
      [0, 0],
      [499, 499],
    ])
    expect(captureReading({ ...ready, mostUncertain: () => 0.2 }).signalUncertainty).toBe(0.2)
  })

  it('of a frozen moment keeps the reading itself, three times its noise uncertain', () => {
    const setting = settingOf({ linked: true }, { medium: 'process', freezes: true })
    expect(captureReading({ ...ready, setting })).toMatchObject({
      signal: -1,
      signalUncertainty: expect.closeTo(0.3, 9),
    })
  })

  it.each([
    ['no-reading', { latest: null }],
    ['blind', { isStale: true }],
    ['not-stable', { isTaken: false }],
    ['temperature-needed', { lacksTemperature: true }],
    ['temperature-outside', { latest: { at: 1, signal: -1, temperature: 95, shown: 7 } }],
  ] as const)('is refused: %s', (code, change) => {
    expect(refusal(change)).toBe(code)
  })

  it('that is too early needs a reason; a manual one is neither late nor without a temperature', () => {
    expect(refusal({ isTaken: false, earlyReason: 'in a hurry' })).toBeNull()
    expect(refusal({ isStale: true, lacksTemperature: true, isManual: true })).toBeNull()
    expect(captureReading({ ...ready, isManual: true })).not.toHaveProperty('noise')
  })

  it('against a finding that says stop needs a reason, too', () => {
    const finding = { severity: 'stop', sentence: 'It is the wrong cup.', advice: 'Change it.' } as never
    expect(refusal({ finding })).toBe('not-stable')
    expect(refusal({ finding, earlyReason: 'it is the right one' })).toBeNull()
  })
})

it('a trace is sent once, and its older half is thinned out', () => {
  const trace = new Trace()
  for (let t = 0; t < 10; t++) trace.push(t, t)
  expect(trace.fresh()).toHaveLength(10)
  trace.push(10.004, 1)
  expect(trace.fresh()).toEqual([[10, 1]])
  expect(trace.fresh()).toEqual([])
  for (let t = 11; t < 1201; t++) trace.push(t, t)
  expect(trace.points.length).toBeLessThan(1200)
  expect([trace.points[0]?.[0], trace.points.at(-1)?.[0]]).toEqual([0, 1200])
  expect(trace.points.slice(-500).every(([t], i, all) => i === 0 || t - (all[i - 1]?.[0] ?? 0) === 1)).toBe(true)
})
