import type { InstrumentKind } from '../measurement/instrument.ts'
import type { SensorKind } from '../measurement/sensorKind.ts'
import type { Sentence } from '../quantities/sentence.ts'
import type { SettlingGrade } from '../stability/grade.ts'
import type { Hazard } from '../standards/hazards.ts'

export type FormValue = number | string | boolean
export type FormValues = Readonly<Record<string, FormValue>>

/** One thing to type or tick in a form step. */
export interface FieldSpec {
  key: string
  label: string
  /** What a sound device shows, on the scale of the field. */
  expected?: number
  kind: 'number' | 'text' | 'secret' | 'choice' | 'tick' | 'instrument' | 'photo' | 'date'
  unit?: string
  low?: number
  high?: number
  decimals?: number
  /** degC; the number is a temperature, typed in °C or in °F, and what is likely in °F only is named. */
  usualTemperature?: number
  /** The number is a difference of temperatures, typed in °C or in °F, in °C as a value. */
  isTemperatureDifference?: boolean
  optional?: boolean
  /** Refuses the form until it is ticked. */
  must?: boolean
  /** text: inputs of a simulator for this kind of sensor. */
  inputsOf?: SensorKind
  /** instrument: which may be chosen, and the field that takes what it is good to, in this unit. */
  instruments?: readonly InstrumentKind[]
  statesUncertainty?: { key: string; unit: string }
  choices?: readonly { value: string; label: string }[]
  /** What stands there at first. */
  usual?: string | number
  hint?: Sentence
  /** Fields of one row of a table stand beside each other under this name. */
  row?: Sentence
  /** text: several lines. */
  lines?: boolean
  /** text: what is likely meant. */
  suggestions?: readonly string[]
  /** Asked only where another field has one of these values. */
  when?: { key: string; is: readonly FormValue[] }
  /** A linked device can fill this in by itself: what it shows now. */
  live?: boolean
  /** What is applied to the transmitter's input in place of the sensor, in the core unit of the signal and degC. */
  appliedInput?: { signal: number; temperature: number }
}

export type Medium = 'process' | 'standard' | 'air' | 'plug' | 'sample'

export type StepKind = 'confirm' | 'wait' | 'capture' | 'form' | 'verdict' | 'result' | 'apply'

/** One step as it stands on the ladder and, when it is its turn, fills the screen. */
export interface Step {
  /** Stored in records. */
  key: string
  /** Captures of the same level of temperature, whose temperature may stand for this one's; missing: all in standards. */
  sameLevel?: readonly string[]
  kind: StepKind
  /** On the ladder. */
  short: string
  /** What to do now, in one sentence. */
  title: Sentence
  hint: Sentence
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
  /** capture: what is waited for, where the site leaves it to the procedure; that its end is known unless said. */
  waitsFor?: SettlingGrade
  /** confirm: each must be ticked before the main button is there. */
  ticks?: readonly string[]
  /** wait: usual minutes, and whether it counts for all sensors of a trip. */
  minutes?: number
  shared?: boolean
  /** wait: goes on by itself once the time is over; nobody has to press twice. */
  goesOn?: boolean
  /** form. */
  fields?: readonly FieldSpec[]
  /** form: once it is filled in, the device has calibrated itself. */
  calibrates?: boolean
  /** form: the capture in the same cup just before it; read manually, the two are one screen. */
  joins?: string
  /** form: may stay open for minutes or days; nobody has to hold the sensor meanwhile. */
  pending?: boolean
  /** result, verdict: where `repeat` and `clean-and-recheck` go back to. */
  repeatFrom?: string
  cleanFrom?: string
  conditionFrom?: string
}
