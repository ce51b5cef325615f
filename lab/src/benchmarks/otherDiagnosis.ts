import {
  CAUSE_WORDS,
  type Cause,
  diagnose,
  evidenceOf,
  type Feature,
  type HealthEvidence,
  type HealthVisit,
  healthVisits,
  kindOf,
  type RandomStream,
  randomStream,
} from '@frustum/core'
import {
  CELL_CAUSES,
  type CellHistory,
  cellHistory,
  ION_CAUSES,
  type IonHistory,
  ionHistory,
  PH_CAUSES,
  type PhHistory,
  type PhPlace,
  phHistory,
} from '@frustum/lab/other-simulation'
import { withInterval } from './intervals.ts'
import { CELL_PLAYED, ionPlayed, PH_PLAYED, type Played, throughProcedures } from './throughProcedures.ts'

const BINS = 10

/** Changes what is known of a history before it is judged: to see what a part of it brings. */
interface Without {
  visits?: (visits: HealthVisit[], history: PhHistory) => HealthVisit[]
  evidence?: (evidence: HealthEvidence) => HealthEvidence
}

interface DiagnosisScore {
  count: number
  /** Shares: named first, among the first two, and of those of which enough was known to say. */
  first: number
  firstTwo: number
  tooLittle: { faulty: number; sound: number }
  firstOfKnown: number
  firstTwoOfKnown: number
  /** Expected calibration error of the first, as a share. */
  calibrationError: number
  byCause: { cause: Cause; first: number; firstTwo: number; tooLittle: number; taken: [Cause, number][] }[]
}

/** The diagnosis of pH histories that are made of readings, by other hands than its own simulator. */
export const judgeOtherHistories = (
  each: number,
  seed: number,
  without: Without = {},
  place: PhPlace = {},
): DiagnosisScore =>
  scoreOf(PH_CAUSES, { each, seed }, (cause, random) => judgePh(phHistory(cause, random, place), without))

/** The same of conductivity cells. */
export const judgeOtherCells = (each: number, seed: number): DiagnosisScore =>
  scoreOf(CELL_CAUSES, { each, seed }, (cause, random) => judgeCell(cellHistory(cause, random)))

/** The same of ion electrodes. */
export const judgeOtherIons = (each: number, seed: number): DiagnosisScore =>
  scoreOf(ION_CAUSES, { each, seed }, (cause, random) => judgeIon(ionHistory(cause, random)))

function scoreOf<C extends Cause>(
  causes: readonly C[],
  { each, seed }: { each: number; seed: number },
  judge: (cause: C, random: RandomStream) => Judged,
): DiagnosisScore {
  const random = randomStream(seed)
  const judged = causes.flatMap((cause) =>
    Array.from({ length: each }, () => ({ cause, ...judge(cause, random.fork()) })),
  )
  const share = (some: readonly unknown[], of: readonly unknown[] = judged) => some.length / Math.max(1, of.length)
  const known = judged.filter((j) => !j.tooLittle)
  const isFirst = (j: (typeof judged)[number]) => j.named[0] === j.cause
  const isAmong = (j: (typeof judged)[number]) => j.named.includes(j.cause)
  const bins = Array.from({ length: BINS }, (_, i) =>
    judged.filter((j) => Math.min(BINS - 1, Math.floor(BINS * j.stated)) === i),
  )
  const apart = (bin: typeof judged) => Math.abs(bin.reduce((sum, j) => sum + j.stated, 0) - bin.filter(isFirst).length)
  const sound = judged.filter((j) => j.cause === 'nothing')
  const faulty = judged.filter((j) => j.cause !== 'nothing')
  return {
    count: judged.length,
    first: share(judged.filter(isFirst)),
    firstTwo: share(judged.filter(isAmong)),
    tooLittle: {
      faulty: share(
        faulty.filter((j) => j.tooLittle),
        faulty,
      ),
      sound: share(
        sound.filter((j) => j.tooLittle),
        sound,
      ),
    },
    firstOfKnown: share(known.filter(isFirst), known),
    firstTwoOfKnown: share(known.filter(isAmong), known),
    calibrationError: bins.reduce((sum, bin) => sum + apart(bin), 0) / judged.length,
    byCause: causes.map((cause) => {
      const own = judged.filter((j) => j.cause === cause)
      const taken = new Map<Cause, number>()
      for (const j of own) if (!isFirst(j)) taken.set(j.named[0] as Cause, (taken.get(j.named[0] as Cause) ?? 0) + 1)
      return {
        cause,
        first: share(own.filter(isFirst), own),
        firstTwo: share(own.filter(isAmong), own),
        tooLittle: share(
          own.filter((j) => j.tooLittle),
          own,
        ),
        taken: [...taken].sort((a, b) => b[1] - a[1]).slice(0, 3),
      }
    }),
  }
}

/** The same before the core was measured by these at all, and with answers in words only; seed 1, 80 of each cause. */
const BEFORE = [
  'first 52.9 %, first two 72.5 %, calibration error 16.2 points',
  'first 79.9 %, first two 88.4 %, calibration error 5.5 points; of those with enough known 84.0 and 91.4 %',
]

const leftOut =
  (...features: Feature[]): Without['evidence'] =>
  (evidence) =>
    Object.fromEntries(Object.entries(evidence).filter(([f]) => !features.includes(f as Feature))) as HealthEvidence

/** What the diagnosis looks at since it was measured by these, each left out in turn. */
const PARTS: Record<string, Without> = {
  'which way the reference goes': { evidence: leftOut('referenceGoes') },
  'noise from standard to standard': { evidence: leftOut('noiseApart') },
  'the slope of readings that gave no calibration': {
    visits: (visits, history) =>
      visits.map((v, i) => ({ ...v, slope: history.visits[i]?.characteristic?.slopeEfficiency ?? null })),
  },
  'how much faster it is after cleaning': {
    visits: (visits) => visits.map((v) => ({ ...v, fasterAfterCleaning: null })),
  },
  'silence of the event log as not known': {
    evidence: (evidence) => ({ before: 'nothing', electrolyte: 'old', ...evidence }),
  },
  'figures between two words as such: answers in words only': { evidence: ({ fits: _, ...words }) => words },
  'which of its readings moved': { evidence: leftOut('whatMoved') },
  'since when it is slow, and which way cleaning moved it': { evidence: leftOut('slowSince', 'cleaningMoved') },
  'the tank by the numbers of before': {
    visits: (visits) => visits.map((v) => ({ ...v, tankByBefore: v.tankNow })),
  },
}

export function otherDiagnosisRows() {
  const score = judgeOtherHistories(80, 1)
  const row = (what: string, measured: string) => ({ what, measured, wanted: '', ok: null })
  return [
    ...BEFORE.map((measured) => row('diagnosis of other histories (pH), before', measured)),
    wantedRow('  now', score),
    ...Object.entries(PARTS).map(([part, without]) =>
      row(`  without ${part}`, scoreText(judgeOtherHistories(80, 1, without))),
    ),
    ...[1.5, 2, 3].map((unrest) =>
      row(`  where all scatters ${unrest} times as much`, scoreText(judgeOtherHistories(80, 1, {}, { unrest }))),
    ),
    ...causeRows(score),
    ...Object.entries(OTHER_KINDS).flatMap(([name, judge]) => {
      const ofKind = judge(80, 1)
      return [wantedRow(`diagnosis of other histories (${name})`, ofKind), ...causeRows(ofKind)]
    }),
  ]
}

const OTHER_KINDS = { 'conductivity cells': judgeOtherCells, 'ion electrodes': judgeOtherIons }

const wantedRow = (what: string, score: DiagnosisScore) => ({
  what,
  measured: scoreText(score),
  wanted: 'first 85 %, two 95 %, error under 5 points',
  ok: score.firstOfKnown >= 0.85 && score.firstTwoOfKnown >= 0.95 && score.calibrationError < 0.05,
})

const causeRows = ({ byCause }: DiagnosisScore) =>
  byCause.map((c) => ({
    what: `  ${c.cause}`,
    measured: `${(100 * c.first).toFixed(0)} and ${(100 * c.firstTwo).toFixed(0)} %`,
    wanted: '',
    ok: null,
  }))

const scoreText = (s: DiagnosisScore): string =>
  `first ${withInterval(s.first, s.count)}, two ${withInterval(s.firstTwo, s.count)}, calibration error ${(100 * s.calibrationError).toFixed(1)} points; of those with enough known ${(100 * s.firstOfKnown).toFixed(1)} and ${(100 * s.firstTwoOfKnown).toFixed(1)} % (too little of ${(100 * s.tooLittle.faulty).toFixed(1)} % of the faulty, ${(100 * s.tooLittle.sound).toFixed(1)} % of the sound)`

/** Opened on 2026-11-27; the one before it, 90417, gave 83.0 and 90.6 % before figures counted beside words. */
const HELD_BACK_SEED = 48_271
const HELD_BACK = 120

/** What was not tried while the diagnosis was changed. */
const HELD_BACK_PLACES: [string, PhPlace][] = [
  ['Where all scatters 1.5 times as much', { unrest: 1.5 }],
  ['What lasts began after a third of the visits', { early: true }],
  ['Looked at every three to four months', { days: [80, 125] }],
]

/** Histories that nobody looked at while the diagnosis was changed: the result, with its date, goes into docs. */
export function heldBackDiagnosis(today: string): string[] {
  const score = judgeOtherHistories(HELD_BACK, HELD_BACK_SEED)
  return [
    '## Diagnosis',
    '',
    `Written by \`npm run held-back\` on ${today}: ${score.count} histories of pH electrodes (seed ${HELD_BACK_SEED}), ${HELD_BACK} of each`,
    'cause, from `lab/src/otherSimulation`, which shares nothing with the simulation that the table of likelihoods was tried on.',
    '',
    `All: ${scoreText(score)}.`,
    '',
    ...HELD_BACK_PLACES.map(
      ([name, place]) => `- ${name}: ${scoreText(judgeOtherHistories(HELD_BACK / 2, HELD_BACK_SEED, {}, place))}.`,
    ),
    '',
    ...confusionTable(score),
    '',
    ...Object.entries(OTHER_KINDS).map(
      ([name, judge]) => `- The same of ${name}: ${scoreText(judge(HELD_BACK, HELD_BACK_SEED))}.`,
    ),
    '',
  ]
}

/** What each cause was taken for, as lines of a document. */
function confusionTable({ byCause }: DiagnosisScore): string[] {
  const share = (value: number) => `${(100 * value).toFixed(0)} %`
  return [
    '| it was | named first | among the first two | too little known | taken for |',
    '| --- | ---: | ---: | ---: | --- |',
    ...byCause.map(({ cause, first, firstTwo, tooLittle, taken }) => {
      const others = taken.map(([other, count]) => `${CAUSE_WORDS[other].name} ${count}`).join(', ')
      return `| ${CAUSE_WORDS[cause].name} | ${share(first)} | ${share(firstTwo)} | ${share(tooLittle)} | ${others} |`
    }),
  ]
}

/** How often the diagnosis of pH electrodes is right, of records that the procedures of the Bench made. */
export function phConfusion(): string[] {
  const score = judgeOtherHistories(80, 1)
  return [
    `${score.count} histories, 80 of each cause: the readings of \`lab/src/otherSimulation\`, which shares nothing with the table of`,
    'likelihoods, taken by the procedure of the Bench, judged by it, and diagnosed from its record.',
    '',
    `All: ${scoreText(score)}.`,
    '',
    ...confusionTable(score),
    ...Object.entries(OTHER_KINDS).flatMap(([name, judge]) => {
      const ofKind = judge(80, 1)
      return ['', `The same of ${name}, ${ofKind.count}: ${scoreText(ofKind)}.`, '', ...confusionTable(ofKind)]
    }),
  ]
}

interface Judged {
  named: (Cause | undefined)[]
  stated: number
  tooLittle: boolean
}

function judgePh(history: PhHistory, { visits: changed = (v) => v, evidence: left = (e) => e }: Without): Judged {
  const { model } = kindOf('ph')
  const first = history.visits[0]
  const inTank = first?.readings[0]?.reading
  const value =
    first?.characteristic && inTank ? model.valueOf(inTank.signal, inTank.temperature, first.characteristic, {}) : 7
  const water = { value, celsius: inTank?.temperature ?? 25, tolerance: 0.1 }
  return judgeBooked(history, changed(healthOf(history, water, PH_PLAYED), history), PH_PLAYED, left)
}

function judgeCell(history: CellHistory): Judged {
  const water = { ...history.water, tolerance: 3 }
  return judgeBooked(history, healthOf(history, water, CELL_PLAYED), CELL_PLAYED)
}

function judgeIon(history: IonHistory): Judged {
  const played = ionPlayed(history.ion)
  return judgeBooked(history, healthOf(history, { ...history.water, tolerance: 10 }, played), played)
}

type Told = Omit<PhHistory, 'cause'>

function healthOf({ visits }: Told, water: { value: number; celsius: number; tolerance: number }, played: Played) {
  const { health: traits, model } = kindOf(played.kind)
  const booked = throughProcedures(visits, water, played)
  const { value: processValue, celsius: processTemperature, tolerance } = water
  return healthVisits({ traits, model, device: played.device, processValue, processTemperature, tolerance }, booked)
}

function judgeBooked(
  { events, installedAt, now, tests }: Told,
  visits: HealthVisit[],
  { kind }: Played,
  left = (evidence: HealthEvidence) => evidence,
): Judged {
  const { health: traits } = kindOf(kind)
  const evidence = left(evidenceOf({ traits, visits, events, installedAt, now, tests }))
  const { ranked, tooLittle } = diagnose(traits, evidence)
  const [one, two] = ranked
  return { named: [one?.cause, two?.cause], stated: one?.probability ?? 0, tooLittle }
}
