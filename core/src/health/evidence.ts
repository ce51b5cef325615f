import { DAY_MS } from '../drift/observation.ts'
import { type CourseTraits, courseFit, type Point } from './course.ts'
import { type Answer, type DiagnosticEvidence, FEATURES, type Feature, type Fit } from './features.ts'
import {
  airFit,
  cellFit,
  cleaningFit,
  cleaningMovedFit,
  glassResistanceFit,
  hysteresisFit,
  junctionResistanceFit,
  known,
  LATELY,
  logOf,
  looksAt,
  noiseApartFit,
  noiseFit,
  settlingFit,
  sharedShiftFit,
  slopeFit,
  slopeLevelFit,
  slowSinceFit,
  tankFit,
  tankGoesFit,
  tankNoiseFit,
  temperatureFit,
} from './fits.ts'
import type { HealthTraits } from './healthTraits.ts'
import type { HealthVisit } from './healthVisit.ts'
import { whatMovedFit } from './whatMoved.ts'

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

/** So many looks tell the course of a figure. */
const RECENT = 12
/** What is usual of the zero, and what is not, in multiples of its usual scatter; common practice, no source. */
const zeroTraits = (scatter: number): CourseTraits => ({
  scatter,
  wander: 0.4 * scatter,
  ageing: 0,
  ageingDiffers: 0.25 * scatter,
  creeps: [0.8 * scatter, 2 * scatter],
  runs: [4 * scatter, 10 * scatter],
  jumps: [7 * scatter, 20 * scatter],
  comesAndGoes: null,
})
/** Electrolyte lasts that long; common practice, no source. */
const OLD_DAYS = 270
/** Another answer than that of a sound sensor is said where it fits so many times better. */
const SAID_FROM = 3
/** What fits all answers about alike tells nothing. */
const TELLS = 1.15

/**
 * The answers that the figures of a sensor's visits give, and how well each answer fits them; what they do not tell is
 * left out. Not every visit looks at everything, so the newest look at each figure counts, as long as it is not an old
 * one, and it is judged against the sensor's own earlier looks and their scatter.
 */
export function evidenceOf(record: HealthRecord): DiagnosticEvidence {
  const { visits, traits, tests } = record
  if (visits.length === 0) return { ...tests }
  const fits: DiagnosticEvidence['fits'] = {}
  const answers: DiagnosticEvidence = {}
  const set = <F extends Feature>(feature: F, fit: Fit<F> | null) => {
    if (!fit || tests[feature] !== undefined) return
    const all = FEATURES[feature] as readonly Answer<F>[]
    const values = all.map((a) => fit[a] ?? 0)
    const top = Math.max(...values)
    if (!(top > 0) || Math.min(...values) * TELLS > top) return
    const best = all[values.indexOf(top)] as Answer<F>
    answers[feature] = (top > SAID_FROM * (values[0] as number) ? best : all[0]) as DiagnosticEvidence[F]
    fits[feature] = values.map((v) => v / top)
  }
  const last = newestLooks(visits)
  if (traits.cell) {
    set('airZero', airFit(visits))
    const factors = looksAt(visits, (v) => v.cellFactor)
    if (factors) set('cellReads', cellFit(factors))
    const sensitivity = points(visits, (v) => v.cellFactor && 1 / v.cellFactor)
    if (sensitivity.length >= 3) set('slopeCourse', slopeFit(sensitivity))
  } else if (traits.referenceElectrode) {
    zeroFits(record, set)
    // Of standards that were swapped nothing can be told of the slope; that of before says nothing of now.
    if (!hasNoSlopeNow(visits)) {
      const slopes = points(visits, (v) => v.slope)
      if (known(last.slope)) set('slopeLevel', slopeLevelFit(last.slope))
      if (slopes.length >= 3) set('slopeCourse', slopeFit(slopes))
    }
  }
  const settled = looksAt(visits, (v) => logOf(v.settlingSeconds))
  if (settled && settled.before.length >= 2) {
    const fit = settlingFit(settled)
    set('settling', fit)
    set('slowSince', slowSinceFit(settled, fit))
  }
  const noise = looksAt(visits, (v) => logOf(v.noise))
  if (noise && noise.before.length >= 2) set('noise', noiseFit(noise))
  if (known(last.noiseApart)) set('noiseApart', noiseApartFit(last.noiseApart))
  if (known(last.againstBefore)) set('whatMoved', whatMovedFit(last.againstBefore))
  const hysteresis = looksAt(visits, (v) => v.hysteresis && Math.abs(v.hysteresis))
  if (hysteresis) set('hysteresis', hysteresisFit(hysteresis))
  set('cleaning', cleaningFit(visits, last, traits.cell))
  if (known(last.cleaningAway)) set('cleaningMoved', cleaningMovedFit(last.cleaningAway))
  set('beakerAndTank', tankFit(visits, last))
  set('tankGoes', tankGoesFit(visits))
  set('tankNoise', tankNoiseFit(visits, noise))
  set('temperature', temperatureFit(visits, last))
  if (known(last.standardsDisagree)) answers.standards = last.standardsDisagree ? 'one disagrees' : 'consistent'
  set('sharedShift', sharedShiftFit(visits))
  if (known(last.junctionResistance)) set('junctionResistance', junctionResistanceFit(last.junctionResistance))
  if (known(last.glassResistance)) set('glassResistance', glassResistanceFit(last.glassResistance))
  if (known(last.deviceNumbersChanged)) answers.deviceNumbers = last.deviceNumbersChanged ? 'changed' : 'as left'
  const found = Object.keys(fits).length > 0 ? { fits } : {}
  return { ...answers, ...fromEvents(record), ...tests, ...found }
}

type SetFit = <F extends Feature>(feature: F, fit: Fit<F> | null) => void

/** Of each figure the newest that is known, within LATELY of the last visit. */
function newestLooks(visits: readonly HealthVisit[]): HealthVisit {
  const last = visits.at(-1) as HealthVisit
  const recent = visits.filter((v) => last.at - v.at <= LATELY * DAY_MS)
  const keys = Object.keys(last) as (keyof HealthVisit)[]
  return Object.fromEntries(
    keys.map((key) => [key, recent.findLast((v) => known(v[key]))?.[key] ?? null]),
  ) as unknown as HealthVisit
}

const hasNoSlopeNow = (visits: readonly HealthVisit[]): boolean => {
  const last = visits.at(-1)
  return last?.standardsDisagree === true && last.slope === null
}

const points = (visits: readonly HealthVisit[], of: (v: HealthVisit) => number | null): Point[] =>
  visits
    .flatMap((v) => {
      const value = of(v)
      return known(value) ? [{ day: v.at / DAY_MS, value }] : []
    })
    .slice(-RECENT)

/** The course of the zero, and which way the reference went if it was that which moved. */
function zeroFits({ visits, traits, events }: HealthRecord, set: SetFit): void {
  const zeros = points(visits, (v) => v.zero)
  if (zeros.length < 3) return
  const fresh = events.filter((e) => RENEWS.includes(e.kind)).map((e) => e.at / DAY_MS)
  const { steady, creeping, running, jumped, up } = courseFit(zeros, zeroTraits(traits.zeroScatter), fresh)
  set('zeroCourse', { steady, creeping, running, jumped })
  const moved = creeping + running + jumped
  const rose = (creeping * up.creeping + running * up.running + jumped * up.jumped) / moved
  const referenceRose = traits.zeroWithReference > 0 ? rose : 1 - rose
  // What stands still went neither way.
  const still = 0.5 * steady
  set('referenceGoes', { down: still + moved * (1 - referenceRose), up: still + moved * referenceRose })
}

/** After these another zero is no news. */
const RENEWS: readonly string[] = ['refilled', 'tip-replaced', 'moved']

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
