import { describe, expect, it } from 'vitest'
import { drawHabit, habitAtNextVisit, settlingTrace } from '../../../lab/src/simulation/settlingTraces.ts'
import { conductivityPreset } from '../kinds/conductivity/presets.ts'
import { PH_MILLIVOLTS } from '../kinds/ph/presets.ts'
import { normalCdf } from '../statistics/normalDistribution.ts'
import { randomStream } from '../statistics/random.ts'
import { isTaken } from './grade.ts'
import { historyHypotheses, openHypotheses } from './hypotheses.ts'
import { HypothesisSet } from './hypothesisSet.ts'
import { stabilityJudge } from './judge.ts'
import { halfWidth95, mixtureMean, type WeightedNormal } from './mixture.ts'
import { NoiseEstimate } from './noise.ts'
import { harmlessCreep, roundedPreset, spanningFrom } from './presets.ts'
import { PART_TIMES, partExponentials, RelaxationFilter, type RelaxationHypothesis } from './relaxation.ts'
import { ownTail, type SettlingSignature, SIGNATURE_TIMES } from './settlingSignature.ts'
import { flatWait, stillFor } from './stopwatch.ts'
import { TemperatureWatch } from './temperatureWatch.ts'

const PRESET = PH_MILLIVOLTS
const mean = (values: number[]) => values.reduce((a, b) => a + b, 0) / values.length

describe('relaxation filter', () => {
  const hypothesis: RelaxationHypothesis = {
    tail: (t) => Math.exp(-t / 30),
    tailSd: 20,
    partSd: PART_TIMES.map(() => 1e-9),
    wanderSd: 1e-9,
    creepSd: 0,
    weight: 1,
  }

  it('has the posterior that the normal equations give where each reading counts as its share of the time so far', () => {
    const random = randomStream(2)
    const times = Array.from({ length: 25 }, (_, i) => 2 * i)
    const noise = 0.3
    const values = times.map((t) => -50 + 8 * Math.exp(-t / 30) + noise * random.normal())
    const endSd = 100
    const filter = new RelaxationFilter(hypothesis, 0, endSd)
    times.forEach((t, i) => {
      filter.advance(t, partExponentials(t), i === 0 ? 0 : 2, 0)
      filter.update(values[i] as number, filter.predict(), noise * noise)
    })
    // (H'WH / r) x = H'Wy / r for x = [end, amplitude]; the priors are so wide that they say nothing.
    let [a, b, d, p, q] = [0, 0, 0, 0, 0]
    times.forEach((t, i) => {
      const h = Math.exp(-t / 30)
      const r = (noise * noise * 48) / Math.max(t, 2)
      a += 1 / r
      b += h / r
      d += (h * h) / r
      p += (values[i] as number) / r
      q += (h * (values[i] as number)) / r
    })
    const determinant = a * d - b * b
    const { end, variance } = filter.end()
    // What was known before the first readings fades less, so that it is not quite the same.
    expect(Math.abs(end - (d * p - b * q) / determinant)).toBeLessThan(0.2 * Math.sqrt(variance))
    expect(Math.abs(variance / (d / determinant) - 1)).toBeLessThan(0.1)
    expect(filter.remaining(10, partExponentials(10))).toBeCloseTo(
      ((a * q - b * p) / determinant) * Math.exp(-1 / 3),
      1,
    )
  })

  it('prefers the shape that is true', () => {
    const weigh = (tau: number) => {
      const filter = new RelaxationFilter({ ...hypothesis, tail: (t) => Math.exp(-t / tau) }, 0, 100)
      for (let t = 0; t < 90; t++) {
        filter.advance(t, partExponentials(t), t === 0 ? 0 : 1, 0)
        filter.update(5 + 12 * Math.exp(-t / 30), filter.predict(), 0.01)
      }
      return filter.logWeight
    }
    expect(weigh(30)).toBeGreaterThan(weigh(22))
    expect(weigh(30)).toBeGreaterThan(weigh(40))
  })
})

describe('hypotheses', () => {
  it('have prior probabilities that sum to 1, and tails that end', () => {
    const open = openHypotheses(PRESET)
    expect(open.reduce((sum, h) => sum + h.weight, 0)).toBeCloseTo(1, 9)
    for (const h of open) {
      expect(h.tail(0)).toBeCloseTo(1, 9)
      expect(h.tail(5000)).toBeLessThan(0.05)
    }
  })

  it('make nothing of one past visit, nor of jumps too small to show a tail', () => {
    const past = (jump: number): SettlingSignature => ({ shares: SIGNATURE_TIMES.map((t) => Math.exp(-t / 9)), jump })
    expect(historyHypotheses(PRESET, [past(90)])).toEqual([])
    expect(historyHypotheses(PRESET, [past(3), past(4)])).toEqual([])
    expect(historyHypotheses(PRESET, [past(90), past(-80)]).length).toBeGreaterThan(0)
    const own = ownTail([past(90), past(-80)], PRESET)
    expect(own?.tail(16)).toBeCloseTo(Math.exp(-16 / 9), 3)
    expect(own?.tail(5000)).toBeLessThan(1e-3)
  })

  it('stray as far from the own past as its visits lay apart, and trust it to rest only when that was seen twice', () => {
    // A junction of 4 mV that does not grow with the jump: its share of 80 mV is twice that of 160.
    const past = (jump: number, rested: boolean): SettlingSignature => ({
      shares: SIGNATURE_TIMES.map((t) => 0.9 * Math.exp(-t / 5) + (4 / jump) * Math.exp(-t / 60)),
      jump,
      rested,
    })
    const own = ownTail([past(160, true), past(80, false), past(160, false), past(80, true)], PRESET)
    const at = 4 * Math.exp(-64 / 60)
    // The mean share is 0.0375 of 4 mV: off by 2 mV of them at 160 mV and by 1 mV at 80, over n - 1.
    expect(own?.strayAt(64)).toBeCloseTo((at / 4) * Math.sqrt((2 * 2 ** 2 + 2 * 1) / 3), 2)
    expect(own?.rested).toBe(true)
    expect(ownTail([past(160, true), past(80, false)], PRESET)?.rested).toBe(false)
    const slowest = (signatures: SettlingSignature[]) => historyHypotheses(PRESET, signatures)[0]?.partSd[4] ?? 0
    const alike = [past(120, true), past(120, true)]
    expect(slowest([past(160, true), past(80, true)])).toBeGreaterThan(slowest(alike) + 1)
  })
})

it('a trace teaches the next visit its tail: shares fall from near 1 to near 0, and the end is known sooner', () => {
  const random = randomStream(8)
  const habit = { ...drawHabit('clean', random), fast: 2, slow: 25, slowShare: 0.08, shape: 'exponential' as const }
  const past: SettlingSignature[] = []
  const meanTimeToStable = (known: readonly SettlingSignature[]) =>
    mean(
      [91, 92, 93, 94, 95, 96, 97, 98, 99].map((seed) => {
        const judge = stabilityJudge(PRESET, known)
        const stable = settlingTrace('clean', randomStream(seed), habit).samples.find((sample) =>
          isTaken('known', judge.push(sample).state),
        )
        return stable?.t ?? PRESET.limitSeconds
      }),
    )
  for (let i = 0; i < 4; i++) {
    const judge = stabilityJudge(PRESET)
    for (const s of settlingTrace('clean', random, habitAtNextVisit(habit, random)).samples) judge.push(s)
    const signature = judge.signature()
    if (signature) past.push(signature)
  }
  expect(past).toHaveLength(4)
  expect(past[0]?.shares.at(-1)).toBeCloseTo(0, 1)
  expect(meanTimeToStable(past)).toBeLessThan(meanTimeToStable([]))
})

it('a past that was never seen at rest does not make a creep less likely', () => {
  const tail = (t: number) => 0.9 * Math.exp(-t / 4) + 0.1 * Math.exp(-t / 60)
  const riskAfter = (seconds: number, rested: boolean | null) => {
    const signature = { shares: SIGNATURE_TIMES.map(tail), jump: 90, ...(rested === null ? {} : { rested }) }
    const hypotheses = [...openHypotheses(PRESET), ...historyHypotheses(PRESET, [signature, signature, signature])]
    const set = new HypothesisSet(hypotheses, 90, PRESET.span, 0.01)
    for (let t = 1; t <= seconds; t++) {
      set.advance(t, 1, 0)
      set.update(90 * tail(t), set.predict().each, 0.01)
      set.prune()
    }
    return set.believe(seconds, 0, harmlessCreep(PRESET), PRESET.resolution).creepRisk
  }
  for (const seconds of [60, 90, 120]) {
    expect(riskAfter(seconds, true)).toBeLessThan(0.7 * riskAfter(seconds, false))
    expect(riskAfter(seconds, null)).toBe(riskAfter(seconds, false))
  }
})

describe('mixtures', () => {
  const parts: WeightedNormal[] = [
    { weight: 0.7, mean: 0, sd: 1 },
    { weight: 0.3, mean: 4, sd: 0.5 },
  ]

  it('have a 95 % half-width that holds 95 %', () => {
    const centre = mixtureMean(parts)
    const half = halfWidth95(parts, centre, 1)
    const inside = parts.reduce(
      (sum, p) =>
        sum + p.weight * (normalCdf((centre + half - p.mean) / p.sd) - normalCdf((centre - half - p.mean) / p.sd)),
      0,
    )
    expect(inside).toBeCloseTo(0.95, 2)
  })

  it('of one part are that part', () => expect(halfWidth95([{ weight: 1, mean: 3, sd: 2 }], 3, 2)).toBeCloseTo(3.92, 1))
})

describe('noise estimate', () => {
  it('measures the scatter on a slope, and the last digit of a coarse display', () => {
    const random = randomStream(6)
    const fine = new NoiseEstimate(0.2)
    for (let i = 0; i < 400; i++) fine.push(i / 2, 0.3 * i + 0.4 * random.normal())
    expect(fine.scatter).toBeCloseTo(0.4, 1)
    expect(fine.displayVariance()).toBe(0)
    const coarse = new NoiseEstimate(0.2)
    for (let i = 0; i < 200; i++) coarse.push(i / 2, Math.round(20 * Math.exp(-i / 40)))
    expect(Math.sqrt(12 * coarse.displayVariance())).toBeCloseTo(1, 6)
  })

  it('takes a display that stands still for news only now and then', () => {
    const noise = new NoiseEstimate(0.2)
    const news = Array.from({ length: 40 }, (_, i) => noise.push(i / 2, 5)).filter(Boolean).length
    expect(news).toBeLessThan(9)
    expect(noise.push(30, 5)).toBe(true)
  })
})

describe('temperature watch', () => {
  const watch = (temperature: (t: number) => number, until: number) => {
    const w = new TemperatureWatch(0.5)
    for (let t = 0; t <= until; t += 0.5) w.push(t, temperature(t))
    return w
  }

  it('lets a small rest of an approach pass, and not a large one', () => {
    const approach = (t: number) => 25 - 8 * Math.exp(-t / 40)
    expect(watch(approach, 30).foreseen).toBe(false)
    expect(watch(approach, 30).secondsToGo).toBeGreaterThan(15)
    expect(watch(approach, 200).foreseen).toBe(true)
  })

  it('is not upset by a noisy sensor at rest', () => {
    const random = randomStream(3)
    expect(watch(() => 25 + 0.05 * random.normal(), 60).foreseen).toBe(true)
  })
})

describe('readings rounded by a display', () => {
  it('keeps the preset where the last digit is finer than the sensor', () => {
    const preset = conductivityPreset(12)
    expect(roundedPreset(preset, 0.01)).toBe(preset)
  })

  it('asks for no more than the last digit tells: a resting reading is taken, and its interval holds the end', () => {
    // 12 mS/cm on a display that shows the salinity to 0.1: one digit is 0.16 mS/cm.
    const [end, step] = [12, 0.16]
    const random = randomStream(7)
    const covered = Array.from({ length: 40 }, () => {
      const judge = stabilityJudge(roundedPreset(conductivityPreset(12), step))
      const phase = step * random.uniform()
      for (let t = 0; t < 240; t += 6) {
        const value = end + 0.01 * random.normal() + 1.5 * Math.exp(-t / 8)
        const shown = phase + step * Math.round((value - phase) / step)
        const opinion = judge.push({ t, value: shown, temperature: 22 })
        if (isTaken('known', opinion.state)) return Math.abs(opinion.predictedEnd - end) < step
      }
      return false
    })
    expect(covered.filter(Boolean).length).toBeGreaterThanOrEqual(38)
  })
})

describe('the stopwatch schools', () => {
  it('take a reading that stood still long enough, or after a flat wait', () => {
    const still = stillFor(10, 0.3)
    const answers = [0, 4, 8, 12, 14].map((t) => still.push({ t, value: t < 4 ? 9 : 5 }))
    expect(answers).toEqual([false, false, false, false, true])
    const flat = flatWait(120)
    expect([0, 119, 121].map((t) => flat.push({ t, value: 0 }))).toEqual([false, false, true])
  })
})

it('a preset that knows what a reading comes to spans the way there, doubling by doubling', () => {
  const cell = conductivityPreset(1413)
  expect(spanningFrom(PRESET, 1e6)).toBe(PRESET)
  expect(spanningFrom(cell, 1413)).toBe(cell)
  expect(spanningFrom(cell, 0)).toBe(cell)
  const far = spanningFrom(cell, 12_000)
  expect(far.span).toBe(8 * cell.span)
  expect(far.span).toBeGreaterThanOrEqual(2 * (12_000 - 1413))
  expect(spanningFrom(cell, 11_000)).toBe(far)
  expect(spanningFrom(cell, Number.NaN)).toBe(cell)
  expect(spanningFrom(cell, 1e300).span).toBe(1024 * cell.span)
})
