import { describe, expect, it } from 'vitest'
import { heavy } from '../../../lab/src/fixtures/heavy.ts'
import {
  CELL_SHAPES,
  CELL_STANDARD,
  type CellShape,
  cellDip,
  drawCell,
} from '../../../lab/src/otherSimulation/cellDips.ts'
import type { Dip } from '../../../lab/src/otherSimulation/dipOf.ts'
import { drawIon, ION_SHAPES, type IonShape, ionDip } from '../../../lab/src/otherSimulation/ionDips.ts'
import { dip, drawNature, SETTLING_SHAPES, type SettlingShape } from '../../../lab/src/otherSimulation/settling.ts'
import { compareSchools, summarise } from '../../../lab/src/simulation/compareSchools.ts'
import { conductivityPreset } from '../kinds/conductivity/presets.ts'
import { ION_MILLIVOLTS } from '../kinds/ion/presets.ts'
import { PH_MILLIVOLTS, PH_VALUE } from '../kinds/ph/presets.ts'
import { randomStream } from '../statistics/random.ts'
import { isTaken } from './grade.ts'
import { stabilityJudge } from './judge.ts'
import type { StabilityOpinion } from './opinion.ts'
import type { StabilityPreset } from './presets.ts'

const PRESET = PH_MILLIVOLTS

/** Feeds a curve at 2 Hz and returns every opinion. */
function watch(curve: (t: number) => number | null, seconds: number, temperature: (t: number) => number = () => 25) {
  const random = randomStream(9)
  const judge = stabilityJudge(PRESET)
  const opinions: (StabilityOpinion & { t: number })[] = []
  for (let t = 0; t <= seconds; t += 0.5) {
    const value = curve(t)
    opinions.push({
      t,
      ...judge.push({ t, value: value === null ? null : value + 0.08 * random.normal(), temperature: temperature(t) }),
    })
  }
  return opinions
}
const firstStable = (opinions: ReturnType<typeof watch>) => opinions.find((o) => o.state === 'stable')
const fall = (t: number) => -170 + 90 * Math.exp(-t / 4) + 6 * Math.exp(-t / 18)

describe('stability judge against the stopwatch schools', () => {
  // 13 kinds, in full 40 of each: seeded traces of electrodes whose three earlier visits are known, as the Bench has them.
  const contests = compareSchools(20, heavy(4, 40), true)
  const known = summarise(contests, 'known')
  const judge = summarise(contests, 'judge')
  const flat = summarise(contests, 'flat')

  it('knows the end after at most 75 % of the flat wait in the median, and rest soon after it', () => {
    expect(known.medianSeconds / flat.medianSeconds).toBeLessThanOrEqual(0.75)
    expect(judge.medianSeconds / flat.medianSeconds).toBeLessThanOrEqual(1.2)
  })

  it('errs at most 60 % as far as the flat wait at the 95th percentile', () => {
    expect(known.p95Error / flat.p95Error).toBeLessThanOrEqual(0.6)
    expect(judge.p95Error / flat.p95Error).toBeLessThanOrEqual(0.6)
  })

  it('states intervals that hold in at least 93 %', () => {
    expect(known.coverage).toBeGreaterThanOrEqual(0.93)
    expect(judge.coverage).toBeGreaterThanOrEqual(0.93)
  })

  it('accepts at least 95 % of what does settle', () => expect(judge.accepted).toBeGreaterThanOrEqual(0.95))
})

/** First offer of each grade on a trace of the other simulation. */
function watchDip(trace: Dip<string>, preset = PRESET as StabilityPreset) {
  const judge = stabilityJudge(preset)
  let known: StabilityOpinion | undefined
  let creeping: (StabilityOpinion & { t: number }) | undefined
  for (const sample of trace.samples) {
    const opinion = judge.push(sample)
    if (isTaken('known', opinion.state)) known ??= opinion
    if (opinion.state === 'creeping') creeping ??= { ...opinion, t: sample.t }
    if (opinion.state === 'stable') return { known, creeping, stable: opinion }
  }
  return { known, creeping, stable: undefined }
}

type Found = ReturnType<typeof watchDip> & { trace: Dip<string> }

/** Share of what was offered under a grade that holds to what was stated of it. */
function held(found: readonly Found[], grade: 'known' | 'stable'): number {
  const offered = found.flatMap((d) => (d[grade] ? [{ ...d[grade], right: d.trace.end }] : []))
  return offered.filter((o) => Math.abs(o.predictedEnd - o.right) <= o.predictedEndUncertainty).length / offered.length
}

describe('stability judge on electrodes of another simulation', () => {
  const dips = (shapes: readonly SettlingShape[], each: number) => {
    const random = randomStream(71)
    return shapes.flatMap((shape) =>
      Array.from({ length: each }, () => {
        const own = random.fork()
        const trace = dip(drawNature(shape, own), own)
        return { trace, ...watchDip(trace) }
      }),
    )
  }

  it('calls few of those stable that creep by 0.01 pH a minute or more, whichever way they settle', () => {
    const creeping = dips(['creeping on', 'creeping back'], heavy(12, 60))
    expect(creeping.filter((d) => d.stable).length / creeping.length).toBeLessThanOrEqual(0.1)
  })

  it('knows the end of those that rest to what it states, in nine of ten and more', () => {
    const resting = SETTLING_SHAPES.filter((shape) => !shape.startsWith('creeping'))
    const found = dips(resting, heavy(3, 30))
    for (const grade of ['known', 'stable'] as const)
      expect(found.filter((d) => d[grade]).length / found.length).toBeGreaterThan(0.85)
    expect(held(found, 'known')).toBeGreaterThanOrEqual(0.9)
    expect(held(found, 'stable')).toBeGreaterThanOrEqual(0.93)
  })

  // Cells hold 95.4 ± 2.7 % and ions 92.4 ± 4.3 % at full length: few of each are a share of that.
  it('knows the end of cells and ion electrodes to what it states, and calls few that creep stable', () => {
    const random = randomStream(72)
    const cell = conductivityPreset(CELL_STANDARD)
    const cells = CELL_SHAPES.flatMap((shape: CellShape) =>
      Array.from({ length: heavy(3, 24) }, () => {
        const own = random.fork()
        const trace = cellDip(drawCell(shape, own), own)
        return { trace, ...watchDip(trace, cell) }
      }),
    )
    const ions = ION_SHAPES.flatMap((shape: IonShape) =>
      Array.from({ length: heavy(1, 12) }, () => {
        const own = random.fork()
        const trace = ionDip(drawIon(shape, own), own)
        return { trace, ...watchDip(trace, ION_MILLIVOLTS) }
      }),
    )
    for (const [all, harmful] of [
      [cells, 0.0025 * CELL_STANDARD],
      [ions, 0.6],
    ] as const) {
      const resting = all.filter((d) => d.trace.creep === 0)
      expect(resting.filter((d) => d.known).length / resting.length).toBeGreaterThan(0.8)
      expect(held(resting, 'known')).toBeGreaterThanOrEqual(0.85)
      expect(held(resting, 'stable')).toBeGreaterThanOrEqual(0.9)
      const fast = all.filter((d) => Math.abs(d.trace.creep) >= harmful)
      expect(fast.filter((d) => d.stable).length / fast.length).toBeLessThanOrEqual(0.1)
    }
  })

  it('says of a cell that creeps how far it goes in two minutes on the wall, whatever its own pace', () => {
    const random = randomStream(73)
    const cell = conductivityPreset(CELL_STANDARD)
    const found = Array.from({ length: heavy(16, 60) }, () => {
      const own = random.fork()
      const trace = cellDip(drawCell('creeping slowly', own), own)
      return { trace, ...watchDip(trace, cell) }
    })
    const said = found.flatMap(({ creeping, trace }) => (creeping ? [{ creeping, trace }] : []))
    expect(said.length).toBeGreaterThan(2)
    const holds = said.filter(({ creeping: { predictedEnd, predictedEndUncertainty, t }, trace }) =>
      [0, 120].every(
        (later) => Math.abs(trace.end + (trace.creep * (t + later)) / 60 - predictedEnd) <= predictedEndUncertainty,
      ),
    )
    expect(holds.length / said.length).toBeGreaterThanOrEqual(0.85)
  })
})

describe('stability judge', () => {
  it('knows the end of a plain fall early, and is right about it', () => {
    const found = firstStable(watch(fall, 200))
    expect(found?.t).toBeLessThan(110)
    expect(Math.abs((found?.predictedEnd ?? 0) + 170)).toBeLessThan(found?.predictedEndUncertainty ?? 0)
  })

  it('never accepts what creeps for ever, and calls it not settled at the limit', () => {
    for (const perMinute of [1, -2.5, 5]) {
      const opinions = watch((t) => -40 + (perMinute * t) / 60, 400)
      expect(firstStable(opinions)).toBeUndefined()
      expect(opinions.at(-1)?.state).toBe('unsettled')
    }
  })

  it('says after how long the end was known, however long is waited for rest', () => {
    const opinions = watch(fall, 200)
    const known = opinions.find((o) => o.state === 'known' || o.state === 'stable')
    const stable = firstStable(opinions)
    expect(known?.knownAfter).toBeLessThanOrEqual(known?.t ?? 0)
    expect(stable?.knownAfter).toBe(known?.knownAfter)
    expect(opinions.at(-1)?.knownAfter).toBe(known?.knownAfter)
    expect(opinions[10]?.knownAfter).toBeUndefined()
  })

  it('sees a bubble come and go, and starts over', () => {
    const opinions = watch((t) => fall(t) + (t > 60 && t < 75 ? 9 : 0), 260)
    const disturbed = opinions.filter((o) => o.state === 'disturbed')
    expect(disturbed.some((o) => o.t > 60 && o.t < 66)).toBe(true)
    const after = opinions.filter((o) => o.state === 'stable' && o.t > 76)
    expect(after.length).toBeGreaterThan(0)
    for (const o of after) expect(Math.abs(o.predictedEnd + 170)).toBeLessThan(1.8)
  })

  it('goes on with what it knew when a bubble leaves the reading where it was foreseen', () => {
    const without = firstStable(watch(fall, 260))
    const opinions = watch((t) => fall(t) + (t > 40 && t < 55 ? 9 : 0), 260)
    const with_ = opinions.find((o) => o.state === 'stable' && o.t > 56)
    // The bubble and its going cost about as long as they lasted, not a new settling.
    expect((with_?.t ?? 999) - (without?.t ?? 0)).toBeLessThan(20)
    expect(with_?.elapsed).toBeCloseTo(with_?.t ?? 0, -1)
  })

  it('says of a slow creep that it creeps, and how far it may go in two minutes', () => {
    const creep = 0.5
    const opinions = watch((t) => fall(t) + (creep * t) / 60, 300)
    const said = opinions.find((o) => o.state === 'creeping')
    expect(said?.reason).toBe('slow-creep')
    for (const later of [0, 60, 120]) {
      const right = -170 + (creep * ((said?.t ?? 0) + later)) / 60
      expect(Math.abs((said?.predictedEnd ?? 0) - right)).toBeLessThan(said?.predictedEndUncertainty ?? 0)
    }
  })

  it('is not settled while the temperature still moves, though the value stands', () => {
    const opinions = watch(
      () => -170,
      120,
      (t) => 25 - 0.03 * t,
    )
    expect(firstStable(opinions)).toBeUndefined()
    expect(opinions.some((o) => o.reason === 'temperature-moving')).toBe(true)
  })

  it('says when the signal is lost, and goes on after', () => {
    const opinions = watch((t) => (t > 20 && t < 24 ? null : -170), 90)
    expect(opinions.find((o) => o.t === 22)).toMatchObject({ state: 'disturbed', reason: 'signal-lost' })
    expect(opinions.at(-1)?.state).toBe('stable')
  })

  it('learns nothing from the same reading shown again and again', () => {
    const refreshed = watch((t) => fall(6 * Math.floor(t / 6)), 200)
    const found = firstStable(refreshed)
    expect(Math.abs((found?.predictedEnd ?? 0) + 170)).toBeLessThan(1.8)
  })

  it('works from a few typed readings with two decimals, and asks for the next one in sensible time', () => {
    const judge = stabilityJudge(PH_VALUE)
    let t = 0
    let opinion = judge.push({ t, value: 7.4, temperature: 23 })
    let typed = 1
    while (opinion.state !== 'stable' && typed < 30) {
      expect(opinion.nextReadingIn).toBeGreaterThanOrEqual(5)
      expect(opinion.nextReadingIn).toBeLessThanOrEqual(60)
      t += opinion.nextReadingIn
      opinion = judge.push({ t, value: Math.round(100 * (7.02 + 0.4 * Math.exp(-t / 9))) / 100, temperature: 23 })
      typed++
    }
    expect(opinion.state).toBe('stable')
    expect(opinion.predictedEnd).toBeCloseTo(7.02, 1)
  })

  it('ignores a clock that stands still or runs back, and refuses one that is no number', () => {
    const judge = stabilityJudge(PRESET)
    const first = judge.push({ t: 10, value: 5 })
    expect(judge.push({ t: 10, value: 50 })).toBe(first)
    expect(judge.push({ t: 3, value: 50 })).toBe(first)
    expect(() => judge.push({ t: Number.NaN, value: 5 })).toThrow(/Time of a reading/)
  })

  it('never answers with a number that is not finite', () => {
    const cell = stabilityJudge(conductivityPreset(CELL_STANDARD))
    const broken = Array.from({ length: 120 }, (_, i) => ({
      t: i / 2,
      ...cell.push({ t: i / 2, value: i < 10 ? 1e12 : CELL_STANDARD + (i % 3) }),
    }))
    for (const o of [...watch((t) => (t < 5 ? 1e4 : -1e4), 60), ...broken]) {
      for (const key of [
        'predictedEnd',
        'predictedEndUncertainty',
        'confidence',
        'noise',
        'driftPerMinute',
        'elapsed',
      ] as const) {
        expect(Number.isFinite(o[key]), `${key} at ${o.t}`).toBe(true)
      }
    }
  })
})
