import { describe, expect, it } from 'vitest'
import { calibrateOrpOffset } from '../../../core/src/calibration/orpCalibration.ts'
import { compensate } from '../../../core/src/conductivity/compensation.ts'
import { ionToMillivolts } from '../../../core/src/electrode/ionSelective.ts'
import { orpStandardEh } from '../../../core/src/standards/orpStandards.ts'
import { randomStream } from '../../../core/src/statistics/random.ts'
import {
  ageConductivitySensor,
  ageIonElectrode,
  ageOrpSensor,
  agePhElectrode,
  type Exposure,
  MILD_EXPOSURE,
} from './ageing.ts'
import { NO_FAULTS } from './sensorSimulation.ts'
import {
  ConductivitySensorSimulation,
  type ConductivityTruth,
  IonElectrodeSimulation,
  type IonTruth,
  OrpSensorSimulation,
  type OrpTruth,
  PlainSensorSimulation,
} from './sensors.ts'

const RESPONSE = { fastTime: 2, slowShare: 0.04, slowTime: 15, noise: 0, step: 0.01 }
const LATER = 1e6

describe('simulated ORP sensor', () => {
  const truth: OrpTruth = { ...RESPONSE, reference: 'agcl-3M', offset: -12, gain: 1 }

  it('reads a standard with its own offset, which a calibration finds', () => {
    const sensor = new OrpSensorSimulation(truth, { eh: 300, temperature: 25 }, randomStream(1))
    sensor.dip({ eh: orpStandardEh('zobell', 25), temperature: 25 }, 0)
    const shown = sensor.read(LATER).millivolts
    const found = calibrateOrpOffset({ standard: 'zobell', shown, uncertainty: 1, temperature: 25 }, 'agcl-3M')
    expect(found.offset.value).toBeCloseTo(12, 1)
  })

  it('says nothing of the solution when it is dead, and jumps under a bubble', () => {
    const sensor = new OrpSensorSimulation(truth, { eh: 650, temperature: 25 }, randomStream(1))
    const right = sensor.read(0).millivolts
    sensor.faults = { ...NO_FAULTS, bubble: true }
    expect(right - sensor.read(1).millivolts).toBeGreaterThan(3)
    sensor.faults = { ...NO_FAULTS, dead: true }
    expect(Math.abs(sensor.read(2).millivolts)).toBeLessThan(20)
  })
})

describe('simulated conductivity cell', () => {
  const truth: ConductivityTruth = {
    ...RESPONSE,
    factor: 1.05,
    zero: 2,
    coating: 0.1,
    wet: false,
    compensation: { law: 'linear', alpha: 2, reference: 25 },
    temperatureError: 0,
  }
  const water = { conductivity: 1413, temperature: 20 }

  it('shows less under a coating, and the cell factor after it was wiped', () => {
    const cell = new ConductivitySensorSimulation(truth, water, randomStream(2))
    expect(cell.read(0).conductivity).toBeCloseTo(compensate((0.9 * 1413) / 1.05 + 2, 20, truth.compensation), 1)
    cell.wipe()
    expect(cell.read(1).conductivity).toBeCloseTo(compensate(1413 / 1.05 + 2, 20, truth.compensation), 1)
  })

  it('shows its zero in dry air, and more while the face is wet', () => {
    const air = { conductivity: 0, temperature: 20 }
    const dry = new ConductivitySensorSimulation(truth, air, randomStream(2))
    const wet = new ConductivitySensorSimulation({ ...truth, wet: true }, air, randomStream(2))
    expect(dry.read(0).conductivity).toBeCloseTo(2, 2)
    expect(wet.read(0).conductivity).toBeGreaterThan(20)
  })

  it('carries its own thermometer\u2019s error into what it shows', () => {
    const warm = new ConductivitySensorSimulation({ ...truth, temperatureError: 1 }, water, randomStream(2))
    const sound = new ConductivitySensorSimulation(truth, water, randomStream(2))
    expect(warm.read(0).conductivity).toBeLessThan(sound.read(0).conductivity)
    expect(warm.read(0).temperature).toBeCloseTo(21, 1)
  })
})

describe('simulated ion electrode', () => {
  const electrode = { zero: 15, slopeEfficiency: 0.95, charge: -1 }
  const truth: IonTruth = { ...RESPONSE, electrode, zeroPerDegree: 0.3 }

  it('follows Nikolsky-Eisenman, and its E0 goes with temperature', () => {
    const sensor = new IonElectrodeSimulation(truth, { activity: 1e-2, temperature: 25 }, randomStream(3))
    const others = [{ activity: 1e-3, charge: -1, selectivity: 5 }]
    sensor.dip({ activity: 1e-3, temperature: 35, others }, 0)
    expect(sensor.read(LATER).millivolts).toBeCloseTo(ionToMillivolts(1e-3, 35, electrode, others) + 3, 1)
  })

  it('carries a little of a strong standard into a weak one when it is not rinsed', () => {
    const read = (rinsed: boolean) => {
      const sensor = new IonElectrodeSimulation(truth, { activity: 1e-2, temperature: 25 }, randomStream(3))
      sensor.dip({ activity: 1e-4, temperature: 25 }, 0, rinsed)
      return sensor.read(LATER).millivolts
    }
    expect(read(true) - read(false)).toBeGreaterThan(5)
  })
})

it('a sensor that reads straight has a slope and an offset', () => {
  const sensor = new PlainSensorSimulation(
    { ...RESPONSE, factor: 0.8, offset: 0.05 },
    { value: 1.2, temperature: 15 },
    randomStream(4),
  )
  expect(sensor.read(0).value).toBeCloseTo(1.01, 2)
})

describe('ageing', () => {
  const still: Exposure = { ...MILD_EXPOSURE, referenceWalk: 0 }
  const ph = { ...RESPONSE, zero: 0, slopeEfficiency: 1, coating: 0 }

  it('drifts the reference, wears the slope, slows the response, and grows a coat, in step with the days', () => {
    const older = agePhElectrode(ph, still, 200, randomStream(5))
    expect(older.zero).toBeCloseTo(-6, 9)
    expect(older.slopeEfficiency).toBeCloseTo(Math.exp(-0.02), 9)
    expect(older.coating).toBeCloseTo(2, 9)
    expect(older.slowTime).toBeCloseTo(15 * Math.exp(0.2), 9)
    const twice = agePhElectrode(agePhElectrode(ph, still, 100, randomStream(5)), still, 100, randomStream(5))
    expect(twice.zero).toBeCloseTo(older.zero, 9)
    expect(twice.slopeEfficiency).toBeCloseTo(older.slopeEfficiency, 9)
  })

  it('moves ORP and ion sensors by the same reference, and fouls a cell without end but never beyond all', () => {
    const orp = ageOrpSensor({ ...RESPONSE, reference: 'agcl-3M', offset: 0, gain: 1 }, still, 100, randomStream(5))
    const ion = ageIonElectrode(
      { ...RESPONSE, electrode: { zero: 0, slopeEfficiency: 1, charge: 1 }, zeroPerDegree: 0 },
      still,
      100,
      randomStream(5),
    )
    expect(orp.offset).toBeCloseTo(ion.electrode.zero, 9)
    const cell = { ...RESPONSE, factor: 1, zero: 0, coating: 0, wet: false, temperatureError: 0 }
    const fouled = ageConductivitySensor({ ...cell, compensation: { law: 'none' } }, MILD_EXPOSURE, 4000)
    expect(fouled.coating).toBe(0.95)
    expect(() => agePhElectrode(ph, still, -1, randomStream(5))).toThrow(/Days/)
  })

  it('walks at random with the square root of time', () => {
    const walk = { ...still, referenceDrift: 0, referenceWalk: 0.5 }
    const random = randomStream(6)
    const zeros = Array.from({ length: 4000 }, () => agePhElectrode(ph, walk, 100, random).zero)
    const sd = Math.sqrt(zeros.reduce((sum, z) => sum + z * z, 0) / zeros.length)
    expect(Math.abs(sd / 5 - 1)).toBeLessThan(0.05)
  })
})
