import { describe, expect, it } from 'vitest'
import { ionPoint, phPoint } from '../../../lab/src/fixtures/testPoints.ts'
import { nernstSlope } from '../electrode/nernst.ts'
import { ION_STANDARD_UNCERTAINTY } from '../standards/ionStandards.ts'
import { Z95 } from '../statistics/normalDistribution.ts'
import { type RandomStream, randomStream } from '../statistics/random.ts'
import { type InputQuantity, monteCarlo, propagate } from '../uncertainty/propagation.ts'
import { calibrateConductivity } from './conductivityCalibration.ts'
import { calibrateIon, type IonPoint } from './ionCalibration.ts'
import { calibrateOrpZeroPlug } from './orpCalibration.ts'
import { calibratePhTwoPoint, type PhPoint } from './phCalibration.ts'

describe('stated uncertainties, against the Monte Carlo method (JCGM 101:2008), within 3 %', () => {
  const RUNS = 20_000
  /** Draws the whole public calibration with everything it is told jittering by what it is told. */
  const agrees = (stated: number, draw: (random: RandomStream) => number) => {
    const random = randomStream(12)
    const draws = Array.from({ length: RUNS }, () => draw(random))
    const mean = draws.reduce((x, y) => x + y, 0) / RUNS
    const sd = Math.sqrt(draws.reduce((x, y) => x + (y - mean) ** 2, 0) / (RUNS - 1))
    expect(Math.abs((Z95 * sd) / stated - 1)).toBeLessThan(0.03)
  }

  it('of a pH two-point calibration', () => {
    const points = [phPoint('pH7.00', -6, 0.95, 20), phPoint('pH10.01', -6, 0.95, 23)] as const
    const two = calibratePhTwoPoint(...points)
    const jittered = (random: RandomStream) => {
      const [a, b] = points.map((p) => ({
        ...p,
        millivolts:
          p.millivolts + (1 / Z95) * random.normal() + (0.02 / 2) * random.normal() * nernstSlope(p.temperature) * 0.95,
        temperature: p.temperature + (0.5 / Z95) * random.normal(),
      }))
      return calibratePhTwoPoint(a as PhPoint, b as PhPoint)
    }
    agrees(two.zeroUncertainty, (random) => jittered(random).zero)
    agrees(two.slopeEfficiencyUncertainty, (random) => jittered(random).slopeEfficiency)
  })

  it('of a conductivity calibration', () => {
    const point = { standard: 'kcl-1413', shown: 1300, uncertainty: 8, temperature: 22, temperatureUncertainty: 0.4 }
    const stated = calibrateConductivity(point, { law: 'none' }).factor.uncertainty
    agrees(stated, (random) => {
      const bottle = 1 + (0.01 / Z95) * random.normal()
      const shown = point.shown + (8 / Z95) * random.normal()
      const temperature = 22 + (0.4 / Z95) * random.normal()
      return bottle * calibrateConductivity({ ...point, shown, temperature }, { law: 'none' }).factor.value
    })
  })

  it('of an ORP calibration', () => {
    const light = { standard: 'light' as const, shown: 466, uncertainty: 3, temperature: 25 }
    const plug = { shown: 4, uncertainty: 1 }
    const stated = calibrateOrpZeroPlug(plug, light, 'agcl-saturated').gain.uncertainty
    agrees(stated, (random) => {
      const shown = 466 + (3 / Z95) * random.normal()
      const zero = 4 + (1 / Z95) * random.normal()
      const right = 1 + ((10 / Z95) * random.normal()) / 476
      return right * calibrateOrpZeroPlug({ ...plug, shown: zero }, { ...light, shown }, 'agcl-saturated').gain.value
    })
  })

  it('of an ion calibration', () => {
    const electrode = { zero: 0, slopeEfficiency: 0.95, charge: -1 }
    const pair = [ionPoint('chloride-319', electrode), ionPoint('chloride-46.2', electrode)] as const
    const [level] = calibrateIon(...pair).levels
    const jittered = (random: RandomStream) => {
      const [high, low] = pair.map((p) => ({
        ...p,
        millivolts: p.millivolts + (0.5 / Z95) * random.normal(),
        temperature: p.temperature + (0.3 / Z95) * random.normal(),
        standard: {
          ...p.standard,
          molarity: p.standard.molarity * (1 + (ION_STANDARD_UNCERTAINTY / 100 / Z95) * random.normal()),
        },
      }))
      return calibrateIon(high as IonPoint, low as IonPoint).levels[0]
    }
    agrees(level?.zero.uncertainty ?? 0, (random) => jittered(random)?.zero.value ?? 0)
    agrees(level?.slopeEfficiency.uncertainty ?? 0, (random) => jittered(random)?.slopeEfficiency.value ?? 0)
  })
})

describe('propagation', () => {
  const jitter = (name: string, estimate: number, sd: number): InputQuantity => ({ name, estimate, sd })
  const agree = (model: (v: readonly number[]) => number, inputs: readonly InputQuantity[]) => {
    const budget = propagate(model, inputs)
    const drawn = monteCarlo(model, inputs, 40_000, randomStream(5))
    expect(Math.abs((Z95 * drawn.sd) / budget.uncertainty - 1)).toBeLessThan(0.03)
    expect(Math.abs((drawn.high - drawn.low) / 2 / budget.uncertainty - 1)).toBeLessThan(0.03)
  }

  it('of a product has the relative uncertainties in quadrature (JCGM 100:2008, 5.1.6)', () => {
    const inputs = [jitter('a', 10, 0.1), jitter('b', 4, 0.08)]
    const product = ([a, b]: readonly number[]) => (a as number) * (b as number)
    expect(propagate(product, inputs).uncertainty / Z95 / 40).toBeCloseTo(Math.hypot(0.01, 0.02), 4)
    agree(product, inputs)
  })

  it('and a rectangular input counts as one', () => {
    agree(
      ([a, b]) => (a as number) + (b as number),
      [{ name: 'digit', estimate: 0, sd: 0.1 / Math.sqrt(12), shape: 'rectangular' }, jitter('noise', 1, 0.1)],
    )
    expect(() => propagate(() => 1, [])).toThrow(RangeError)
    expect(() =>
      monteCarlo(
        () => {
          throw new RangeError('no')
        },
        [jitter('x', 0, 1)],
        1000,
        randomStream(1),
      ),
    ).toThrow(/no answer/)
  })
})
