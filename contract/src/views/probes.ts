import type {
  CalibrationParameters,
  Cause,
  ControlLimits,
  DeviceSetting,
  EndOfLife,
  Feature,
  NextDate,
  NextTest,
  OutOfTolerance,
  ParameterSpec,
  RankedCause,
  Scale,
  SetAside,
  SharedReference,
  TroubleHistory,
  WorkDone,
} from '@frustum/core'
import type { RoundsRow, UnfitSensor } from './rounds.ts'
import type { ChangeView } from './site.ts'

export interface VisitSummary {
  id: string
  at: number
  procedure: string
  name: string
  operator: string
  asFound: number | null
  asLeft: number
  /** Whether as left was read, and is not only what the numbers given make of it. */
  verified: boolean
  uncertainty: number
  fouling: number | null
  adjusted: boolean
  /** Null where it was ended without a result, or its record cannot be read. */
  work: WorkDone | null
}

export interface CalibrationView {
  at: number
  characteristic: CalibrationParameters
  uncertainty: CalibrationParameters
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
  unfit: UnfitSensor[]
  /** Causes that were confirmed, and how many of them the diagnosis had proposed first, or among its first two. */
  confirmed: { count: number; first: number; firstTwo: number }
}

export interface HealthView {
  ranked: RankedCause[]
  /** Too little is known to name one of them. */
  tooLittle: boolean
  next: NextTest | null
  /** Features that were answered by a test on purpose. */
  tested: Feature[]
  /** Since when the likeliest cause is it, and what came and went before. */
  troubles: TroubleHistory
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
  processUnit: string
  serialNumber: string
  model: string
  installedAt: number
  /** Where the sensor was before it was moved here, oldest first. */
  cameFrom: { position: string; from: number; to: number }[]
  /** Set when the calibration in the device differs from the record. */
  numbersChanged: { at: number; given: CalibrationParameters } | null
  /** Whether numbers can be written to the device from here. */
  writable: boolean
  /** Newest first. */
  hourMeter: { at: number; hours: number }[]
  device: DeviceSetting
  deviceShows: 'signal' | 'value'
  /** Of its rules, newest first. */
  changes: ChangeView[]
  cautions: readonly string[]
  authorityRule: string | null
  /** As the device shows it. */
  processShown: number
  errorScale: Scale
  parameters: readonly ParameterSpec[]
  calibrations: CalibrationView[]
  visits: VisitSummary[]
  events: {
    at: number
    kind: string
    label: string | null
    note: string
    operator: string | null
    photo: string | null
  }[]
  activeCalibration: CalibrationParameters
}
