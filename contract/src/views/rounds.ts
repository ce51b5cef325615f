import type {
  ConePoint,
  IntervalPolicy,
  LeadingFact,
  NextDate,
  Quantity,
  Scale,
  SensorKind,
  SensorState,
  Sentence,
} from '@frustum/core'
import type { LiveValue } from './site.ts'

/** The figure of a sensor: its cone between the tolerance walls. */
export interface FrustumView {
  /** From the last visit to the next date or today, whichever is later. */
  cone: ConePoint[]
  /** When the forecast starts: the last visit. */
  from: number
  /** Probability of being outside tolerance now. */
  outside: number
  policy: IntervalPolicy
  next: NextDate
  /** What the newest visits since the last adjustment left behind, in the unit of the policy. */
  dots: { at: number; error: number; uncertainty: number }[]
  /** Where the figure starts: the first of the dots. */
  startsAt: number
}

export interface RoundsRow {
  position: string
  place: string
  spot: string
  kind: SensorKind
  quantity: string
  scale: Scale
  state: SensorState
  /** The state without the facts of the moment (resting, blind). */
  driftState: SensorState
  reason: Sentence
  /** The gravest active alarm of its readings; null where there is none, and while it is shelved. */
  alarm: Sentence | null
  /** A redundant sensor that reads otherwise now, where neither forecast explains it. */
  differs: { from: string; by: Quantity } | null
  /** What comes before its next date, if anything: it is said first. */
  lead: LeadingFact | null
  figure: FrustumView
  /** Since when it is likelier out of tolerance than within, epoch ms; null where it is not. */
  outSince: number | null
  /** Probability of being outside now or soon, times what it does here: what Rounds are ordered by. */
  risk: number
  consequence: number
  linked: boolean
  /** What is to be done with it, in a word. */
  verb: 'Check' | 'Test' | 'Sample' | 'Calibrate'
  openVisit: { id: string; operator: string; since: number; step: string; pending: boolean } | null
  live: LiveValue
  /** What was last read of a display that is read by eye; null of the others, and where nothing was. */
  typed: { at: number; value: number } | null
}

/** A position from which the sensor was taken. */
export interface EmptyPosition {
  position: string
  place: string
  spot: string
  quantity: string
  since: number | null
}

/** A sensor of which something cannot be computed, by what is stored of it. */
export interface UnfitSensor {
  position: string
  positionId: number
  place: string
  spot: string
  quantity: string
  why: Sentence
}

export interface TripSummary {
  id: string
  name: string
  operator: string
  startedAt: number
  visits: { position: string; id: string | null; step: string | null; outcome: 'done' | 'abandoned' | null }[]
}

/** A sensor that its own readings speak against. */
export interface CheckNow {
  position: string
  /** The one that the sentence is of: of two that part, it may be the other. */
  of: string
  /** The other of two that part; null for all else. */
  beside: string | null
  since: number
  sentence: Sentence
  /** What waiting for its own date would mean; null where that is here. */
  risk: Sentence | null
}

export interface RoundsView {
  rows: RoundsRow[]
  checkNow: CheckNow[]
  empty: EmptyPosition[]
  unfit: UnfitSensor[]
  trips: TripSummary[]
  /** Sensors in the same water that differ by more than they can tell. */
  disagreeing: {
    positions: [string, string]
    difference: number
    canTell: number
    unit: string
    decimals: number
    /** Those of the two that are likely out of tolerance by their own forecasts. */
    off: string[]
  }[]
  toDo: ToDo[]
}

/** A task that belongs to no single sensor. */
export interface ToDo {
  kind: 'standard' | 'instrument' | 'backup'
  sentence: Sentence
}

/** Something that takes its time: floating, drying, soaking. */
export interface WaitView {
  visit: string
  position: string
  trip: string | null
  what: string
  since: number
  until: number
}
