import type { Cause } from '../../../core/src/health/causes.ts'
import type { DiagnosticEvidence } from '../../../core/src/health/features.ts'
import type { ClosedVisit } from '../../../core/src/health/visitHealth.ts'
import type { CapturedReading } from '../../../core/src/measurement/capturedReading.ts'
import type { RandomStream } from '../../../core/src/statistics/random.ts'

/** What histories of cells and of ion electrodes have in common: people, their visits, and what they note. */

export const DAY = 86_400_000
const MONTH = 30.4

export interface History<C extends Cause> {
  cause: C
  /** Oldest first. */
  visits: ClosedVisit[]
  events: { at: number; kind: string }[]
  installedAt: number
  now: number
  tests: DiagnosticEvidence
}

interface Times {
  /** Of the visits, ms. */
  at: number[]
  /** Days between visits, about, and ms in use before the first. */
  every: number
  before: number
  now: number
}

function drawTimes(random: RandomStream): Times {
  const count = 6 + Math.floor(9 * random.uniform())
  const every = random.between(16, 48)
  const at: number[] = []
  for (let i = 0, t = 0; i < count; i++, t += every * random.between(0.7, 1.35) * DAY) at.push(t)
  return {
    at,
    every,
    before: random.between(2, 260) * DAY,
    now: (at.at(-1) as number) + random.between(0.02, 4) * DAY,
  }
}

/** How a fault comes: what grows is asked about once it has grown, what is sudden at the visit that meets it. */
export type Onset = 'never' | 'grows' | 'stays' | 'sudden'

export interface Course {
  times: Times
  /** Of the last visit, ms; the first visit at which it has begun. */
  last: number
  began: number
  strength: number
  sign: number
}

export function drawCourse(onset: Onset, random: RandomStream): Course {
  const times = drawTimes(random)
  return {
    times,
    last: times.at.at(-1) as number,
    began: beginning(onset, times, random),
    strength: Math.exp(0.35 * random.normal()),
    sign: random.uniform() < 0.5 ? -1 : 1,
  }
}

function beginning(onset: Onset, { at }: Times, random: RandomStream): number {
  const last = at.length - 1
  if (onset === 'never') return at.length
  if (onset === 'grows') return last - 1 - Math.floor(random.uniform() * Math.min(4, at.length - 4))
  return onset === 'stays' ? last - Math.floor(random.uniform() * 3) : last
}

/** How long it has gone on at a visit, months; 0 before it begins. */
export const monthsSince = ({ began, times: { at, every } }: Course, i: number, random: RandomStream): number =>
  i < began ? 0 : ((at[i] as number) - (at[began] as number)) / DAY / MONTH + (every / MONTH) * random.between(0.3, 1)

/** Those who look after it. */
export interface People {
  typed: boolean
  /** How often they read the first standard again at the end, and note what happened. */
  back: number
  notes: number
  room: number
}

export const drawPeople = (random: RandomStream): People => ({
  typed: random.uniform() < 0.25,
  back: random.uniform() < 0.5 ? 0.8 : 0.1,
  notes: random.uniform() < 0.6 ? 0.75 : 0.2,
  room: random.between(18, 25),
})

export interface Read {
  signal: number
  /** Scatter of the reading, and its half-width, units of the signal. */
  sd: number
  width: number
  /** What the thermometer shows, degC. */
  celsius: number
  seconds: number
  standard?: { code: string; value: number } | undefined
}

/** A reading as a visit captures it. */
export const captured = (r: Read, typed: boolean): CapturedReading => ({
  source: typed ? 'display-typed' : 'line',
  signal: r.signal,
  signalUncertainty: r.width,
  ...(typed ? {} : { noise: r.sd }),
  temperature: r.celsius,
  shown: null,
  stability: { state: 'stable', reason: 'not-noted', seconds: r.seconds, confidence: 0.95 },
  trace: [],
  signature: null,
  ...(r.standard ? { standard: { ...r.standard, lot: null, expired: false, openTooLong: false, daysOver: 0 } } : {}),
})

/** What was noted of what happened then, `shares` of the time, and what happens to sound ones as well. */
export function notedEvents(
  noted: { kind: string; share: number; at: number }[],
  last: number,
  random: RandomStream,
): { at: number; kind: string }[] {
  const events = noted.flatMap(({ kind, share, at }) => (random.uniform() < share ? [{ at, kind }] : []))
  if (random.uniform() < 0.06) events.push({ at: random.between(0, last), kind: 'upset' })
  if (random.uniform() < 0.05) events.push({ at: random.between(0, last), kind: 'power-failure' })
  return events.sort((a, b) => a.at - b.at)
}

/** What somebody tried, one test in six: whether it showed in this, which it does so often; one in twenty is told wrongly. */
export function tried(random: RandomStream): (share: number) => boolean | null {
  return (share) => {
    if (random.uniform() >= 0.18) return null
    return random.uniform() < (random.uniform() < 0.05 ? 1 - share : share)
  }
}
