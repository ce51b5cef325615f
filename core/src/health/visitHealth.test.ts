import { describe, expect, it } from 'vitest'
import { CONDUCTIVITY } from '../kinds/conductivity/index.ts'
import { ION } from '../kinds/ion/index.ts'
import { PH } from '../kinds/ph/index.ts'
import type { CapturedReading } from '../measurement/capturedReading.ts'
import { diagnose } from './diagnose.ts'
import { evidenceOf } from './evidence.ts'
import type { HealthTraits } from './healthTraits.ts'
import type { HealthVisit } from './healthVisit.ts'
import { type ClosedVisit, type HealthSensor, healthVisits } from './visitHealth.ts'

const DAY = 86_400_000
const SOUND = { zero: -4, slopeEfficiency: 0.98 }
const TANK: HealthSensor = {
  traits: PH.health,
  model: PH.model,
  processValue: 8.1,
  processTemperature: 25,
  tolerance: 0.1,
  device: {},
}

const reading = (ph: number, over: Partial<CapturedReading> = {}): CapturedReading => ({
  signal: PH.model.signalOf(ph, 25, SOUND, {}),
  source: 'line',
  signalUncertainty: 0.3,
  temperature: 25,
  shown: ph,
  stability: { state: 'stable', reason: 'known', seconds: 40, confidence: 97 },
  trace: [],
  signature: null,
  ...over,
})
const inBuffer = (code: string, value: number, over: Partial<CapturedReading> = {}) =>
  reading(value, { standard: { code, value, lot: null, expired: false, openTooLong: false, daysOver: 0 }, ...over })

const visit = (day: number, over: Partial<ClosedVisit> = {}): ClosedVisit => ({
  at: day * DAY,
  readings: [],
  characteristic: SOUND,
  codes: [],
  asLeft: 0,
  compared: null,
  shift: null,
  numbersChanged: null,
  ...over,
})
const evidence = (seen: ClosedVisit[]) =>
  evidenceOf({
    traits: PH.health,
    visits: healthVisits(TANK, seen),
    events: [],
    installedAt: 0,
    now: (seen.at(-1)?.at ?? 0) + DAY,
    tests: {},
  })
const last = (sensor: HealthSensor, seen: ClosedVisit[]) => healthVisits(sensor, seen).at(-1)

describe('what a visit tells of a sensor’s health', () => {
  it('takes the slope from the standards where they gave no calibration, and none where they were swapped', () => {
    const millivolts = (first: number, second: number) =>
      last(TANK, [
        visit(0, {
          characteristic: null,
          readings: [
            { step: 'found-first', reading: inBuffer('pH7.00', 7, { signal: 99 }) },
            { step: 'first', reading: inBuffer('pH7.00', 7, { signal: first }) },
            { step: 'second', reading: inBuffer('pH10.01', 10.01, { signal: second }) },
          ],
        }),
      ])?.slope
    // 59.16 mV a pH at 25 °C (Nernst): of 178.07 mV over 3.01 pH a tenth is left.
    expect(millivolts(10, 10 - 17.807)).toBeCloseTo(0.1, 3)
    expect(millivolts(-168, 10)).toBeNull()
    expect(millivolts(10, 10)).toBeCloseTo(0, 12)
    // A tenth of a pH apart, a millivolt would be a sixth of the slope.
    const near = [
      { step: 'first', reading: inBuffer('pH7.00', 7) },
      { step: 'second', reading: inBuffer('6.865', 6.865) },
    ]
    expect(last(TANK, [visit(0, { characteristic: null, readings: near })])?.slope).toBeNull()
  })

  it('sees one restless standard among quiet ones, and that cleaning made it quick', () => {
    const at = (step: string, noise: number, seconds: number, code = 'pH7.00', value = 7) => ({
      step,
      reading: inBuffer(code, value, {
        noise,
        stability: { state: 'stable', reason: 'known', seconds, confidence: 97 },
      }),
    })
    const readings = [at('found-first', 0.1, 180), at('first', 0.1, 60), at('second', 0.9, 50, 'pH10.01', 10.01)]
    const told = last(TANK, [visit(0, { readings })])
    expect(told?.noiseApart).toBeCloseTo(9, 12)
    expect(told?.fasterAfterCleaning).toBeCloseTo(3, 12)
    const evidence = evidenceOf({
      traits: PH.health,
      visits: healthVisits(TANK, [visit(0, { readings })]),
      events: [],
      installedAt: 0,
      now: 30 * DAY,
      tests: {},
    })
    expect(evidence).toMatchObject({ noiseApart: 'one alone', cleaning: 'helps' })
    // Where it was noted when the end was known, that counts, however long was waited for rest.
    const waited = readings.map(({ step, reading: r }) => ({
      step,
      reading: { ...r, stability: { ...r.stability, knownAfter: 30, seconds: 30 + r.stability.seconds } },
    }))
    expect(last(TANK, [visit(0, { readings: waited })])).toMatchObject({ fasterAfterCleaning: 1, settlingSeconds: 30 })
    // What a person typed has no pace of its own.
    const typed = readings.map(({ step, reading: r }) => ({
      step,
      reading: { ...r, source: 'display-typed' as const },
    }))
    expect(last(TANK, [visit(0, { readings: typed })])?.fasterAfterCleaning).toBeNull()
  })

  it('takes noise from standards and from the process apart, and leaves typed readings out', () => {
    const told = last(TANK, [
      visit(0, {
        readings: [
          { step: 'found-process', reading: reading(8.1, { noise: 0.9 }) },
          { step: 'point-1', reading: inBuffer('pH7.00', 7, { noise: 0.1 }) },
          { step: 'point-2', reading: inBuffer('pH10.01', 10.01, { noise: 0.2 }) },
          { step: 'back', reading: reading(8.1, { noise: 1.1 }) },
        ],
      }),
    ])
    expect(told?.noise).toBeCloseTo(0.15, 12)
    expect(told?.processNoise).toBeCloseTo(1, 12)
    expect(
      last(TANK, [visit(0, { readings: [{ step: 'point-1', reading: inBuffer('pH7.00', 7) }] })])?.noise,
    ).toBeNull()
  })

  it('sees the tank alone trembling, and not a cable that trembles in the beaker too', () => {
    const month = (i: number, beaker: number, tank: number) =>
      visit(30 * i, {
        readings: [
          { step: 'point-1', reading: inBuffer('pH7.00', 7, { noise: beaker }) },
          { step: 'back', reading: reading(8.1, { noise: tank }) },
        ],
      })
    const answers = (seen: ClosedVisit[]) =>
      evidenceOf({
        traits: PH.health,
        visits: healthVisits(TANK, seen),
        events: [],
        installedAt: -100 * DAY,
        now: 130 * DAY,
        tests: {},
      })
    const calm = [0, 1, 2, 3].map((i) => month(i, 0.1, 0.15))
    expect(answers([...calm, month(4, 0.1, 1.5)])).toMatchObject({
      noise: 'usual',
      tankNoise: 'restless there',
    })
    const cable = answers([...calm, month(4, 2, 3)])
    expect(cable.noise).toBe('restless this time')
    expect(cable.tankNoise).toBe('as in the standards')
    expect(answers([...calm, month(4, 0.1, 0.2)]).tankNoise).toBe('as in the standards')
  })

  it('holds a hand meter in the tank against the standards of a calibration not long before', () => {
    const compared = (day: number, error: number) =>
      last(TANK, [
        visit(0, { asLeft: 0.02 }),
        visit(day, { asLeft: null, characteristic: null, compared: { error, uncertainty: 0.05 } }),
      ])?.tankAlone
    // 0.42 off in the tank, 0.02 of it known from the standards, 0.05 the meter's own: 0.35 of 0.1.
    expect(compared(5, 0.42)).toBeCloseTo(3.5, 9)
    expect(compared(5, 0.05)).toBe(0)
    expect(compared(45, 0.42)).toBeNull()
  })

  it('tells by tank and standards of a visit which of them moved', () => {
    /** A water that wanders a little; at the last visit its reading and the zero by the standards moved so much, mV. */
    const answer = (tankMoved: number, standardsMoved: number) => {
      const at = (i: number, tank: number, zero: number) =>
        visit(30 * i, {
          characteristic: { ...SOUND, zero },
          readings: [{ step: 'back', reading: reading(8.1 + 0.05 * (-1) ** i, { signal: SIGNAL + tank }) }],
        })
      const seen = [...[0, 1, 2, 3].map((i) => at(i, 3 * (-1) ** i, -4)), at(4, tankMoved, -4 + standardsMoved)]
      return evidence(seen).beakerAndTank
    }
    const SIGNAL = PH.model.signalOf(8.1, 25, SOUND, {})
    // What befell the sensor is in both; what befell only one of them is in that one.
    expect(answer(0, 0)).toBe('agree')
    expect(answer(-30, -30)).toBe('agree')
    expect(answer(60, 0)).toBe('only the tank is wrong')
    expect(answer(0, 30)).toBe('only the standards are off')
    // Half a pH is what a tank does by itself.
    expect(answer(-12, 0)).toBe('agree')
    expect(last(TANK, [visit(0, { codes: ['beaker-right-tank-wrong'] })])?.tankAlone).toBe(2)
  })

  it('tells what moved of its readings in standards: the sensor, one standard, or one reading', () => {
    const moved = (before: number, first: number, second: number, back: number) =>
      evidence([
        visit(0),
        visit(30, {
          readings: (
            [
              ['found-first', 'pH7.00', 7, before],
              ['first', 'pH7.00', 7, first],
              ['second', 'pH10.01', 10.01, second],
              ['back-first', 'pH7.00', 7, back],
            ] as const
          ).map(([step, code, value, by]) => ({
            step,
            reading: inBuffer(code, value, { signal: PH.model.signalOf(value, 25, SOUND, {}) + by }),
          })),
        }),
      ]).whatMoved
    expect(moved(15, 15.5, 14.6, 15.2)).toBe('every reading')
    expect(moved(12, 12.3, 0.2, 11.8)).toBe('one standard')
    expect(moved(0.3, 14, 0.2, -0.4)).toBe('one reading')
    // Nothing moved: nothing to tell, and a lost slope is the sensor's.
    expect(moved(0.2, -0.3, 0.1, 0.4)).toBeUndefined()
    expect(moved(0, 15, 30, 15)).not.toBe('one standard')
  })

  it('reads resistances as multiples of what they were when new, the glass brought to 25 °C', () => {
    const at = (day: number, temperature: number, glass: number, junction: number) =>
      visit(day, {
        readings: [
          { step: 'point-1', reading: inBuffer('pH7.00', 7, { temperature, resistances: { glass, junction } }) },
        ],
      })
    // 7.5 degC colder is twice the resistance, with the same glass.
    const told = last(TANK, [at(0, 25, 100, 4), at(30, 17.5, 200, 20)])
    expect(told?.glassResistance).toBeCloseTo(1, 9)
    expect(told?.junctionResistance).toBeCloseTo(5, 9)
    const evidence = evidenceOf({
      traits: PH.health,
      visits: healthVisits(TANK, [at(0, 25, 100, 4), at(30, 25, 0.6, 4.1)]),
      events: [],
      installedAt: 0,
      now: 31 * DAY,
      tests: {},
    })
    expect(evidence).toMatchObject({ glassResistance: 'low', junctionResistance: 'usual' })
    expect(last(TANK, [visit(0)])).toMatchObject({ glassResistance: null, junctionResistance: null })
  })

  it('doubts a thermometer that is off by as much in the standards as in the water', () => {
    const told = (water: number, room: number) =>
      evidence([
        ...[0, 30, 60].map((day) => temperatures(day, 25 + 0.2 * (day % 20), 21)),
        temperatures(90, water, room),
      ]).temperature
    const temperatures = (day: number, water: number, room: number) =>
      visit(day, {
        readings: [
          { step: 'point-1', reading: inBuffer('pH7.00', 7, { temperature: room }) },
          { step: 'back', reading: reading(8.1, { temperature: water }) },
        ],
      })
    expect(told(29.5, 25.5)).toBe('is wrong')
    // A warm water or a warm room alone is neither.
    expect(told(28, 21)).toBe('agrees')
    expect(told(25, 24.5)).toBe('agrees')
    expect(evidence([temperatures(0, 37, 21)]).temperature).toBe('is wrong')
    expect(last(TANK, [visit(0, { codes: ['temperature-implausible'] })])?.temperatureError).toBe(2)
  })

  it('sees which way cleaning moved it: a film holds some of the process', () => {
    const away = (before: number) => {
      const process = PH.model.signalOf(8.1, 25, SOUND, {})
      const clean = PH.model.signalOf(7, 25, SOUND, {})
      return evidence([
        visit(0, {
          readings: [
            { step: 'found-process', reading: reading(8.1) },
            { step: 'found-first', reading: inBuffer('pH7.00', 7, { signal: clean + before * (process - clean) }) },
            { step: 'first', reading: inBuffer('pH7.00', 7) },
          ],
        }),
      ]).cleaningMoved
    }
    expect(away(0.15)).toBe('away from the process')
    expect(away(-0.15)).toBe('towards it')
    expect(away(0)).toBeUndefined()
  })

  it('finds what cleaning moved, and the lag on the way back to the first standard', () => {
    const mv = (v: number) => ({ signal: v })
    const told = last(TANK, [
      visit(0, {
        readings: [
          { step: 'found-standard', reading: inBuffer('pH7.00', 7, mv(12)) },
          { step: 'point-1', reading: inBuffer('pH7.00', 7, mv(4)) },
          { step: 'point-2', reading: inBuffer('pH10.01', 10.01, mv(-170)) },
          { step: 'verify', reading: inBuffer('pH7.00', 7, mv(7.5)) },
        ],
      }),
    ])
    expect(told?.cleaning).toBeCloseTo(-8, 9)
    expect(told?.hysteresis).toBeCloseTo(3.5, 9)
    expect(told?.settlingSeconds).toBe(40)
  })

  it('of a conductivity cell takes shares of its usual reading instead of millivolts', () => {
    const cell: HealthSensor = {
      ...TANK,
      traits: CONDUCTIVITY.health,
      model: CONDUCTIVITY.model,
      processValue: 50_000,
      tolerance: 2,
    }
    const at = (signal: number, over: object = {}) => ({ ...inBuffer('seawater-53', 8), signal, ...over })
    const told = last(cell, [
      visit(0, {
        characteristic: { factor: 1.04, zero: 250 },
        readings: [
          { step: 'found-standard', reading: at(48_000, { noise: 10 }) },
          { step: 'point-1', reading: at(51_000, { noise: 10 }) },
        ],
      }),
    ])
    expect(told?.zero).toBeCloseTo(0.005, 9)
    expect(told?.noise).toBeCloseTo(0.0002, 9)
    expect(told?.cleaning).toBeCloseTo(3 / 51, 9)
    expect(told).toMatchObject({ cellFactor: 1.04, hysteresis: null, glassResistance: null })
  })
})

describe('evidence of visits that do not all look at everything', () => {
  it('counts the newest look at each figure: a quick check does not wipe out what the calibration said', () => {
    const seen = [0, 30, 60, 90].map((day) => visit(day, { characteristic: { zero: -4, slopeEfficiency: 0.92 } }))
    const check = visit(100, { characteristic: null, numbersChanged: false })
    const evidence = evidenceOf({
      traits: PH.health,
      visits: healthVisits(TANK, [...seen, check]),
      events: [],
      installedAt: 0,
      now: 101 * DAY,
      tests: {},
    })
    expect(evidence).toMatchObject({ slopeLevel: 'ageing', deviceNumbers: 'as left' })
  })

  it('does not take a figure of half a year ago for one of now', () => {
    const old = visit(0, { characteristic: { zero: -4, slopeEfficiency: 0.7 } })
    const check = visit(200, { characteristic: null })
    const evidence = evidenceOf({
      traits: PH.health,
      visits: healthVisits(TANK, [old, check]),
      events: [],
      installedAt: 0,
      now: 201 * DAY,
      tests: {},
    })
    expect(evidence.slopeLevel).toBeUndefined()
  })
})

/** A visit that looked at nothing. */
const nothingSeen = healthVisits(TANK, [
  visit(0, { readings: [], characteristic: null, codes: null }),
])[0] as HealthVisit

/** A record of monthly visits that looked at this alone. */
const monthly = (traits: HealthTraits, seen: readonly Partial<HealthVisit>[]) => ({
  traits,
  visits: seen.map((over, i) => ({ ...nothingSeen, ...over, at: 30 * i * DAY })),
  events: [],
  installedAt: 0,
  now: 30 * seen.length * DAY,
  tests: {},
})

it('a dry cell is judged by what it used to read in air, and a zero that nobody took says nothing', () => {
  const airOf = (shares: readonly number[]) =>
    evidenceOf(
      monthly(
        CONDUCTIVITY.health,
        shares.map((zero) => ({ zero })),
      ),
    ).airZero
  expect(airOf([2e-4, 3e-4, 2e-4, 3e-4])).toBe('near zero')
  expect(airOf([2e-4, 3e-4, 2e-4, 8e-3])).toBe('not zero')
  // One that always reads so much in air has it from its cable, and not from a drop.
  expect(airOf([8e-3, 9e-3, 8e-3, 8e-3])).not.toBe('not zero')
  expect(airOf([0, 0, 0, 0])).toBeUndefined()
})

it('another ion only adds to what a membrane sees: the way the water went tells it from a stray voltage', () => {
  const goes = (tolerances: readonly number[]) => {
    const record = monthly(
      ION.health,
      tolerances.map((tankNow) => ({ tankNow })),
    )
    return diagnose(ION.health, evidenceOf(record)).ranked.map((r) => r.cause)
  }
  const [up, down] = [goes([0.2, -0.1, 0, 0.1, 9]), goes([0.2, -0.1, 0, 0.1, -9])]
  expect(up.indexOf('interfering-ion')).toBeLessThan(up.indexOf('ground-loop'))
  expect(down[0]).toBe('ground-loop')
})
