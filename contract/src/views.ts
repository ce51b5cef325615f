import type {
  DriftForecast,
  Finding,
  IntervalPolicy,
  NextDate,
  PhCalibration,
  PhCharacteristic,
  PhStepKey,
  ProposedDecision,
  SensorState,
  StabilityOpinion,
  VisitKind,
} from '@frustum/core'
import type { CapturedReading } from './entries.ts'

export interface SiteView {
  name: string
  timeZone: string
  operators: string[]
  demo: boolean
}

export interface LiveValue {
  position: string
  /** Epoch ms of the reading; null when there never was one. */
  at: number | null
  ph: number | null
  millivolts: number | null
  temperature: number | null
  /** Set when the device has not answered, epoch ms. */
  blindSince: number | null
}

/** The figure of a sensor: its cone between the tolerance walls. */
export interface FrustumView {
  forecast: DriftForecast
  policy: IntervalPolicy
  next: NextDate
  /** What the newest visits since the last adjustment left behind, pH. */
  dots: { at: number; error: number; uncertainty: number }[]
  /** Where the figure starts: the first of the dots. */
  startsAt: number
}

export interface RoundsRow {
  position: string
  place: string
  spot: string
  state: SensorState
  /** The state without the facts of the moment (resting, blind). */
  driftState: SensorState
  reason: string
  figure: FrustumView
  /** When the error is expected to leave tolerance, epoch ms. */
  leavesAt: number
  linked: boolean
  openVisit: { id: string; operator: string; since: number } | null
  live: LiveValue
}

export interface VisitSummary {
  id: string
  at: number
  kind: VisitKind
  operator: string
  asFound: number | null
  asLeft: number
  uncertainty: number
  fouling: number | null
  adjusted: boolean
}

export interface CalibrationView {
  at: number
  zero: number
  zeroUncertainty: number
  slopeEfficiency: number
  slopeEfficiencyUncertainty: number
  adopted: boolean
}

export interface ProbeView extends RoundsRow {
  serialNumber: string
  model: string
  installedAt: number
  deviceShows: 'millivolt' | 'value'
  cautions: readonly string[]
  processValue: number
  calibrations: CalibrationView[]
  visits: VisitSummary[]
  events: { at: number; kind: string; note: string }[]
  inForce: PhCharacteristic
}

export type StepStatus = 'done' | 'skipped' | 'now' | 'ahead'

export interface StepView {
  key: PhStepKey
  status: StepStatus
  reading: CapturedReading | null
  reason: string | null
}

export interface ResultView {
  calibration: PhCalibration | null
  findings: Finding[]
  proposal: ProposedDecision
  /** Errors at the process value, displayed minus true, pH. */
  asFoundError: number | null
  /** With the electrode as it is now and the device as it stands. */
  errorNow: number | null
  /** Moved by cleaning, mV. */
  fouling: number | null
  uncertainty: number | null
  previous: { zero: number; slopeEfficiency: number; at: number } | null
}

export interface VisitView {
  id: string
  position: string
  place: string
  spot: string
  kind: VisitKind
  wentOn: boolean
  first: string
  second: string
  operator: string
  startedAt: number
  closedAt: number | null
  outcome: 'done' | 'abandoned' | null
  holder: { clientId: string; name: string; since: number } | null
  steps: StepView[]
  current: PhStepKey | null
  cautions: readonly string[]
  processValue: number
  tolerance: number
  linked: boolean
  standIn: boolean
  writable: boolean
  deviceShows: 'millivolt' | 'value'
  inForce: PhCharacteristic
  lots: Record<string, { lot: string; expired: boolean; openTooLong: boolean; daysOver: number } | null>
  /** After the two points are in. */
  result: ResultView | null
  /** After a check's reading. */
  verdict: { shown: number; right: number; uncertainty: number; proposal: ProposedDecision } | null
  decision: { decision: string; note: string | null } | null
  applied: { slopeEfficiency: number; zero: number; way: 'link' | 'keyed'; shownAfter: number | null } | null
  asLeftError: number | null
  /** Once closed: the next date and its reason. */
  next: NextDate | null
}

/** One message of a visit's live stream. */
export interface VisitLive {
  step: PhStepKey | null
  at: number
  blindSince: number | null
  millivolts: number | null
  ph: number | null
  temperature: number | null
  /** What the trace and the opinion are in. */
  unit: 'mV' | 'pH'
  opinion: StabilityOpinion | null
  /** Seconds into the step and value: all points with the first message of a step, then only the new ones. */
  trace: [number, number][]
  fresh: boolean
  finding: Finding | null
  /** False as long as the sensor has not moved since the step asked for another solution. */
  arrived: boolean
  /** The buffer's value at the measured temperature. */
  bufferValue: number | null
  /** Bumped when something was written: time to fetch the visit again. */
  revision: number
  standIn: { immersion: number; faults: number } | null
}

export interface ProblemView {
  code: string
  message: string
  detail?: string
  hint?: string
  fields?: Record<string, string>
}
