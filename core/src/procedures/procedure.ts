import type { Finding, LotFacts } from '../calibration/finding.ts'
import type { Decision, ProposedDecision } from '../judgement/decision.ts'
import type { CalibrationParameters, DeviceSetting, MeasurementModel, SensorKind } from '../kinds/index.ts'
import type { StabilityReason, StabilityState } from '../stability/opinion.ts'
import type { SettlingSignature } from '../stability/settlingSignature.ts'
import type { PhTable } from '../standards/phBuffers.ts'
import type { Hazard } from './cautions.ts'
import type { WorkingPractices } from './workingPractices.ts'

/** The standard chosen for one role of a procedure ("first", "second" ...), with the lot it is poured from. */
export interface ChosenStandard {
  code: string
  lotTable?: PhTable | undefined
  lot: LotFacts | null
}

/** All that a procedure knows before anything is read: the position, its device, and the choices made at the start. */
export interface Setup {
  kind: SensorKind
  position: string
  /** Core unit of the kind: pH, mV, uS/cm there, mg/L, degC. */
  processValue: number
  processTemperature: number
  /** In the unit of the channel's errors. */
  tolerance: number
  device: DeviceSetting
  /** Whether the device lets its signal be seen, or only the finished value. */
  shows: 'signal' | 'value'
  linked: boolean
  writable: boolean
  activeCalibration: CalibrationParameters
  /** What the sensor was last found to be. */
  previous: { characteristic: CalibrationParameters; at: number } | null
  standards: Readonly<Record<string, ChosenStandard>>
  practices: WorkingPractices
  /** Seconds that this sensor took to settle at its last visits. */
  settlingHistory: readonly number[]
  /** Rule of the permit or the authority for this position; it outranks what is proposed. */
  authorityRule: string | null
  /** Other sensors in the same water, as they read when the visit began. */
  twins: readonly { position: string; value: number; uncertainty: number }[]
}

/** A settled reading, as kept. */
export interface CapturedReading {
  /** In the channel's signal unit; worked back through the calibration in force where the device shows values only. */
  signal: number
  /** Half-width of its 95 % interval. */
  signalUncertainty: number
  /** Standard deviation of its scatter when it was taken, in the signal's unit; unknown of typed readings. */
  noise?: number
  /** As the device reports them: glass in MOhm at this temperature, junction in kOhm. */
  resistances?: { glass?: number; junction?: number }
  /** degC */
  temperature: number
  /** What the device showed, in its own unit. */
  shown: number
  stability: { state: StabilityState; reason: StabilityReason; seconds: number; confidence: number }
  /** Set when taken before it was stable. */
  earlyReason?: string
  /** At most 80 points of the trace: seconds, and what was judged. */
  trace: [number, number][]
  signature: SettlingSignature | null
  standard?: {
    code: string
    /** At the measured temperature, in the channel's core unit. */
    value: number
    lot: string | null
    expired: boolean
    openTooLong: boolean
    daysOver: number
  }
}

export type FormValue = number | string | boolean
export type FormValues = Readonly<Record<string, FormValue>>

/** One thing to type or tick in a form step. */
export interface FieldSpec {
  key: string
  label: string
  kind: 'number' | 'text' | 'choice' | 'tick'
  unit?: string
  low?: number
  high?: number
  decimals?: number
  optional?: boolean
  /** Refuses the form until it is ticked. */
  must?: boolean
  choices?: readonly { value: string; label: string }[]
  /** What stands there at first. */
  usual?: string
  hint?: string
  /** Fields of one row of a table stand beside each other under this name. */
  row?: string
  /** A linked device can fill this in by itself: what it shows now. */
  live?: boolean
  /** What is applied to the transmitter's input in place of the sensor, in the core unit of the signal and degC. */
  appliedInput?: { signal: number; temperature: number }
}

export type Medium = 'process' | 'standard' | 'air' | 'plug' | 'sample'

export type StepKind = 'confirm' | 'wait' | 'capture' | 'form' | 'verdict' | 'result' | 'apply'

/** One step as it stands on the ladder and, when it is its turn, fills the screen. */
export interface Step {
  /** Kept in records. */
  key: string
  kind: StepKind
  /** On the ladder. */
  short: string
  /** What to do now, in one sentence. */
  title: string
  hint: string
  /** The main button. */
  main: string
  /** Ready-made reasons to skip it; none: it cannot be skipped. */
  usualSkips: readonly string[]
  /** Steps that this one rests on: it is open again when one of them is taken again. */
  after: readonly string[]
  hazards?: readonly Hazard[]
  /** capture: what the sensor is in, and the role of the standard. */
  medium?: Medium
  role?: string
  /** capture: the value of the moment counts, settled or not (a sample is taken from moving water). */
  freezes?: boolean
  /** confirm: each must be ticked before the main button is there. */
  ticks?: readonly string[]
  /** wait: usual minutes, and whether it counts for all sensors of a trip. */
  minutes?: number
  shared?: boolean
  /** form. */
  fields?: readonly FieldSpec[]
  /** form: may stay open for minutes or days; nobody has to hold the sensor meanwhile. */
  pending?: boolean
  /** result, verdict: where `repeat` and `clean-and-recheck` go back to. */
  repeatFrom?: string
  cleanFrom?: string
  conditionFrom?: string
}

export interface StepDecision {
  decision: Decision
  proposed: Decision
  note: string | null
}

/** What has happened so far, as it counts now. */
export interface VisitState {
  setup: Setup
  model: MeasurementModel
  /** The reading that counts for each step. */
  readings: Readonly<Record<string, CapturedReading>>
  forms: Readonly<Record<string, { values: FormValues; at: number }>>
  /** When each step was done, epoch ms. */
  doneAt: Readonly<Record<string, number>>
  skipped: Readonly<Record<string, string>>
  decisions: Readonly<Record<string, StepDecision>>
  /** How often each step was captured or filled in, those that no longer count included. */
  attempts: Readonly<Record<string, number>>
  /** How often each decision was made, those taken back included. */
  asked: Readonly<Partial<Record<Decision, number>>>
  /** What the device was given. */
  applied: { characteristic: CalibrationParameters; way: 'link' | 'keyed'; shownAfter: number | null } | null
  startedAt: number
}

/** A number on the result, with its unit in the text and what stands beside it. */
export interface Figure {
  label: string
  value: string
  note: string
}

export interface Assessment {
  figures: readonly Figure[]
  findings: readonly Finding[]
  proposal: ProposedDecision
  choices: readonly Decision[]
  /** What a decision is called here, where it is not what it is called elsewhere. */
  names?: Partial<Record<Decision, string>>
  /** What the sensor was found to be; null when the points give none. */
  found: { characteristic: CalibrationParameters; uncertainty: CalibrationParameters } | null
  /** Displayed minus right at the process value, in the unit of errors; null where not known. */
  asFoundError: number | null
  errorNow: number | null
  /** Half-width of the 95 % interval of the two. */
  uncertainty: number | null
  /** Moved by cleaning, in the unit of errors. */
  fouling: number | null
}

/** A role for which a standard is chosen at the start. */
export interface StandardRole {
  role: string
  label: string
  /** Standards that may be chosen, first the one proposed. */
  propose(setup: Pick<Setup, 'kind' | 'processValue' | 'device'>): readonly string[]
}

/** Sensors that have to be calibrated before this one. */
export interface Prerequisite {
  kinds: readonly SensorKind[]
  /** On the same body. */
  withinDays: number
  why: string
}

/** A line of the arithmetic beside a step. */
export interface ArithmeticLine {
  title: string
  value: string
  note: string
}

/** One way of doing one job on one kind of sensor: data, and small functions over the evidence. */
export interface Procedure {
  /** Kept in records. */
  id: string
  kinds: readonly SensorKind[]
  name: string
  /** When to take this one, in a sentence. */
  summary: string
  /** What to lay out: "3 cups". */
  needs: string
  /** Pourings of the standard of each role, for the kit and the Shelf, mL each. */
  pours: Readonly<Record<string, number>>
  roles: readonly StandardRole[]
  /** Minutes with hands on, about. */
  handsOnMinutes: number
  prerequisites?: readonly Prerequisite[]
  /** Fields asked before the visit starts (serial number, cause). */
  opening?: (setup: Setup) => readonly FieldSpec[]
  /** Not for every device: a factory cell is not adjusted. */
  suits?(setup: Pick<Setup, 'kind' | 'device' | 'shows' | 'linked' | 'twins'>): boolean
  /** A calibration that gives the sensor a new start rather than a new error. */
  baseline?: boolean
  steps(evidence: VisitState): readonly Step[]
  /** What the open verdict or result step has to say; null while something is missing. */
  judge(evidence: VisitState, step: string): Assessment | null
  /** What the sensor's record gets when the visit closes; null when the visit measured nothing of the kind. */
  observe(evidence: VisitState): Observation | null
}

export interface Observation {
  asFound: number | null
  asLeft: number
  uncertainty: number
  fouling: number | null
  adjusted: boolean
}
