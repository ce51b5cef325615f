import { DAY_MS } from '../drift/observation.ts'
import { median, scaledMad } from '../statistics/median.ts'
import { theilSen } from '../statistics/theilSen.ts'
import type { DiagnosticEvidence } from './features.ts'
import type { HealthTraits } from './healthTraits.ts'

/** What one visit told of the sensor's health; null where it was not looked at. */
export interface HealthVisit {
  /** Epoch ms. */
  at: number
  /** Zero point: mV; of a conductivity cell, its reading in dry air as a share of its usual reading. */
  zero: number | null
  /** Slope efficiency, share of ideal. */
  slope: number | null
  /** Seconds until the reading in a standard was stable, and its scatter there, mV or share of the reading. */
  settlingSeconds: number | null
  noise: number | null
  /** Of its readings in standards the most restless one against the middle one, times. */
  noiseApart: number | null
  /** The same of its readings in the process. */
  processNoise: number | null
  /** Difference on the way back to the first standard, mV. */
  hysteresis: number | null
  /** By how much cleaning moved the reading: mV, or a share of the reading of a cell. */
  cleaning: number | null
  /** How many times as fast it settled in the same standard after cleaning. */
  fasterAfterCleaning: number | null
  /** Conductivity: right over shown. */
  cellFactor: number | null
  /** Error in the process that the standards do not explain, in tolerances. */
  tankAlone: number | null
  /** Own thermometer against another, degC. */
  temperatureError: number | null
  /** The points did not fit together, or one was nearer another standard. */
  standardsDisagree: boolean | null
  /** Of what moved since the visit before: shared by the body, and its own, mV. */
  sharedShift: number | null
  ownShift: number | null
  /** Times what it was when new. */
  junctionResistance: number | null
  glassResistance: number | null
  /** The device no longer held the calibration it was given. */
  deviceNumbersChanged: boolean | null
}

export interface HealthRecord {
  traits: HealthTraits
  /** Oldest first. */
  visits: readonly HealthVisit[]
  events: readonly { at: number; kind: string }[]
  installedAt: number
  now: number
  /** Answers found on purpose; they outrank what the figures say. */
  tests: DiagnosticEvidence
}

/** Limits between the words, common practice, no source, unless said. */
const MONTH = 30
const RECENT = 8
/** Those that tell what is usual of a sensor. */
const FIRST_VISITS = 6
const CREEPING = { perMonth: 0.8, inAll: 5 }
const RUNNING = 3
const JUMP = 8
const SLOPE_JUMP = 0.045
/** Glass loses some hundredths of its slope in a year without anything being wrong (common practice, no source). */
const SLOPE_FALL = { perMonth: 0.006, inAll: 0.02 }
const SLOW = 1.6
const VERY_SLOW = 3
const RESTLESS = 4
const LAGS = 2
const FASTER = 2
/** Less than this is the slow drift of any cell, and the scatter of a sample. */
const CELL_OFF = 1.03
const SHIFTED = 4
const OLD_DAYS = 270
const LATELY = 120

/**
 * The answers that the figures of a sensor's visits give; what they do not tell is left out. Not every visit looks at
 * everything, so the newest look at each figure counts, as long as it is not an old one.
 */
export function evidenceOf(record: HealthRecord): DiagnosticEvidence {
  const { visits, traits } = record
  if (visits.length === 0) return { ...record.tests }
  const last = newestLooks(visits)
  const evidence: DiagnosticEvidence = {}
  const zeros = pointsOf(visits, (v) => v.zero)
  const slopes = pointsOf(visits, (v) => v.slope)
  if (traits.cell) {
    if (last.zero !== null) evidence.airZero = Math.abs(last.zero) > 0.01 ? 'not zero' : 'near zero'
    if (last.cellFactor !== null) {
      const baseline = visits.find((v) => v.cellFactor !== null)?.cellFactor ?? 1
      const ratio = last.cellFactor / baseline
      evidence.cellReads = ratio > CELL_OFF ? 'low' : ratio < 1 / CELL_OFF ? 'high' : 'right'
    }
    const sensitivity = pointsOf(visits, (v) => v.cellFactor && 1 / v.cellFactor)
    if (sensitivity.length >= 3) evidence.slopeCourse = slopeCourse(sensitivity)
  } else if (traits.referenceElectrode) {
    if (zeros.length >= 3) {
      const { course, moved } = zeroCourse(zeros)
      evidence.zeroCourse = course
      if (course !== 'steady') evidence.referenceGoes = moved * traits.zeroWithReference > 0 ? 'up' : 'down'
    }
    // Of standards that were swapped nothing can be told of the slope; that of before says nothing of now.
    if (!hasNoSlopeNow(visits)) {
      if (last.slope !== null) evidence.slopeLevel = slopeLevel(last.slope)
      if (slopes.length >= 3) evidence.slopeCourse = slopeCourse(slopes)
    }
  }
  const settled = times(visits, (v) => v.settlingSeconds)
  if (settled !== null) evidence.settling = settled >= VERY_SLOW ? 'very slow' : settled >= SLOW ? 'slow' : 'usual'
  const restless = restlessness(visits)
  if (restless !== null) evidence.noise = restless
  if (last.noiseApart !== null) evidence.noiseApart = last.noiseApart > RESTLESS ? 'one alone' : 'alike'
  if (last.hysteresis !== null) evidence.hysteresis = Math.abs(last.hysteresis) > LAGS ? 'lags' : 'returns'
  if (last.cleaning !== null) {
    const moved = Math.abs(last.cleaning)
    const faster = last.fasterAfterCleaning ?? 1
    evidence.cleaning = moved > (traits.cell ? 0.02 : 3) || faster > FASTER ? 'helps' : 'changes nothing'
  }
  if (last.tankAlone !== null) {
    evidence.beakerAndTank = Math.abs(last.tankAlone) > 1 ? 'only the tank is wrong' : 'agree'
  }
  const restlessInTank = times(visits, (v) => v.processNoise)
  if (restlessInTank !== null && restlessInTank >= RESTLESS && evidence.noise === 'usual') {
    evidence.beakerAndTank = 'only the tank is wrong'
  }
  if (last.temperatureError !== null) {
    evidence.temperature = Math.abs(last.temperatureError) > 0.8 ? 'is wrong' : 'agrees'
  }
  if (last.standardsDisagree !== null) evidence.standards = last.standardsDisagree ? 'one disagrees' : 'consistent'
  const shift = sharedShift(visits)
  if (shift) evidence.sharedShift = shift
  if (last.junctionResistance !== null) evidence.junctionResistance = last.junctionResistance > 3 ? 'high' : 'usual'
  if (last.glassResistance !== null) {
    evidence.glassResistance = last.glassResistance < 0.3 ? 'low' : last.glassResistance > 2.5 ? 'high' : 'usual'
  }
  if (last.deviceNumbersChanged !== null) evidence.deviceNumbers = last.deviceNumbersChanged ? 'changed' : 'as left'
  Object.assign(evidence, fromEvents(record))
  return { ...evidence, ...record.tests }
}

/** Of each figure the newest that is known, within LATELY of the last visit. */
function newestLooks(visits: readonly HealthVisit[]): HealthVisit {
  const last = visits.at(-1) as HealthVisit
  const recent = visits.filter((v) => last.at - v.at <= LATELY * DAY_MS)
  const keys = Object.keys(last) as (keyof HealthVisit)[]
  return Object.fromEntries(
    keys.map((key) => [key, recent.findLast((v) => v[key] !== null)?.[key] ?? null]),
  ) as unknown as HealthVisit
}

const hasNoSlopeNow = (visits: readonly HealthVisit[]): boolean => {
  const last = visits.at(-1)
  return last?.standardsDisagree === true && last.slope === null
}

interface Point {
  at: number
  value: number
}

const pointsOf = (visits: readonly HealthVisit[], of: (v: HealthVisit) => number | null, newest = RECENT): Point[] =>
  visits
    .flatMap((v) => {
      const value = of(v)
      return value === null ? [] : [{ at: v.at, value }]
    })
    .slice(-newest)

const line = (points: readonly Point[]) =>
  theilSen(
    points.map((p) => p.at / DAY_MS),
    points.map((p) => p.value),
  )

/** The last value against what the ones before led to expect. */
function lastStep(points: readonly Point[]): number {
  const before = points.slice(0, -1)
  const last = points.at(-1) as Point
  const trend = line(before)
  return last.value - (trend.intercept + (trend.slope * last.at) / DAY_MS)
}

/** What the zero did, and by how much, mV. */
function zeroCourse(points: readonly Point[]): {
  course: NonNullable<DiagnosticEvidence['zeroCourse']>
  moved: number
} {
  const steps = points.slice(1).map((p, i) => p.value - (points[i] as Point).value)
  const usual = scaledMad(steps.slice(0, -1))
  const last = points.length >= 4 ? lastStep(points) : (steps.at(-1) as number)
  if (Math.abs(last) > Math.max(JUMP, 3.5 * usual)) return { course: 'jumped', moved: last }
  // The newest stretch tells of now; a line through all of them would average a beginning away.
  const newest = line(points.slice(-5))
  const perMonth = Math.abs(newest.slope) * MONTH
  const moved = (points.at(-1) as Point).value - median(points.slice(0, 2).map((p) => p.value))
  if (Math.abs(moved) < CREEPING.inAll || perMonth < CREEPING.perMonth) return { course: 'steady', moved }
  return { course: perMonth >= RUNNING ? 'running' : 'creeping', moved }
}

function slopeLevel(slope: number): NonNullable<DiagnosticEvidence['slopeLevel']> {
  if (slope > 1.02) return 'high'
  if (slope >= 0.95) return 'sound'
  if (slope >= 0.9) return 'ageing'
  return slope >= 0.5 ? 'low' : 'none'
}

function slopeCourse(points: readonly Point[]): NonNullable<DiagnosticEvidence['slopeCourse']> {
  const last = points.length >= 4 ? lastStep(points) : (points.at(-1) as Point).value - (points.at(-2) as Point).value
  if (Math.abs(last) > SLOPE_JUMP) return 'jumped'
  const perMonth = -line(points).slope * MONTH
  const inAll = median(points.slice(0, 2).map((p) => p.value)) - (points.at(-1) as Point).value
  return perMonth >= SLOPE_FALL.perMonth && inAll >= SLOPE_FALL.inAll ? 'falling' : 'steady'
}

/**
 * The last value as a multiple of what it was in the first visits: an electrode that grows slow over years is slow,
 * however little it was from visit to visit. Null when too little is known.
 */
function times(visits: readonly HealthVisit[], of: (v: HealthVisit) => number | null): number | null {
  const known = pointsOf(visits, of, visits.length)
  const last = known.at(-1)
  if (!last || known.length < 3 || (visits.at(-1) as HealthVisit).at - last.at > LATELY * DAY_MS) return null
  const before = known.slice(0, Math.min(FIRST_VISITS, Math.max(2, Math.floor(known.length / 2))))
  const usual = median(before.map((p) => p.value))
  // A display that did not move at all has no scatter to compare with.
  return usual > 0 ? last.value / usual : null
}

/** Whether the sensor is restless in its standards, and whether it was so at the visit before. */
function restlessness(visits: readonly HealthVisit[]): DiagnosticEvidence['noise'] | null {
  const noiseAt = (upTo: readonly HealthVisit[]) => times(upTo, (v) => v.noise)
  const now = noiseAt(visits)
  if (now === null) return null
  if (now < RESTLESS) return 'usual'
  const known = visits.filter((v) => v.noise !== null)
  const before = noiseAt(known.slice(0, -1))
  return before !== null && before >= RESTLESS ? 'restless for long' : 'restless this time'
}

function sharedShift(visits: readonly HealthVisit[]): DiagnosticEvidence['sharedShift'] | null {
  const known = visits.slice(-4).filter((v) => v.sharedShift !== null && v.ownShift !== null)
  if (known.length === 0) return null
  const shared = Math.abs(known.reduce((sum, v) => sum + (v.sharedShift as number), 0))
  const own = Math.abs(known.reduce((sum, v) => sum + (v.ownShift as number), 0))
  if (shared < SHIFTED && own < SHIFTED) return 'none'
  return shared >= own ? 'all on the body' : 'its own'
}

function fromEvents({ events, installedAt, now, traits }: HealthRecord): DiagnosticEvidence {
  const evidence: DiagnosticEvidence = {}
  if (traits.referenceElectrode) {
    const refills = events.filter((e) => e.kind === 'refilled').map((e) => e.at)
    const days = (now - Math.max(installedAt, ...refills)) / DAY_MS
    // Of one that is old nobody knows whether it was refilled, unless refills are noted here.
    if (days <= OLD_DAYS) evidence.electrolyte = 'young'
    else if (refills.length > 0) evidence.electrolyte = 'old'
  }
  const lately = (what: string, days = LATELY) => events.some((e) => e.kind === what && now - e.at < days * DAY_MS)
  if (lately('power-failure', 40)) evidence.before = 'a power failure'
  else if (lately('left-dry', 60)) evidence.before = 'it stood dry'
  else if (lately('upset', 2 * LATELY)) evidence.before = 'an upset'
  // Where nothing was ever noted, nothing says that nothing happened.
  else if (events.length > 0) evidence.before = 'nothing'
  return evidence
}
