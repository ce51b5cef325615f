import type { SettlingSignature, Stopwatch } from '@frustum/core'
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
  USUAL_PRACTICES,
} from '@frustum/core'
import {
  dip,
  drawNature,
  HELD_BACK_SHAPES,
  natureNextTime,
  type OtherTrace,
  SETTLING_SHAPES,
} from '@frustum/core/other-simulation'
import type { BenchRow } from './ageing.ts'
import { withInterval } from './intervals.ts'

const PRESET = PH_MILLIVOLTS
const PER_PH = nernstSlope(25)
const PAST_VISITS = 3
const WATCHED = 130
/** Creep of 0.01 pH a minute and more must not be called rest, mV a minute. */
const CREEPS = 0.01 * PER_PH

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

interface Watched {
  trace: OtherTrace
  known: Offer | null
  stable: Offer | null
  creeping: Offer | null
}

/** The judge on traces of the other simulation: what it offered first under each name. */
function watchOtherTraces(
  shapes: readonly OtherTrace['shape'][],
  { seed, each, withPast = false }: { seed: number; each: number; withPast?: boolean },
): Watched[] {
  const random = randomStream(seed)
  return shapes.flatMap((shape) =>
    Array.from({ length: each }, () => {
      const own = random.fork()
      let nature = drawNature(shape, own)
      const past: SettlingSignature[] = []
      for (let visit = 0; withPast && visit < PAST_VISITS; visit++) {
        nature = natureNextTime(nature, own)
        const judge = stabilityJudge(PRESET, past)
        for (const sample of dip(nature, own).samples) if (sample.t <= WATCHED) judge.push(sample)
        const signature = judge.signature()
        if (signature) past.push(signature)
      }
      return watch(dip(withPast ? natureNextTime(nature, own) : nature, own), past)
    }),
  )
}

function watch(trace: OtherTrace, past: readonly SettlingSignature[]): Watched {
  const judge = stabilityJudge(PRESET, past)
  const found: Watched = { trace, known: null, stable: null, creeping: null }
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

function score(watched: readonly Watched[], grade: 'known' | 'stable'): Score {
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
    text: `offered ${withInterval(offers.length / resting.length, resting.length)}, t ${seconds.toFixed(0)} s (p90 ${at((o) => o.seconds, 0.9).toFixed(0)}), p95 error ${pH(p95)} pH (bare reading ${pH(at((o) => o.bare, 0.95))}), stated 95 % holds in ${withInterval(holds, offers.length)}`,
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
    stopwatchOf({ ...USUAL_PRACTICES, settling }, flatWaitSeconds, PRESET.repeatability) as Stopwatch
  return [read(by('flat'), `flat ${flatWaitSeconds} s`), read(by('still'), '15 s still')]
}

const SLOW_LINES = [5, 20, 60]
const DIGIT = 0.01 * PER_PH

/** Lines that come seldom, rounded to 0.01 pH as a display does. */
function slowLines(watched: readonly Watched[], apart: number): string {
  const judged = watched.map(({ trace }) => {
    const readings: [number, number][] = []
    let next = 0
    let known: { t: number; holds: boolean } | null = null
    for (const { t, value } of trace.samples) {
      if (t < next) continue
      next += apart
      readings.push([t, Math.round((value as number) / DIGIT) * DIGIT])
      const opinion = sparseOpinion(readings, Math.max(PRESET.resolution, DIGIT), harmlessCreep(PRESET), t)
      if (!opinion || !isTaken('known', opinion.state)) continue
      const off = Math.abs(opinion.predictedEnd - trace.end - (trace.creep * t) / 60)
      known ??= { t, holds: off <= opinion.predictedEndUncertainty }
      if (opinion.state === 'stable') return { trace, known, stable: t as number | null }
    }
    return { trace, known, stable: null }
  })
  const resting = judged.filter((j) => j.trace.creep === 0)
  const known = resting.flatMap((j) => j.known ?? [])
  const fast = judged.filter((j) => Math.abs(j.trace.creep) >= CREEPS)
  if (known.length === 0) return 'never known'
  const holds = known.filter((k) => k.holds).length / known.length
  return `known after ${quantile(
    known.map((k) => k.t),
    0.5,
  ).toFixed(
    0,
  )} s, holds in ${withInterval(holds, known.length)}; creep of 0.01 pH/min and more called stable ${withInterval(fast.filter((j) => j.stable !== null).length / fast.length, fast.length)}`
}

/** Rows of the bench: what holds on electrodes of another simulation. */
export function otherSettlingRows(each = 30): BenchRow[] {
  const rows: BenchRow[] = []
  const row = (what: string, measured: string, wanted = '', ok: boolean | null = null) =>
    rows.push({ what, measured, wanted, ok })
  for (const withPast of [false, true]) {
    const watched = watchOtherTraces(SETTLING_SHAPES, { seed: 1, each, withPast })
    const [known, stable] = [score(watched, 'known'), score(watched, 'stable')]
    row(
      `settling elsewhere, ${withPast ? 'with its own past' : 'unknown electrode'}: end known`,
      known.text,
      'median 80 s, p95 0.018 pH, holds in 93 to 98 %',
      known.seconds <= 80 && known.p95 <= 0.018 * PER_PH && known.holds >= 0.93,
    )
    row('  rest known', stable.text, 'median 110 s, holds in 93 to 98 %', stable.seconds <= 110 && stable.holds >= 0.93)
    const fast = watched.filter((w) => Math.abs(w.trace.creep) >= CREEPS)
    const fooled = fast.filter((w) => w.stable).length / fast.length
    row('  creep of 0.01 pH/min and more called stable', withInterval(fooled, fast.length), 'under 5 %', fooled < 0.05)
    const said = watched.flatMap((w) => w.creeping ?? [])
    const kept = said.filter((o) => o.holds).length / said.length
    row('  "creeping, ± x" holds', withInterval(kept, said.length), 'at least 93 %', kept >= 0.93)
    for (const shape of SETTLING_SHAPES.filter((s) => !s.startsWith('creeping'))) {
      const those = watched.filter((w) => w.trace.shape === shape)
      const held = (grade: 'known' | 'stable') => score(those, grade).holds
      row(
        `    ${shape}`,
        `holds in ${(100 * held('known')).toFixed(0)} % known, ${(100 * held('stable')).toFixed(0)} % stable; t ${score(those, 'known').seconds.toFixed(0)} and ${score(those, 'stable').seconds.toFixed(0)} s`,
      )
    }
    if (withPast) continue
    for (const school of schools(watched)) row('  by the clock', school)
    for (const apart of SLOW_LINES) row(`  a line every ${apart} s`, slowLines(watched, apart))
  }
  return rows
}

const HELD_BACK_SEED = 55_021
const HELD_BACK = 60

/** Traces and shapes that nobody looked at while the judge was changed. */
export function heldBackSettling(today: string): string[] {
  const known = watchOtherTraces(SETTLING_SHAPES, { seed: HELD_BACK_SEED, each: HELD_BACK })
  const shapes = watchOtherTraces(HELD_BACK_SHAPES, { seed: HELD_BACK_SEED, each: HELD_BACK })
  const fast = known.filter((w) => Math.abs(w.trace.creep) >= CREEPS)
  return [
    '## Settling',
    '',
    `Written by \`npm run held-back\` on ${today}: ${known.length} traces of the shapes that the judge was tried on, with seeds that it`,
    `was not (${HELD_BACK_SEED}), and ${shapes.length} of four shapes that it never was.`,
    '',
    `- End known: ${score(known, 'known').text}.`,
    `- Rest known: ${score(known, 'stable').text}.`,
    `- Creep of 0.01 pH/min and more called stable: ${withInterval(fast.filter((w) => w.stable).length / fast.length, fast.length)}.`,
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
