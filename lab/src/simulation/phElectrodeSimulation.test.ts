import { describe, expect, it } from 'vitest'
import { calibratePhTwoPoint, type PhPoint } from '../../../core/src/calibration/phCalibration.ts'
import { phToMillivolts } from '../../../core/src/electrode/phElectrode.ts'
import { phBuffer, phBufferValue } from '../../../core/src/standards/phBuffers.ts'
import { Z95 } from '../../../core/src/statistics/normalDistribution.ts'
import { randomStream } from '../../../core/src/statistics/random.ts'
import { type ElectrodeTruth, PhElectrodeSimulation } from './phElectrodeSimulation.ts'
import { NO_FAULTS } from './sensorSimulation.ts'

const TRUTH: ElectrodeTruth = {
  zero: -6,
  slopeEfficiency: 0.96,
  fastTime: 2,
  slowShare: 0.04,
  slowTime: 15,
  noise: 0,
  step: 0.1,
  coating: 0,
}
const inSeven = { ph: 7, temperature: 25 }
const inTen = { ph: 10, temperature: 25 }
const electrode = (truth: Partial<ElectrodeTruth> = {}, seed = 1) =>
  new PhElectrodeSimulation({ ...TRUTH, ...truth }, inSeven, randomStream(seed), 0)
const resting = (ph: number, truth = TRUTH) => phToMillivolts(ph, 25, truth)

describe('simulated pH electrode', () => {
  it('starts at rest and ends, after a dip, where the electrode equation says', () => {
    const probe = electrode()
    expect(probe.read(0).millivolts).toBeCloseTo(resting(7), 1)
    probe.dip(inTen, 10)
    expect(probe.read(10).millivolts).toBeCloseTo(resting(7), 1)
    expect(probe.read(100_000).millivolts).toBeCloseTo(resting(10), 1)
  })

  it('settles in two stages: most of the jump at once, the rest as 1 / (1 + t/time)^2', () => {
    const probe = electrode()
    probe.dip(inTen, 0)
    const gap = resting(7) - resting(10)
    const left = (t: number) => (probe.read(t).millivolts - resting(10)) / gap
    expect(left(2)).toBeCloseTo(0.96 * Math.exp(-1) + 0.04 / (1 + 2 / 15) ** 2, 2)
    expect(left(30)).toBeCloseTo(0.04 / 9, 3)
  })

  it('goes on from where it was when it is dipped again before it settled', () => {
    const probe = electrode()
    probe.dip(inTen, 0)
    const before = probe.read(1).millivolts
    probe.dip(inSeven, 1)
    expect(probe.read(1).millivolts).toBeCloseTo(before, 1)
  })

  it('carries a little over when it is not rinsed, lags in temperature, and shows a coating until it is wiped', () => {
    const carried = electrode()
    carried.dip(inTen, 0, false)
    expect(carried.read(1e6).millivolts - resting(10)).toBeGreaterThan(0.4)
    const lagging = electrode()
    lagging.dip({ ph: 7, temperature: 35 }, 0)
    expect(lagging.read(18).temperature).toBeCloseTo(35 - 10 * Math.exp(-1), 0)
    const coated = electrode({ coating: 5 })
    expect(coated.read(0).millivolts).toBeCloseTo(resting(7) + 5, 1)
    coated.wipe()
    expect(coated.read(1e6).millivolts).toBeCloseTo(resting(7), 1)
  })

  it('plays faults: a bubble shifts it, a noisy cable scatters it, a cracked bulb ignores the solution', () => {
    const probe = electrode({ noise: 0.05 })
    probe.faults = { ...NO_FAULTS, bubble: true }
    expect(probe.read(5).millivolts - resting(7)).toBeGreaterThan(2)
    probe.faults = { ...NO_FAULTS, cableNoise: true }
    const noisy = Array.from({ length: 40 }, (_, i) => probe.read(6 + i / 2).millivolts)
    expect(Math.max(...noisy) - Math.min(...noisy)).toBeGreaterThan(5)
    probe.faults = { ...NO_FAULTS, dead: true }
    probe.dip(inTen, 30)
    expect(Math.abs(probe.read(600).millivolts)).toBeLessThan(5)
  })

  it('is the same for the same seed', () => {
    const [a, b] = [electrode({ noise: 0.2 }, 4), electrode({ noise: 0.2 }, 4)]
    expect([1, 2, 3].map((t) => a.read(t).millivolts)).toEqual([1, 2, 3].map((t) => b.read(t).millivolts))
  })
})

it('a two-point calibration on simulated readings holds the truth in 93 to 98 % of 1,000 runs, as its 95 % says', () => {
  const random = randomStream(31)
  let held = { zero: 0, slope: 0 }
  for (let run = 0; run < 1000; run++) {
    const truth = { zero: random.between(-25, 25), slopeEfficiency: random.between(0.86, 1) }
    const points = ['pH7.00', 'pH10.01'].map((bufferCode): PhPoint => {
      const actual = random.between(18, 28)
      // What is read strays by what is stated: buffer, temperature, settled signal.
      const strayed = phBufferValue(bufferCode, actual) + (phBuffer(bufferCode).uncertainty / 2) * random.normal()
      const signal = phToMillivolts(strayed, actual, truth) + (0.9 / Z95) * random.normal()
      const temperature = actual + (0.5 / Z95) * random.normal()
      return { bufferCode, millivolts: signal, millivoltsUncertainty: 0.9, temperature }
    })
    const result = calibratePhTwoPoint(points[0] as PhPoint, points[1] as PhPoint)
    const within = (value: number, true_: number, half: number) => (Math.abs(value - true_) <= half ? 1 : 0)
    held = {
      zero: held.zero + within(result.zero, truth.zero, result.zeroUncertainty),
      slope: held.slope + within(result.slopeEfficiency, truth.slopeEfficiency, result.slopeEfficiencyUncertainty),
    }
  }
  for (const count of [held.zero, held.slope]) {
    expect(count).toBeGreaterThanOrEqual(930)
    expect(count).toBeLessThanOrEqual(980)
  }
})
