import type { Finding } from '../calibration/finding.ts'
import type { SampleRules } from '../calibration/sampleCorrection.ts'
import type { SlipKind } from '../calibration/slips.ts'
import type { HealthTraits } from '../health/healthTraits.ts'
import type { Decision, ProposedDecision } from '../judgement/decision.ts'
import type { RatedQuantity } from '../judgement/record.ts'
import type { CapturedReading } from '../measurement/capturedReading.ts'
import type { Instrument } from '../measurement/instrument.ts'
import type { CalibrationParameters, DeviceSetting, MeasurementModel } from '../measurement/measurementModel.ts'
import type { OwnStandard } from '../measurement/ownStandards.ts'
import type { SensorKind } from '../measurement/sensorKind.ts'
import type { Standard } from '../measurement/standard.ts'
import type { Quantity, Sentence } from '../quantities/sentence.ts'
import type { Hazard } from '../standards/hazards.ts'
import type { Setup } from './setup.ts'
import type { FieldSpec, FormValues, Step } from './step.ts'

export interface StepDecision {
  decision: Decision
  proposed: Decision
  note: string | null
}

/** What the device was given, and what was seen of it. */
export interface GivenCalibration {
  /** `key`: the device calibrated itself. `noted`: as it is written elsewhere. */
  way: 'link' | 'keyed' | 'key' | 'noted'
  /** What the device computes with: as read back where there is a line, else as it was keyed in, or is worked out. */
  characteristic: CalibrationParameters
  /** As the device holds them; null where there is no line to ask. */
  readBack: CalibrationParameters | null
  /** As read off the display; null where nobody looked, or the line was asked instead. */
  shownAfter: {
    value: number
    unit: string
    /** Worked out for the sensor where it stood; null where nothing was known of that. */
    should: number | null
    /** Why it stands although it differs from what it should be. */
    reason?: string
  } | null
}

/** What was typed into a form, when, and with which instruments it was read. */
export interface FilledForm {
  values: FormValues
  at: number
  instruments?: Readonly<Record<string, Instrument>>
}

/** What has happened so far, as it counts now. */
export interface VisitState {
  setup: Setup
  kind: Kind
  model: MeasurementModel
  /** The reading that counts for each step. */
  readings: Readonly<Record<string, CapturedReading>>
  /** All readings that count for a step: more than one where it was repeated, their mean being the one above. */
  counting: Readonly<Record<string, readonly CapturedReading[]>>
  forms: Readonly<Record<string, FilledForm>>
  /** When each step was done, epoch ms. */
  doneAt: Readonly<Record<string, number>>
  skipped: Readonly<Record<string, string>>
  decisions: Readonly<Record<string, StepDecision>>
  /** How often each step was captured or filled in, those that no longer count included. */
  attempts: Readonly<Record<string, number>>
  /** How often each decision was made, those taken back included. */
  asked: Readonly<Partial<Record<Decision, number>>>
  /** Codes of the findings for which points were taken again. */
  doubted: readonly Finding['code'][]
  /** What the device was given. */
  applied: GivenCalibration | null
  startedAt: number
}

/** A number on the result, with its unit in the text and what stands beside it. */
export interface Figure {
  label: string
  value: Sentence | Quantity
  note: Sentence
}

export interface Assessment {
  figures: readonly Figure[]
  findings: readonly Finding[]
  proposal: ProposedDecision
  choices: readonly Decision[]
  /** What a decision is called here, where it is not what it is called elsewhere. */
  names?: Partial<Record<Decision, string>>
  /** Position of a sensor that is to be calibrated next, where that is what follows. */
  calibrate?: string
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
  value: Sentence | Quantity
  note: Sentence
}

/** Readings of the past, in standards or against a value that was measured otherwise. */
export interface PastPoints {
  /** How many, each in its own standard, in the order of the roles; 0 against a value that was measured otherwise. */
  points: number
  /** Whether the first role is that of the highest standard. */
  highFirst?: boolean
  judge(evidence: VisitState): Assessment | null
}

/** What a procedure must suit. */
export type Suited = Pick<Setup, 'kind' | 'device' | 'shows' | 'linked' | 'gives' | 'twins' | 'adjustsBy'>

/** One way of doing one job on one kind of sensor: data, and small functions over the evidence. */
export interface Procedure {
  /** Stored in records. */
  id: string
  /** One up whenever its steps or its judgement change: records say by which they were made. */
  version: number
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
  suits?(setup: Suited): boolean
  /** The procedure in whose place it is offered, where it suits. */
  replaces?: string
  /** A calibration that gives the sensor a new start rather than a new error. */
  baseline?: boolean
  /** How readings that were noted elsewhere in the past are judged by it; missing where they cannot be. */
  past?: PastPoints
  steps(evidence: VisitState): readonly Step[]
  /** What the open verdict or result step has to say; null while something is missing. */
  judge(evidence: VisitState, step: string): Assessment | null
  /** What the sensor's record gets when the visit closes; null when the visit measured nothing of the kind. */
  observe(evidence: VisitState): Observation | null
}

export interface Observation {
  asFound: number | null
  /** What drift is computed from on; only what `verified` says so of was read. */
  asLeft: number
  /** Whether `asLeft` comes of a reading after the last change, and not of the numbers that were given. */
  verified: boolean
  uncertainty: number
  fouling: number | null
  adjusted: boolean
}

/** What is read now, before it is captured. */
export interface LiveReading {
  /** Where the signal will end, as far as known. */
  signal: number
  temperature: number
  /** As displayed now; null where only the signal is read. */
  shown: number | null
  /** Quick scatter of the signal. */
  noise: number
}

export interface KindWords {
  /** What one holds in the hand. */
  sensor: string
  /** How it goes into a standard. */
  immerse: string
  clean: { title: string; hint: string }
}

/** How a kind is corrected by a sample that was measured elsewhere. */
export interface SampleTraits extends SampleRules {
  /** Unit and decimals of a result; null where it is entered as the device shows it. */
  scale: { unit: string; decimals: number } | null
  /** Half-width of a usual result, in its unit. */
  usualUncertainty: number
  /** Whether values are amounts above a true zero, so that shares of them mean something. */
  amount: boolean
  /** Farther apart than this is a slip rather than drift, in the unit of errors. */
  slipBeyond?: number
  hazards: readonly Hazard[]
  /** Whether the water itself has another value at another temperature. */
  temperatureMatters?: boolean
  /** What the pH of the water means for the sensor, where it has to be known: null where it was not entered. */
  waterPh?: (ph: number | null, temperature: number) => Finding
  /** What the sensor must be for the reading to have been the result; core units. @throws OutOfRange */
  corrected(setup: Setup, reading: CapturedReading, right: number, frozen: number): CalibrationParameters
}

/**
 * One input of a simulator in place of the sensor: the signal (core unit) and the temperature it plays, or what the
 * display must show where the operator knows that.
 */
export type SimulatorRow = { label: Sentence } & ({ signal: number; temperature: number } | { right: number })

export interface SimulatorTraits {
  rows(setup: Setup): readonly SimulatorRow[]
  /** Units in which further inputs may be typed, each with the row that it makes of a value at a temperature, degC. */
  units: Readonly<Record<string, (value: number, temperature: number) => SimulatorRow | null>>
  /** Largest error as displayed in a row; `all` are the right displays of all rows. */
  tolerance(right: number, all: readonly number[]): number
  /** What the display shows for an input of 0. */
  zeroAt: number
}

/** How a device's setting for a kind of sensor is entered. */
export interface SettingTraits {
  fields: readonly FieldSpec[]
  /** What stands in the fields. */
  valuesOf(setting: DeviceSetting): FormValues
  /** What is set by them. */
  settingOf(values: FormValues): DeviceSetting
}

/** How a kind of sensor takes in standards of a site's own. */
export interface OwnStandardTraits {
  /** What a value may be, in the unit in which it is stored. */
  low: number
  high: number
  /** Where the bottle does not say it. */
  usualUncertainty: number
  /** Takes it into the tables of the kind, in place of one with the same code, and returns its bottle. */
  take(own: OwnStandard): Standard
}

/** All that is particular to one kind of sensor. Everything else asks here and never compares names of kinds. */
export interface Kind {
  /** Stored in records. */
  id: SensorKind
  /** Of all its sensors together, over a list. */
  name: string
  /** In the code of a position. */
  short: string
  /** What people call it in their lists, in lower case. */
  alsoCalled: readonly string[]
  model: MeasurementModel
  words: KindWords
  /** How a device is set, in a line that can be compared with its own menu; empty where nothing can be set. */
  settingText(device: DeviceSetting): string
  /** What of a device is set for this kind, as it is asked for; none where nothing can be set. */
  setting?: SettingTraits
  /** Bottled standards made for it, those of the site's own among them. */
  standards: Standard[]
  /** Missing where it is calibrated in no standard. */
  ownStandard?: OwnStandardTraits
  /** Codes of those that usually stand about, whatever was chosen. */
  commonStandards: readonly string[]
  /** In the order in which they are offered. */
  procedures: readonly Procedure[]
  /** Id of the quick look at a sensor, where there is one. */
  quickCheck: string | null
  /** What is done at its visits by default; only "Calibrate" can begin with a check. */
  verb: 'Calibrate' | 'Sample'
  /** Place on a trip, smallest first: what others are computed from comes before them. */
  tripOrder: number
  /** Rest of a new one before its first calibration. */
  rest: { minutes: number; title: string; hint: string } | null
  /** Flat wait of the stopwatch practice, s (common practice, no source). */
  flatWaitSeconds: number
  /** The signal as a display can show it; null where only the finished value is shown. */
  signalDisplay: { low: number; high: number; unit: string; decimals: number } | null
  /** Whether the signal leads on the Bench where the device shows it. */
  signalLeads: boolean
  /** How closely the end must be known on the display; from the preset unless said. */
  settledWithin?: Quantity
  /** Whether a reading means anything before the first calibration. */
  readsUncalibrated: boolean
  /** Whether its thermometer can be wrong without its value being so. */
  temperatureInput: boolean
  /** Whether it breaks on glass. */
  fragile: boolean
  /** By which quantity of TM 1-D3 its record is rated. */
  rated: RatedQuantity | null
  sample: SampleTraits | null
  simulator: SimulatorTraits | null
  health: HealthTraits
  /** The slips of unit that it is open to. */
  unitSlip(device: DeviceSetting): SlipKind | null
  /** How near a value must be to that of the standard before to be taken for it, core unit. */
  leftOverSpread(right: number): number
  /** What is looked at where the sensor sits, before its reading is believed. */
  inPlace?(e: VisitState): readonly Step[]
  /** Findings of the points so far, before all are taken. */
  earlyFindings?(e: VisitState): readonly Finding[]
  /** Whether the display does not follow the device's setting as noted. */
  settingFinding?(
    e: VisitState,
    standard: number,
    reading: Pick<LiveReading, 'shown' | 'signal' | 'temperature'>,
  ): Finding | null
  /** Beside the value of a standard: why it is not the label's. */
  standardNote: Sentence
  /** Whether what the device should show in a standard is worth a line beside its value. */
  expectsDisplay: boolean
  /** The theoretical slope: what a tenfold is worth for a perfect electrode of this kind. */
  slopeTitle: string | null
}
