import { describe, expect, it } from 'vitest'
import { plain } from '../../../lab/src/fixtures/plain.ts'
import { testSetup } from '../../../lab/src/fixtures/testSetup.ts'
import { nernstSlope } from '../electrode/nernst.ts'
import { kindOf, modelOf, procedureOf } from '../kinds/index.ts'
import { phElectrodeOf } from '../kinds/ph/model.ts'
import { PH_TWO_POINT } from '../kinds/ph/procedures.ts'
import { render } from '../quantities/render.ts'
import { phBufferValue } from '../standards/phBuffers.ts'
import { closedRecord } from '../visits/closedRecord.ts'
import { reduceVisit, type VisitEntry } from '../visits/visitReducer.ts'
import { observationOf } from '../visits/visitView.ts'
import { pastSeries } from './pastSeries.ts'
import { type PastCalibration, pastVisit } from './pastVisit.ts'
import { slopeScaleOf, standardCalled, statedSlope, statedZero, zeroScaleOf } from './stated.ts'

const DAY = 86_400_000
const setup = testSetup(PH_TWO_POINT, 'ph', { linked: false, shows: 'value', adjustsBy: 'key' })

const row = (change: Partial<PastCalibration>): PastCalibration => ({
  at: DAY,
  row: { File: 'log.csv', Row: 2 },
  points: [],
  reference: null,
  temperature: 25,
  readAs: 'shown',
  stated: {},
  calibrated: true,
  ...change,
})

const twoPoints = (seven: number, ten: number, more: Partial<PastCalibration> = {}) =>
  row({
    points: [
      { standard: 'pH7.00', before: seven, after: null },
      { standard: 'pH10.01', before: ten, after: null },
    ],
    ...more,
  })

/** What an electrode of this zero and slope shows behind a device that takes it for ideal. */
const shownIn = (buffer: string, zero: number, slope: number) =>
  7 + (slope * (phBufferValue(buffer, 25) - 7) * nernstSlope(25) - zero) / nernstSlope(25)

it('the readings of a list say of the sensor what the same readings say when they are typed at a visit', () => {
  const visit = (at: number, entries: VisitEntry[]) =>
    reduceVisit(
      PH_TWO_POINT,
      { ...setup, activeCalibration: { zero: 4, slopeEfficiency: 0.98 } },
      at,
      entries.map((entry) => ({ at, entry })),
    )
  const taken = pastVisit({ ...setup, activeCalibration: { zero: 4, slopeEfficiency: 0.98 } }, twoPoints(7.08, 9.91))
  if ('problem' in taken) throw new Error(taken.problem)
  const captured = taken.lines.flatMap(({ entry }) => (entry.type === 'captured' ? [entry] : []))
  const typed = visit(DAY, [
    ...captured,
    { type: 'applied', way: 'key', characteristic: { zero: 0, slopeEfficiency: 1 }, readBack: null, shownAfter: null },
  ])
  const [here, there] = [
    procedureOf(taken.procedure.id).judge(taken.progress.evidence, 'result'),
    PH_TWO_POINT.judge(typed.evidence, 'result'),
  ]
  expect(here?.found).toEqual(there?.found)
  expect(here?.errorNow).toBe(there?.errorNow)
  expect(here?.uncertainty).toBe(there?.uncertainty)
  expect(observationOf(taken.procedure, taken.progress.evidence)).toEqual(observationOf(PH_TWO_POINT, typed.evidence))
})

it('finds zero and slope of an electrode by the buffers, and its error in the water', () => {
  // ISO 34-free arithmetic: E = zero - slope k(T) (pH - 7), the Nernst equation.
  const shown = (buffer: string) => Number(shownIn(buffer, 12, 0.95).toFixed(2))
  const taken = pastVisit(setup, twoPoints(shown('pH7.00'), shown('pH10.01')))
  if ('problem' in taken) throw new Error(taken.problem)
  const judged = taken.procedure.judge(taken.progress.evidence, 'result')
  expect(judged?.found?.characteristic.zero).toBeCloseTo(12, 0)
  expect(judged?.found?.characteristic.slopeEfficiency).toBeCloseTo(0.95, 2)
  const { errorAt } = modelOf('ph')
  const error = errorAt(
    { zero: 12, slopeEfficiency: 0.95 },
    { zero: 0, slopeEfficiency: 1 },
    { value: 8.2, temperature: 22 },
    {},
  )
  expect(judged?.errorNow).toBeCloseTo(error, 1)
  expect(judged?.choices).toEqual([])
})

describe('a series', () => {
  const rows = [
    twoPoints(7.02, 9.98, { at: DAY }),
    twoPoints(7.05, 9.9, { at: 60 * DAY }),
    twoPoints(7.04, 9.93, { at: 120 * DAY }),
  ]
  const taken = pastSeries(setup, { calibrations: [], observations: [] }, rows).map((t) => {
    if ('problem' in t) throw new Error(t.problem)
    return t
  })

  const series = (list: PastCalibration[]) =>
    pastSeries(setup, { calibrations: [], observations: [] }, list).map((t) => {
      if ('problem' in t) throw new Error(t.problem)
      return t
    })

  it('judges each by what the device computed with since the one before, once that is known', () => {
    const stated = { slopeEfficiency: 0.98, zero: 2 }
    const [first, second, third] = series([
      twoPoints(7.02, 9.98, { at: DAY, stated }),
      ...rows.slice(1),
    ]) as typeof taken
    expect([second, third].map((t) => t?.setup.activeCalibration)).toEqual([
      first?.found?.characteristic,
      second?.found?.characteristic,
    ])
    // Each time the slope that is left is a share of the one before.
    const slopes = [first, second, third].map((t) => t?.found?.characteristic.slopeEfficiency ?? 0)
    expect(slopes[0]).toBeCloseTo(0.98, 12)
    expect(slopes[0]).toBeGreaterThan(slopes[1] as number)
    expect(slopes[1]).toBeGreaterThan(slopes[2] as number)
  })

  it('tells only errors as long as nobody knows what the device held', () => {
    expect(taken.map((t) => [t.setup.unknownParameters?.length, t.found?.characteristic])).toEqual(
      Array(3).fill([2, {}]),
    )
    expect(taken.map((t) => t.before?.at)).toEqual([undefined, DAY, 60 * DAY])
    const known = series([
      twoPoints(7.02, 9.98, { at: DAY, stated: { slopeEfficiency: 1, zero: 0 } }),
      ...rows.slice(1),
    ])
    // Water and buffers are of one temperature to a degree or two: to that the errors do not rest on slope and zero.
    for (const [i, t] of taken.entries()) {
      expect(t.observation?.asFound).toBeCloseTo(known[i]?.observation?.asFound ?? Number.NaN, 2)
    }
  })

  it('is the same in two halves, the second after what the first left', () => {
    const first = taken[0] as (typeof taken)[number]
    const known = {
      calibrations: [{ at: DAY, characteristic: first.found?.characteristic ?? {}, adopted: true }],
      observations: [{ at: DAY, asLeft: first.observation?.asLeft ?? 0 }],
    }
    const second = pastSeries(setup, known, rows.slice(1))
    expect(second.map((t) => 'found' in t && t.found)).toEqual(taken.slice(1).map((t) => t.found))
    expect(second.map((t) => 'observation' in t && t.observation)).toEqual(taken.slice(1).map((t) => t.observation))
  })
})

it('what nobody noted is unknown: no pace, a wider width where the temperature is missing', () => {
  const [known, unknown] = [25, null].map((temperature) => {
    const taken = pastVisit(setup, twoPoints(7.05, 9.9, { temperature }))
    if ('problem' in taken) throw new Error(taken.problem)
    return taken.progress.evidence.readings['point-2']
  })
  // 5 °C move this buffer's own value by 0.05 pH, 3 mV, beside what the display leaves open.
  expect(Math.sqrt((unknown?.signalUncertainty ?? 0) ** 2 - (known?.signalUncertainty ?? 0) ** 2)).toBeCloseTo(3, 0)
  expect(unknown).toMatchObject({
    temperatureFrom: { from: 'usual' },
    stability: { state: 'unknown' },
    signature: null,
  })
  // A compensated display shows the same in it, warm or cold.
  const cell = testSetup(procedureOf('conductivity-one-point'), 'conductivity', {
    linked: false,
    shows: 'value',
    device: { compensation: { law: 'linear', alpha: 2, reference: 25 }, display: 'mS/cm' },
  })
  const [at25, any] = [25, null].map((temperature) => {
    const taken = pastVisit(cell, row({ temperature, points: [{ standard: 'kcl-12.88', before: 12.8, after: null }] }))
    if ('problem' in taken) throw new Error(taken.problem)
    return (taken.progress.evidence.readings['point-1']?.signalUncertainty ?? 0) / 12_880
  })
  expect(any).toBeLessThan(3 * (at25 as number) + 0.02)
})

describe('numbers that the device said', () => {
  it('are what the sensor was; without a calibration before them they tell no error', () => {
    const stated = { slopeEfficiency: 0.962, zero: -8 }
    const [first, second] = pastSeries(setup, { calibrations: [], observations: [] }, [
      row({ stated }),
      row({ at: 30 * DAY, stated: { slopeEfficiency: 0.95, zero: -20 } }),
    ])
    if (!first || !second || 'problem' in first || 'problem' in second) throw new Error('no visit')
    expect(first.found).toMatchObject({ uncertainty: {}, adopted: true })
    expect(first.found?.characteristic.zero).toBe(-8)
    expect(first.found?.characteristic.slopeEfficiency).toBeCloseTo(0.962, 12)
    expect(first.observation).toMatchObject({ asFound: null, adjusted: true, verified: false })
    const error = modelOf('ph').errorAt(
      phElectrodeOf({ slopeEfficiency: 0.95, zero: -20 }) as never,
      stated,
      { value: 8.2, temperature: 22 },
      {},
    )
    expect(second.observation?.asFound).toBeCloseTo(error, 9)
  })

  it('a slope alone is kept for its trend, and nothing is computed with it', () => {
    const taken = pastSeries(setup, { calibrations: [], observations: [] }, [
      row({ stated: { slopeEfficiency: 0.93 } }),
    ])
    expect(taken[0]).toMatchObject({
      found: { characteristic: { slopeEfficiency: 0.93 }, adopted: false },
      observation: null,
    })
  })

  it('stand beside the readings: the error is from these, the sensor from the device', () => {
    const taken = pastVisit(setup, twoPoints(7.05, 9.9, { stated: { slopeEfficiency: 0.955, zero: 3 } }))
    if ('problem' in taken) throw new Error(taken.problem)
    const bare = pastVisit(setup, twoPoints(7.05, 9.9))
    if ('problem' in bare) throw new Error(bare.problem)
    const judge = (v: typeof taken) => v.procedure.judge(v.progress.evidence, 'result')
    expect(judge(taken)?.found?.characteristic).toEqual({ slopeEfficiency: 0.955, zero: 3 })
    expect(judge(taken)?.errorNow).toBe(judge(bare)?.errorNow)
  })
})

it('one buffer moves the zero and keeps the slope; what was read afterwards is how it was left', () => {
  const active = { zero: 5, slopeEfficiency: 0.97 }
  const taken = pastVisit(
    { ...setup, activeCalibration: active },
    row({ points: [{ standard: 'pH7.00', before: 7.1, after: 7.01 }] }),
  )
  if ('problem' in taken) throw new Error(taken.problem)
  const { applied } = taken.progress.evidence
  expect(applied?.characteristic.slopeEfficiency).toBe(0.97)
  const { toShown, signalOf } = modelOf('ph')
  const read = taken.progress.evidence.readings['point-1']
  expect(toShown(read?.signal ?? 0, 25, applied?.characteristic ?? {}, {})).toBeCloseTo(phBufferValue('pH7.00', 25), 6)
  expect(signalOf(7, 25, active, {})).not.toBe(read?.signal)
  expect(observationOf(taken.procedure, taken.progress.evidence)).toMatchObject({ verified: true, adjusted: true })
  expect(observationOf(taken.procedure, taken.progress.evidence)?.asLeft).toBeCloseTo(0.01, 6)
})

it('a look without a calibration leaves the device as it was', () => {
  const taken = pastVisit(
    setup,
    row({ calibrated: false, points: [{ standard: 'pH7.00', before: 7.06, after: null }] }),
  )
  if ('problem' in taken) throw new Error(taken.problem)
  expect(taken.progress.evidence.applied).toBeNull()
  const observed = observationOf(taken.procedure, taken.progress.evidence)
  expect(observed?.asLeft).toBe(observed?.asFound)
})

it('a kit or a laboratory beside the display is judged as a sample', () => {
  const taken = pastVisit(setup, row({ reference: { right: 8.1, shown: 8.3 } }))
  if ('problem' in taken) throw new Error(taken.problem)
  expect(taken.procedure.id).toBe('past-sample')
  expect(observationOf(taken.procedure, taken.progress.evidence)?.asFound).toBeCloseTo(0.2, 1)
})

it('the record says what stands in the row, and nothing that was not there', () => {
  const taken = pastVisit(setup, twoPoints(7.05, 9.9, { row: { File: 'log.csv', Row: 7, 'Buffer 7': '7,05' } }))
  if ('problem' in taken) throw new Error(taken.problem)
  const record = closedRecord(
    { ...taken, lines: taken.lines.map((l) => ({ ...l, operator: 'Ada' })) },
    { replaces: false, drift: () => null },
  )
  const said = record.lines.map((l) => plain(render(l.sentence)))
  expect(said[0]).toBe('From a list: File log.csv, Row 7, Buffer 7 7,05, calibrated then yes')
  expect(said[1]).toMatch(/^pH 7\.00: shows pH 7\.05, which is worth -?\d/)
  expect(said.at(-1)).toMatch(/^Calibrated to slope .*, as far as it was noted$/)
  expect(record).toMatchObject({ work: 'adjusted', decisions: [], applied: { way: 'noted' } })
  expect(record.points).toHaveLength(2)
  expect(record.result?.choices).toEqual([])
})

it('says what cannot be', () => {
  const problem = (change: Partial<PastCalibration>) => {
    const taken = pastVisit(setup, row(change))
    return 'problem' in taken ? taken.problem : null
  }
  expect(problem({})).toBe('There is no reading and no result in it.')
  expect(problem({ points: [{ standard: 'pH7.00', before: 178, after: null }] })).toMatch(
    /178 pH is nothing that this device/,
  )
  expect(problem({ temperature: 140, points: [{ standard: 'pH7.00', before: 7, after: null }] })).toMatch(
    /has no known value/,
  )
  const orp = testSetup(procedureOf('orp-offset'), 'orp')
  const sample = pastVisit(orp, row({ reference: { right: 300, shown: 310 } }))
  expect('problem' in sample && sample.problem).toMatch(/not set by a sample/)
})

it('an ion pair is the same whichever standard a list names first, each at its own temperature', () => {
  const cell = testSetup(procedureOf('ion-two-point'), 'ion', { shows: 'value', linked: false })
  const high = { standard: 'chloride-319', before: 300, after: null, temperature: 24 }
  const low = { standard: 'chloride-46.2', before: 45, after: null, temperature: 24.5 }
  const [one, other] = [
    [high, low],
    [low, high],
  ].map((points) => {
    const taken = pastVisit(cell, row({ points }))
    if ('problem' in taken) throw new Error(taken.problem)
    const { readings } = taken.progress.evidence
    expect([readings['point-1']?.standard?.code, readings['point-1']?.temperature]).toEqual(['chloride-319', 24])
    expect(readings['point-2']?.temperature).toBe(24.5)
    return taken.procedure.judge(taken.progress.evidence, 'result')
  })
  expect(one?.found?.characteristic.slopeEfficiency).toBeGreaterThan(0.5)
  expect(other).toEqual(one)
})

describe('what a list calls things', () => {
  it.each([
    ['ph', '7', 'pH7.00'],
    ['ph', 'pH 4,01', 'pH4.01'],
    ['ph', 'Buffer 10', 'pH10.01'],
    ['conductivity', '1413', 'kcl-1413'],
    ['conductivity', '12,88 mS/cm', 'kcl-12.88'],
    ['conductivity', '1.413 mS', 'kcl-1413'],
    ['conductivity', '84 µS/cm', 'kcl-84'],
  ] as const)('%s: %s is %s', (kind, text, code) => {
    expect(standardCalled(kind, text, {})?.code).toBe(code)
  })

  it('knows a redox standard by what it shows against this reference, and names none that is not meant', () => {
    const zobell = modelOf('orp').standardValue('zobell', 25, { reference: 'agcl-3M' })
    expect(standardCalled('orp', `${Math.round(zobell)} mV`, { reference: 'agcl-3M' })?.code).toBe('zobell')
    expect(standardCalled('ph', '6.2', {})).toBeNull()
    expect(standardCalled('ph', 'fresh', {})).toBeNull()
  })

  it('every label of a bottle names that bottle', () => {
    for (const kind of ['ph', 'orp', 'conductivity', 'ion'] as const) {
      for (const s of kindOf(kind).standards) expect(standardCalled(kind, s.label, {})?.code).toBe(s.code)
    }
  })

  it('slopes are told apart by their size where that can be, and asked for where it cannot', () => {
    expect(slopeScaleOf([97.1, 95, 88])).toBe('percent')
    expect(slopeScaleOf([0.97, 1.01])).toBe('share')
    expect(slopeScaleOf([57.2, 55])).toBeNull()
    // 59.16 mV per pH at 25 degC: the Nernst slope, handbooks of electrochemistry.
    expect(statedSlope('ph', -59.16, 'millivolts')).toBeCloseTo(1, 4)
    expect(statedSlope('ph', 97.3, 'percent')).toBeCloseTo(0.973)
    expect(statedZero('ph', 6.9, 'atZero', 1)).toBeCloseTo(-5.916, 3)
    // A redox or ion electrode in the same file has no pH at which it gives nothing.
    expect(statedZero('orp', 6.9, 'atZero', 1)).toBe(6.9)
    expect(statedSlope('ion', 57, 'millivolts')).toBeNull()
    expect([zeroScaleOf([6.9, 7.1]), zeroScaleOf([6.9, -3]), zeroScaleOf([])]).toEqual([
      null,
      'millivolts',
      'millivolts',
    ])
    expect(statedZero('ph', -12, 'millivolts', 0.9)).toBe(-12)
  })
})
