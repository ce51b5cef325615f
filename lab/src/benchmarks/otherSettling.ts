import type {
  Display,
  RandomStream,
  SettlingGrade,
  SettlingSignature,
  StabilityJudge,
  StabilityOpinion,
  StabilityPreset,
  Stopwatch,
} from '@frustum/core'

import {
  harmlessCreep,
  isTaken,
  kindOf,
  nernstSlope,
  PH_MILLIVOLTS,
  quantile,
  randomStream,
  sparseOpinion,
  stabilityJudge,
  stopwatchOf,
  typedOpinion,
  USUAL_PRACTICES,
} from '@frustum/core'
import {
  CELL_SHAPES,
  CELL_STANDARD,
  type CellNature,
  type CellShape,
  cellDip,
  cellNextTime,
  type Dip,
  dip,
  drawCell,
  drawIon,
  drawNature,
  type ElectrodeNature,
  HELD_BACK_SHAPES,
  ION_SHAPES,
  type IonNature,
  type IonShape,
  ionDip,
  ionNextTime,
  natureNextTime,
  type OtherTrace,
  SETTLING_SHAPES,
} from '@frustum/lab/other-simulation'
import { SCHOOL_SUBJECTS } from '@frustum/lab/simulation'
import type { BenchRow } from './ageing.ts'
import { withInterval } from './intervals.ts'

const PER_PH = nernstSlope(25)
const PAST_VISITS = 3

/** A kind of sensor in the other simulation. */
interface Subject<Shape extends string, Nature> {
  preset: StabilityPreset
  shapes: readonly Shape[]
  draw: (shape: Shape, random: RandomStream) => Nature
  nextTime: (nature: Nature, random: RandomStream) => Nature
  dip: (nature: Nature, random: RandomStream) => Dip<Shape>
  /** Creep of so much a minute must not be called rest. */
  creeps: number
  /** How errors are told, and in what. */
  scale: number
  unit: string
}

const PH: Subject<OtherTrace['shape'], ElectrodeNature> = {
  preset: PH_MILLIVOLTS,
  shapes: SETTLING_SHAPES,
  draw: drawNature,
  nextTime: natureNextTime,
  dip,
  creeps: 0.01 * PER_PH,
  scale: 1 / PER_PH,
  unit: 'pH',
}
const CELL: Subject<CellShape, CellNature> = {
  preset: SCHOOL_SUBJECTS.conductivity.preset,
  shapes: CELL_SHAPES,
  draw: drawCell,
  nextTime: cellNextTime,
  dip: cellDip,
  creeps: 0.0025 * CELL_STANDARD,
  scale: 100 / CELL_STANDARD,
  unit: '%',
}
const ION: Subject<IonShape, IonNature> = {
  preset: SCHOOL_SUBJECTS.ion.preset,
  shapes: ION_SHAPES,
  draw: drawIon,
  nextTime: ionNextTime,
  dip: ionDip,
  creeps: 0.6,
  scale: 1,
  unit: 'mV',
}

interface Offer {
  seconds: number
  /** mV from where it is at rest, or from where a creep has come to. */
  error: number
  halfWidth: number
  /** Of the bare reading at that moment. */
  bare: number
  /** Whether its half-width holds at that moment and, of a creep, for two minutes more. */
  holds: boolean
}

interface Watched<Shape extends string = string> {
  trace: Dip<Shape>
  known: Offer | null
  stable: Offer | null
  creeping: Offer | null
}

/** The judge on traces of the other simulation: what it offered first under each name. */
function watchOtherTraces<Shape extends string, Nature>(
  subject: Subject<Shape, Nature>,
  { seed, each, past: waitedFor, forgotten = false, shapes = subject.shapes }: Wanted & { shapes?: readonly Shape[] },
): Watched<Shape>[] {
  const random = randomStream(seed)
  const { draw, nextTime, dip: dipOf, preset } = subject
  return shapes.flatMap((shape) =>
    Array.from({ length: each }, () => {
      const own = random.fork()
      let nature = draw(shape, own)
      const past: SettlingSignature[] = []
      for (let visit = 0; waitedFor && visit < PAST_VISITS; visit++) {
        nature = nextTime(nature, own)
        const { samples } = dipOf(nature, own)
        const signature = forgotten ? null : signatureOf(samples, stabilityJudge(preset, past), waitedFor)
        if (signature) past.push(signature)
      }
      return watch(dipOf(waitedFor ? nextTime(nature, own) : nature, own), stabilityJudge(preset, past))
    }),
  )
}

/** What a visit leaves behind that waited for this much. */
function signatureOf(samples: Dip<string>['samples'], judge: StabilityJudge, waitedFor: SettlingGrade) {
  for (const sample of samples) if (isTaken(waitedFor, judge.push(sample).state)) break
  return judge.signature()
}

interface Wanted {
  seed: number
  each: number
  /** The last of several visits, the ones before it having waited for this much. */
  past?: SettlingGrade
  /** The same visit, judged as if there had been none before. */
  forgotten?: boolean
}

function watch<Shape extends string>(trace: Dip<Shape>, judge: StabilityJudge): Watched<Shape> {
  const found: Watched<Shape> = { trace, known: null, stable: null, creeping: null }
  for (const sample of trace.samples) {
    const { state, predictedEnd, predictedEndUncertainty: halfWidth } = judge.push(sample)
    if (!isTaken('known', state)) continue
    const at = (later: number) => trace.end + (trace.creep * (sample.t + later)) / 60
    const off = (later: number) => Math.abs(predictedEnd - at(later))
    const offer = {
      seconds: sample.t,
      error: off(0),
      halfWidth,
      bare: Math.abs((sample.value as number) - at(0)),
      holds: off(0) <= halfWidth && (state !== 'creeping' || off(120) <= halfWidth),
    }
    found.known ??= offer
    if (state === 'stable') found.stable ??= offer
    if (state === 'creeping') found.creeping ??= offer
    if (found.stable) break
  }
  return found
}

const isCreep = ({ trace }: Watched) => trace.creep !== 0
const pH = (millivolts: number) => (millivolts / PER_PH).toFixed(4)

interface Score {
  text: string
  seconds: number
  p95: number
  holds: number
}

type Told = Pick<Subject<string, unknown>, 'scale' | 'unit'>

type Grade = 'known' | 'stable'

function score(watched: readonly Watched[], grade: Grade, { scale, unit }: Told = PH): Score {
  const told = (error: number) => (scale * error).toFixed(4)
  const resting = watched.filter((w) => !isCreep(w))
  const offers = resting.flatMap((w) => w[grade] ?? [])
  const at = (of: (o: Offer) => number, share: number) => quantile(offers.map(of), share)
  const holds = offers.filter((o) => o.holds).length / offers.length
  const seconds = at((o) => o.seconds, 0.5)
  const p95 = at((o) => o.error, 0.95)
  return {
    seconds,
    p95,
    holds,
    text: `offered ${withInterval(offers.length / resting.length, resting.length)}, t ${seconds.toFixed(0)} s (p90 ${at((o) => o.seconds, 0.9).toFixed(0)}), p95 error ${told(p95)} ${unit} (bare reading ${told(at((o) => o.bare, 0.95))}), stated 95 % holds in ${withInterval(holds, offers.length)}`,
  }
}

/** Where people are without a judge: the same traces, read by the clock and by the digits that stand still. */
function schools(watched: readonly Watched[]): string[] {
  const { flatWaitSeconds } = kindOf('ph')
  const resting = watched.filter((w) => !isCreep(w))
  const read = (school: () => Stopwatch, name: string) => {
    const taken = resting.flatMap(({ trace }) => {
      const stopwatch = school()
      const sample = trace.samples.find((s) => stopwatch.push(s))
      return sample ? [{ t: sample.t, error: Math.abs((sample.value as number) - trace.end) }] : []
    })
    return `${name}: t ${quantile(
      taken.map((s) => s.t),
      0.5,
    ).toFixed(0)} s, p95 error ${pH(
      quantile(
        taken.map((s) => s.error),
        0.95,
      ),
    )} pH`
  }
  const by = (settling: 'flat' | 'still') => () =>
    stopwatchOf({ ...USUAL_PRACTICES, settling }, flatWaitSeconds, PH.preset.repeatability) as Stopwatch
  return [read(by('flat'), `flat ${flatWaitSeconds} s`), read(by('still'), '15 s still')]
}

const DIGIT = 0.01 * PER_PH

/** How a display or a line is looked at that shows the readings seldom, rounded to 0.01 pH. */
interface Seldom {
  name: string
  /** Seconds in the solution at the first reading, and between readings. */
  from: number
  apart: number
  opinion: (readings: readonly [number, number][], t: number) => StabilityOpinion | null
}

const HARMLESS = harmlessCreep(PH.preset)
const DISPLAY: Display = {
  digit: DIGIT,
  resolution: PH.preset.resolution,
  harmless: HARMLESS,
  goesOn: kindOf('ph').flatWaitSeconds,
}

const SELDOM: Seldom[] = [
  ...[5, 20, 60].map((apart) => ({
    name: `a line every ${apart} s`,
    from: 0,
    apart,
    opinion: (readings: readonly [number, number][], t: number) =>
      sparseOpinion(readings, Math.max(PH.preset.resolution, DIGIT), HARMLESS, t),
  })),
  ...[
    [15, 15],
    [40, 30],
  ].map(([from, apart]) => ({
    name: `typed off a display after ${from} s, every ${apart} s`,
    from: from as number,
    apart: apart as number,
    opinion: (readings: readonly [number, number][], now: number) =>
      typedOpinion(
        readings.map(([t, value]) => ({ t, value, still: false })),
        DISPLAY,
        now,
      ),
  })),
]

function lookSeldom(watched: readonly Watched[], { from, apart, opinion: opinionOf }: Seldom): string {
  const judged = watched.map(({ trace }) => {
    const readings: [number, number][] = []
    let next = from
    let known: { t: number; off: number; holds: boolean } | null = null
    for (const { t, value } of trace.samples) {
      if (t < next) continue
      next += apart
      readings.push([t, Math.round((value as number) / DIGIT) * DIGIT])
      const opinion = opinionOf(readings, t)
      if (!opinion || !isTaken('known', opinion.state)) continue
      const off = Math.abs(opinion.predictedEnd - trace.end - (trace.creep * t) / 60)
      known ??= { t, off, holds: off <= opinion.predictedEndUncertainty }
      if (opinion.state === 'stable') return { trace, known, stable: t as number | null }
    }
    return { trace, known, stable: null }
  })
  const resting = judged.filter((j) => j.trace.creep === 0)
  const known = resting.flatMap((j) => j.known ?? [])
  const fast = judged.filter((j) => Math.abs(j.trace.creep) >= PH.creeps)
  if (known.length === 0) return 'never known'
  const at = (of: (k: (typeof known)[number]) => number, share: number) => quantile(known.map(of), share)
  const holds = known.filter((k) => k.holds).length / known.length
  return `known after ${at((k) => k.t, 0.5).toFixed(0)} s, p95 error ${pH(at((k) => k.off, 0.95))} pH, holds in ${withInterval(holds, known.length)}; creep of 0.01 pH/min and more called stable ${withInterval(fast.filter((j) => j.stable !== null).length / fast.length, fast.length)}`
}

/** Which past a visit has, and how it is told. */
const PASTS: [string, Pick<Wanted, 'past' | 'forgotten'>][] = [
  ['unknown electrode', {}],
  ['its past waited for rest', { past: 'rest' }],
  ['the same visits without that past', { past: 'rest', forgotten: true }],
  ['its past waited for the end', { past: 'known' }],
]

/** Rows of the bench: what holds on electrodes of another simulation. */
export function otherSettlingRows(each = 30): BenchRow[] {
  return PASTS.flatMap(([name, past]) => {
    const watched = watchOtherTraces(PH, { seed: 1, each, ...past })
    const rows = gradeRows(`settling elsewhere, ${name}`, PH, watched, { seconds: 80, p95: 0.018 * PER_PH, rest: 110 })
    if (past.past) return rows
    return [
      ...rows,
      ...schools(watched).map((measured) => ({ what: '  by the clock', measured, wanted: '', ok: null })),
      ...SELDOM.map((seldom) => ({
        what: `  ${seldom.name}`,
        measured: lookSeldom(watched, seldom),
        wanted: 'holds in 93 to 98 %, under 5 %',
        ok: null,
      })),
    ]
  })
}

/** Cells and ion electrodes of the other simulation. */
export function otherKindRows(each = 20): BenchRow[] {
  return PASTS.flatMap(([name, past]) => {
    const wanted = { seed: 2, each, ...past }
    return [
      ...gradeRows(`settling, conductivity elsewhere, ${name}`, CELL, watchOtherTraces(CELL, wanted)),
      ...gradeRows(`settling, ions elsewhere, ${name}`, ION, watchOtherTraces(ION, wanted)),
    ]
  })
}

/** What is wished for besides: medians of the time, s, and the p95 error, units of the reading. */
interface Wish {
  seconds: number
  p95: number
  rest: number
}

/** What was offered on one set of traces, on all and on each shape. */
function gradeRows<Shape extends string>(
  name: string,
  { scale, unit, creeps, shapes }: Pick<Subject<Shape, unknown>, 'scale' | 'unit' | 'creeps' | 'shapes'>,
  watched: readonly Watched<Shape>[],
  wish?: Wish,
): BenchRow[] {
  const scoreOf = (grade: Grade, some = watched) => score(some, grade, { scale, unit })
  const [known, stable] = [scoreOf('known'), scoreOf('stable')]
  const fast = watched.filter((w) => Math.abs(w.trace.creep) >= creeps)
  const fooled = fast.filter((w) => w.stable).length / fast.length
  const said = watched.flatMap((w) => w.creeping ?? [])
  const kept = said.filter((o) => o.holds).length / said.length
  return [
    {
      what: `${name}: end known`,
      measured: known.text,
      wanted: `${wish ? `median ${wish.seconds} s, p95 ${(scale * wish.p95).toFixed(3)} ${unit}, ` : ''}holds in 93 to 98 %`,
      ok: known.holds >= 0.93 && (!wish || (known.seconds <= wish.seconds && known.p95 <= wish.p95)),
    },
    {
      what: '  rest known',
      measured: stable.text,
      wanted: `${wish ? `median ${wish.rest} s, ` : ''}holds in 93 to 98 %`,
      ok: stable.holds >= 0.93 && (!wish || stable.seconds <= wish.rest),
    },
    {
      what: `  creep of ${(scale * creeps).toFixed(2)} ${unit}/min and more called stable`,
      measured: withInterval(fooled, fast.length),
      wanted: 'under 5 %',
      ok: fooled < 0.05,
    },
    {
      what: '  "creeping, ± x" holds',
      measured: withInterval(kept, said.length),
      wanted: 'at least 93 %',
      ok: kept >= 0.93,
    },
    ...shapes
      .filter((shape) => !shape.startsWith('creeping'))
      .map((shape) => {
        const those = watched.filter((w) => w.trace.shape === shape)
        const held = (grade: Grade) => {
          const { holds, seconds } = scoreOf(grade, those)
          return `${(100 * holds).toFixed(0)} % after ${seconds.toFixed(0)} s`
        }
        return {
          what: `    ${shape}`,
          measured: `holds in ${held('known')} known, ${held('stable')} stable`,
          wanted: 'in at least 88 %',
          ok: null,
        }
      }),
  ]
}

const HELD_BACK_SEED = 55_021
const HELD_BACK = 60

const HELD_BACK_KINDS = 20

function heldBackKind<Shape extends string, Nature>(name: string, subject: Subject<Shape, Nature>): string[] {
  const watched = watchOtherTraces(subject, { seed: HELD_BACK_SEED, each: HELD_BACK_KINDS })
  const fast = watched.filter((w) => Math.abs(w.trace.creep) >= subject.creeps)
  return [
    `- ${name}, ${watched.length} traces, end known: ${score(watched, 'known', subject).text}.`,
    `- ${name}, rest known: ${score(watched, 'stable', subject).text}; creep called stable ${withInterval(fast.filter((w) => w.stable).length / fast.length, fast.length)}.`,
  ]
}

/** Traces and shapes that nobody looked at while the judge was changed. */
export function heldBackSettling(today: string): string[] {
  const known = watchOtherTraces(PH, { seed: HELD_BACK_SEED, each: HELD_BACK })
  const shapes = watchOtherTraces(PH, { seed: HELD_BACK_SEED, each: HELD_BACK, shapes: HELD_BACK_SHAPES })
  const fast = known.filter((w) => Math.abs(w.trace.creep) >= PH.creeps)
  return [
    '## Settling',
    '',
    `Written by \`npm run held-back\` on ${today}: ${known.length} traces of the shapes that the judge was tried on, with seeds that it`,
    `was not (${HELD_BACK_SEED}), and ${shapes.length} of four shapes that it never was.`,
    '',
    `- End known: ${score(known, 'known').text}.`,
    `- Rest known: ${score(known, 'stable').text}.`,
    `- Creep of 0.01 pH/min and more called stable: ${withInterval(fast.filter((w) => w.stable).length / fast.length, fast.length)}.`,
    ...heldBackKind('Cells', CELL),
    ...heldBackKind('Ion electrodes', ION),
    ...HELD_BACK_SHAPES.flatMap((shape) => {
      const those = shapes.filter((w) => w.trace.shape === shape)
      return [
        `- ${shape}, end known: ${score(those, 'known').text}.`,
        `- ${shape}, rest known: ${score(those, 'stable').text}.`,
      ]
    }),
    '',
  ]
}
