import type {
  ArithmeticLine,
  CapturedReading,
  Cause,
  Characteristic,
  ConePoint,
  ControlLimits,
  DeviceSetting,
  EndOfLife,
  Feature,
  FieldSpec,
  Figure,
  Finding,
  IntervalPolicy,
  NextDate,
  NextTest,
  OutOfTolerance,
  ParameterSpec,
  RankedCause,
  ResultOf,
  Scale,
  Schools,
  SensorKind,
  SensorState,
  SetAside,
  SharedReference,
  StabilityOpinion,
  Step,
  Timeline,
  VisitEntry,
} from '@frustum/core'

export interface SiteView {
  name: string
  timeZone: string
  operators: string[]
  demo: boolean
  schools: Schools
}

export interface LiveValue {
  position: string
  /** Epoch ms of the reading; null when there never was one. */
  at: number | null
  /** As the device displays it. */
  shown: number | null
  signal: number | null
  temperature: number | null
  /** Set when the device has not answered, epoch ms. */
  blindSince: number | null
}

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
  reason: string
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
}

/** A position from which the sensor was taken. */
export interface EmptyPosition {
  position: string
  place: string
  spot: string
  quantity: string
  since: number | null
}

export interface TripSummary {
  id: string
  name: string
  operator: string
  startedAt: number
  visits: { position: string; id: string | null; step: string | null; outcome: 'done' | 'abandoned' | null }[]
}

export interface RoundsView {
  rows: RoundsRow[]
  empty: EmptyPosition[]
  trips: TripSummary[]
  /** Sensors in the same water that differ by more than they can tell. */
  parted: { positions: [string, string]; difference: number; canTell: number; unit: string; decimals: number }[]
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

export interface VisitSummary {
  id: string
  at: number
  procedure: string
  name: string
  operator: string
  asFound: number | null
  asLeft: number
  uncertainty: number
  fouling: number | null
  adjusted: boolean
}

export interface CalibrationView {
  at: number
  characteristic: Characteristic
  uncertainty: Characteristic
  adopted: boolean
  baseline: boolean
}

/** One line of the fleet. */
export interface FleetRow extends RoundsRow {
  serialNumber: string
  /** Slope efficiency, %, and zero, mV, where the kind has them. */
  slope: number | null
  zero: number | null
  /** Of the reference electrode, in a word; null where there is none. */
  reference: 'steady' | 'moving' | 'failing' | null
  /** Likeliest trouble, when it is likelier than none. */
  trouble: { cause: Cause; name: string; probability: number } | null
  end: EndOfLife | null
  orderBy: number | null
}

export interface FleetView {
  rows: FleetRow[]
  /** Causes that were confirmed, and how many of them the diagnosis had proposed first, or among its first two. */
  confirmed: { count: number; first: number; firstTwo: number }
}

export interface HealthView {
  ranked: RankedCause[]
  next: NextTest | null
  /** Features that were answered by a test on purpose. */
  tested: Feature[]
  ends: EndOfLife[]
  end: EndOfLife | null
  orderBy: number | null
  /** How it settled in its standards at each visit: share of the way still to go against seconds. */
  settling: { at: number; code: string; trace: [number, number][] }[]
  settlingSeconds: { at: number; seconds: number }[]
  shared: SharedReference | null
  /** What it turned out to be, and where that stood in what was proposed (1 is first; 0: not proposed). */
  confirmed: { at: number; operator: string; name: string; rank: number; probability: number }[]
  /** Control limits of the error as found, and its straight stretches. */
  control: ControlLimits | null
}

/** What a change of the rules would do. */
export interface WhatIfView {
  next: NextDate
  visitsPerYear: number
  minutesPerYear: number
  cone: ConePoint[]
}

/** What an as-found beyond tolerance means for the readings before it. */
export interface PastView {
  visit: string
  from: number
  to: number
  /** Error as found, in the unit of errors. */
  found: number
  /** When the error is taken to have been beyond tolerance. */
  out: OutOfTolerance[]
  /** In all of these, and how many logged readings lie in them. */
  days: number
  affected: number
  rating: string
  action: string
  unit: string
  decimals: number
  readings: { at: number; raw: number; corrected: number }[]
}

export interface ProbeView extends RoundsRow {
  health: HealthView
  setAside: SetAside[]
  minutesPerVisit: number
  /** Usual value of the water, in the core unit of the kind. */
  processValue: number
  serialNumber: string
  model: string
  installedAt: number
  /** Where the sensor was before it was moved here, oldest first. */
  cameFrom: { position: string; from: number; to: number }[]
  /** Set when the device reckons with other numbers than it was given. */
  numbersChanged: { at: number; given: Characteristic } | null
  /** Whether numbers can be written to the device from here. */
  writable: boolean
  /** Newest first. */
  hourMeter: { at: number; hours: number }[]
  device: DeviceSetting
  deviceShows: 'signal' | 'value'
  cautions: readonly string[]
  authorityRule: string | null
  /** As the device shows it. */
  processShown: number
  errorScale: Scale
  parameters: readonly ParameterSpec[]
  calibrations: CalibrationView[]
  visits: VisitSummary[]
  events: { at: number; kind: string; note: string }[]
  inForce: Characteristic
}

/** What can be begun at a position, and what speaks against it. */
export interface StartingView {
  position: string
  occupied: boolean
  place: string
  spot: string
  quantity: string
  cautions: readonly string[]
  authorityRule: string | null
  processText: string
  toleranceText: string
  setting: string
  /** Why the device reckons with other numbers than it was given; null where it does not. */
  numbersChanged: string | null
  procedures: {
    id: string
    name: string
    summary: string
    needs: string
    minutes: number
    roles: { role: string; label: string; choices: string[]; pours: number }[]
    opening: readonly FieldSpec[]
    /** Proposed for the state this sensor is in. */
    proposed: boolean
    /** Sensors that should be calibrated before, with their page to start. */
    unmet: { position: string; since: number | null; why: string }[]
  }[]
  lots: Record<string, LotOnStep | null>
}

export interface LotOnStep {
  lot: string
  expired: boolean
  openTooLong: boolean
  daysOver: number
  /** mL left by the book. */
  left: number
  storage: string
  /** Not opened yet. */
  closed: boolean
}

export type StepStatus = 'done' | 'skipped' | 'now' | 'ahead'

export interface StepView {
  key: string
  kind: Step['kind']
  short: string
  status: StepStatus
  reading: CapturedReading | null
  /** What the ladder shows of it: a value with its unit, or nothing. */
  text: string
  usualSkips: readonly string[]
  reason: string | null
}

export interface ResultView extends Omit<ResultOf, 'found'> {
  figures: readonly Figure[]
  findings: readonly Finding[]
  /** What would be given to the device, rounded as it is keyed in; empty when nothing can be. */
  apply: { key: string; label: string; text: string; unit: string; value: number }[]
}

export interface VisitView {
  id: string
  position: string
  place: string
  spot: string
  kind: SensorKind
  quantity: string
  procedure: string
  procedureName: string
  trip: string | null
  operator: string
  startedAt: number
  closedAt: number | null
  outcome: 'done' | 'abandoned' | null
  holder: { clientId: string; name: string; since: number } | null
  steps: StepView[]
  /** The step at hand with all its words. */
  now: Step | null
  current: string | null
  /** Cautions that apply here for the first time in this visit. */
  cautions: readonly string[]
  authorityRule: string | null
  linked: boolean
  writable: boolean
  deviceShows: 'signal' | 'value'
  setting: string
  scale: Scale
  typing: { what: string; low: number; high: number; unit: string; decimals: number }
  standards: Record<string, string>
  /** The lot to pour from at this step. */
  lot: LotOnStep | null
  waiting: { since: number; minutes: number } | null
  /** Of the open verdict or result. */
  result: ResultView | null
  decided: { step: string; decision: string; proposed: string; note: string | null } | null
  applied: { text: string; way: 'link' | 'keyed' } | null
  arithmetic: ArithmeticLine[]
  /** The process before and after, and whether the difference is explained. */
  beforeAndAfter: { before: string; after: string; jump: string; odd: boolean } | null
  /** Once closed. */
  summary: { asFound: string | null; asLeft: string | null; next: NextDate | null } | null
  standIn: { baths: { name: string; label: string }[]; faults: { bit: number; label: string }[] } | null
}

/** One message of a visit's live stream. */
export interface VisitLive {
  step: string | null
  at: number
  blindSince: number | null
  /** The number to read at two metres, in `unit`. */
  value: number | null
  unit: string
  decimals: number
  /** What the device shows, where that is another number. */
  shown: number | null
  shownUnit: string
  shownDecimals: number
  temperature: number | null
  /** In words: "0.03 pH". */
  wanted: string
  opinion: StabilityOpinion | null
  /** Seconds into the step and value: all points with the first message of a step, then only the new ones. */
  trace: [number, number][]
  fresh: boolean
  finding: Finding | null
  /** False as long as the sensor has not moved since the step asked for another solution. */
  arrived: boolean
  arithmetic: ArithmeticLine[]
  /** Bumped when something was written: time to fetch the visit again. */
  revision: number
  standIn: { bath: string; faults: number } | null
}

/** One sensor on a planned trip. */
export interface PlannedVisitView {
  position: string
  quantity: string
  spot: string
  due: number
  opens: number
  moved: boolean
  procedure: string
  minutes: number
  consequence: number
  /** Probability of being outside tolerance on the day of the trip; null for a visit that follows another planned one. */
  outside: number | null
}

export interface KitLine {
  label: string
  lot: string | null
  pours: number
  milliliters: number
  /** What speaks against this lot on that day. */
  warning: string | null
}

export interface PlannedTripView {
  id: string
  place: string
  /** Start of the day, and when one arrives, epoch ms. */
  day: number
  arrival: number
  visits: PlannedVisitView[]
  timeline: Timeline
  kit: KitLine[]
  needs: string[]
}

export interface ConsumableView {
  id: number
  place: string
  name: string
  everyDays: number
  last: number
  due: number
}

export interface PlanView {
  today: number
  daysAhead: number
  trips: PlannedTripView[]
  /** Probability of being outside tolerance on each day from today, by position. */
  risks: Record<string, number[]>
  consumables: ConsumableView[]
  /** Trips that it would take to visit each sensor on its own date. */
  tripsAlone: number
  calendarPath: string
}

export interface LotView {
  id: number
  standard: string
  label: string
  kind: string
  lot: string
  expiresOn: number
  openedOn: number | null
  keepsDays: number
  discardedAt: number | null
  volume: number
  left: number
  storage: string
  ownTable: { temperatures: number[]; values: number[] } | null
  /** When it is no longer good, whichever comes first. */
  goodUntil: number
  state: 'good' | 'ending' | 'spent' | 'expired' | 'open too long' | 'discarded'
  uses: { at: number; milliliters: number; position: string | null; reason: string }[]
}

export interface ShelfView {
  lots: LotView[]
  /** What must be bought, by when, and why. */
  toBuy: { standard: string; label: string; by: number; why: string }[]
}

export interface RecordLineView {
  seq: number
  at: number
  operator: string
  entry: VisitEntry
  words: string
}

/** A visit as one page. */
export interface RecordView {
  visit: VisitView
  serialNumber: string
  model: string
  lines: RecordLineView[]
  points: { label: string; reading: CapturedReading; signalText: string; shownText: string; standardText: string }[]
  result: ResultView | null
  decisions: { step: string; decision: string; proposed: string; note: string | null }[]
  corrections: { at: number; operator: string; text: string }[]
  drift: string | null
}

export interface LedgerRow {
  id: string
  at: number
  position: string
  place: string
  serialNumber: string
  name: string
  operator: string
  outcome: 'done' | 'abandoned' | null
  asFound: string | null
  asLeft: string | null
  adjusted: boolean
  corrections: number
}

export interface ImportReport {
  added: number
  known: number
  refused: { visit: string; why: string }[]
}

export interface ProblemView {
  code: string
  message: string
  detail?: string
  hint?: string
  fields?: Record<string, string>
}
