import type { FindingCode } from '../calibration/finding.ts'
import { DAY_MS } from '../drift/observation.ts'
import { type CapturedReading, isOverLine } from '../measurement/capturedReading.ts'
import type { CalibrationParameters, DeviceSetting, MeasurementModel } from '../measurement/measurementModel.ts'
import { nullIfOutOfRange } from '../quantities/outOfRange.ts'
import { median } from '../statistics/median.ts'
import type { HealthVisit } from './evidence.ts'
import type { HealthTraits } from './healthTraits.ts'

/** Where a sensor sits: what its readings in the process are held against. */
export interface HealthSensor {
  traits: HealthTraits
  model: MeasurementModel
  /** In the core unit of the kind; degC; in the unit of errors. */
  processValue: number
  processTemperature: number
  tolerance: number
  device: DeviceSetting
}

/** One closed visit, as the record has it. */
export interface ClosedVisit {
  /** Epoch ms. */
  at: number
  readings: readonly { step: string; reading: CapturedReading }[]
  /** What the sensor was found to be; null where the points gave nothing. */
  characteristic: CalibrationParameters | null
  /** What the procedure found out of the ordinary; null where that was not looked up. */
  codes: readonly FindingCode[] | null
  /** Error as left, from standards; null where none were used. */
  asLeft: number | null
  /** Error against a hand meter or a kit in the same water, with the half-width of its 95 % interval. */
  compared: { error: number; uncertainty: number } | null
  /** Of what the zero moved since the visit before: shared by the body, and its own, mV. */
  shift: { common: number; own: number | null } | null
  /** Whether the device was found to hold another calibration than it was given; null where nobody can ask it. */
  numbersChanged: boolean | null
}

/** Findings that say that the standards and not the sensor are wrong, or the thermometer. */
const STANDARDS_DISAGREE: readonly FindingCode[] = [
  'standards-swapped',
  'wrong-standard',
  'segments-disagree',
  'slope-high',
]
const TEMPERATURE_WRONG: readonly FindingCode[] = ['wrong-temperature-input', 'temperature-implausible']
/** Beyond the limit between the words by a clear margin: degC, and tolerances. */
const CLEARLY = 2
/** A water may stray this far from its usual value, in tolerances, and its temperature, degC; common practice, no source. */
const USUAL_STRAY = 4
const USUAL_TEMPERATURE = 3
/** Standards that are nearer to each other tell no slope, mV: half a pH; common practice, no source. */
const LEAST_APART = 30
/** Share of the slope, the wrong way round, from which on the standards were swapped. */
const SWAPPED = 0.3
/** A hand meter says nothing of a sensor that was calibrated longer ago than this, days; common practice, no source. */
const FRESH_DAYS = 30
/** Glass conducts twice as well for so many degrees more; from memory of handbook figures of 7 to 8 degC. */
const DOUBLES_EVERY = 7.5

/** What each visit tells of the sensor's health, oldest first, as `evidenceOf` takes it. */
export function healthVisits(sensor: HealthSensor, seen: readonly ClosedVisit[]): HealthVisit[] {
  const { traits } = sensor
  const { cell, referenceElectrode, glass: hasGlass, slopeKey } = traits
  const glass = firstKnown(seen, (v) => resistanceOf(v, 'glass'))
  const junction = firstKnown(seen, (v) => resistanceOf(v, 'junction'))
  return seen.map((visit, i): HealthVisit => {
    const c = visit.characteristic
    const { cleaning, faster, hysteresis } = sameStandardAgain(visit, cell)
    const share = cell ? sensor.processValue : 1
    return {
      at: visit.at,
      zero: cell ? (c ? (c.zero ?? 0) / sensor.processValue : null) : zeroOf(traits, c),
      // Of a sensor that cannot be calibrated any more its standards still tell.
      slope: slopeKey === null ? null : (c?.[slopeKey] ?? slopeOfReadings(sensor, visit)),
      settlingSeconds: settlingSeconds(visit),
      noise: noiseOf(visit, (r) => r.standard !== undefined, share),
      noiseApart: noiseApart(visit),
      processNoise: noiseOf(visit, inProcess, share),
      hysteresis,
      cleaning,
      fasterAfterCleaning: faster,
      cellFactor: cell ? (c?.factor ?? null) : null,
      tankAlone: tankAlone(sensor, visit, seen.slice(0, i)),
      temperatureError: temperatureError(sensor, visit),
      standardsDisagree: visit.codes?.some((code) => STANDARDS_DISAGREE.includes(code)) ?? null,
      sharedShift: visit.shift?.common ?? null,
      ownShift: visit.shift?.own ?? null,
      junctionResistance: referenceElectrode ? timesNew(resistanceOf(visit, 'junction'), junction) : null,
      glassResistance: hasGlass ? timesNew(resistanceOf(visit, 'glass'), glass) : null,
      deviceNumbersChanged: visit.numbersChanged,
    }
  })
}

/** The zero of a kind in mV, where it has one. */
export const zeroOf = ({ zeroKey }: HealthTraits, c: CalibrationParameters | null): number | null =>
  zeroKey === null ? null : (c?.[zeroKey] ?? null)

/** Whether its seconds are those of the sensor: of numbers typed by hand they are those of a person. */
const hasPace = ({ source }: CapturedReading) => isOverLine(source) || source === 'not-noted'

/** Seconds to a stable reading in a standard, the middle one of the visit; null when none was waited for. */
export function settlingSeconds({ readings }: Pick<ClosedVisit, 'readings'>): number | null {
  const seconds = readings.flatMap(({ reading }) =>
    reading.standard && !reading.earlyReason && hasPace(reading) ? [reading.stability.seconds] : [],
  )
  return seconds.length > 0 ? median(seconds) : null
}

const PROCESS_STEPS = ['found-process', 'back', 'moment']
const inProcess = (_: CapturedReading, step: string) => PROCESS_STEPS.includes(step)

/** Scatter of the readings of a kind, in the unit of the signal over `share`. */
function noiseOf(
  { readings }: ClosedVisit,
  which: (reading: CapturedReading, step: string) => boolean,
  share: number,
): number | null {
  const known = readings.flatMap(({ step, reading }) =>
    reading.noise !== undefined && which(reading, step) ? [reading.noise / share] : [],
  )
  return known.length > 0 ? median(known) : null
}

/** How many times as long the first took; null where either has no pace of its own. */
function paceRatio(a: CapturedReading, b: CapturedReading): number | null {
  const known = [a, b].every((r) => hasPace(r) && !r.earlyReason && r.stability.seconds > 0)
  return known ? a.stability.seconds / b.stability.seconds : null
}

/** Of the readings in standards the most restless against the middle one; null where there are too few. */
function noiseApart({ readings }: ClosedVisit): number | null {
  const known = readings.flatMap(({ reading }) =>
    reading.standard && reading.noise !== undefined && reading.noise > 0 ? [reading.noise] : [],
  )
  return known.length < 3 ? null : Math.max(...known) / median(known)
}

/** Share of the ideal slope that two standards of the visit show, after cleaning where they were read then. */
function slopeOfReadings({ model, device }: HealthSensor, { readings }: ClosedVisit): number | null {
  const inStandards = readings.filter((r) => r.reading.standard)
  const cleaned = inStandards.filter((r) => !r.step.startsWith('found'))
  const pairOf = (some: typeof readings) => {
    const [one] = some
    const other = some.find((r) => r.reading.standard?.code !== one?.reading.standard?.code)
    return one && other ? [one.reading, other.reading] : null
  }
  const pair = pairOf(cleaned) ?? pairOf(inStandards)
  if (!pair) return null
  const [one, other] = pair as [CapturedReading, CapturedReading]
  const ideal = nullIfOutOfRange(() => {
    const [a, b] = [one, other].map((r) =>
      model.signalOf(r.standard?.value as number, r.temperature, model.ideal, device),
    ) as [number, number]
    return b - a
  })
  const slope = ideal === null || Math.abs(ideal) < LEAST_APART ? null : (other.signal - one.signal) / ideal
  // The wrong way round it is the standards that were changed for each other.
  return slope !== null && slope < -SWAPPED ? null : slope
}

/** What the same standard read before and after cleaning, and on the way back from the second. */
function sameStandardAgain(
  { readings }: ClosedVisit,
  share: boolean,
): { cleaning: number | null; faster: number | null; hysteresis: number | null } {
  const found = readings.find((r) => r.step.startsWith('found') && r.reading.standard)
  const code = found?.reading.standard?.code
  // Of a step that was read more than once the last counts here: it went from cup to cup, not back to one.
  const after = readings.filter(
    (r, i) =>
      r.step !== found?.step &&
      r.reading.standard?.code === code &&
      readings.findLastIndex((other) => other.step === r.step) === i,
  )
  const first = after[0]
  const back = after.length > 1 ? after.at(-1) : undefined
  const moved = (a: CapturedReading, b: CapturedReading) =>
    share ? (b.signal - a.signal) / b.signal : b.signal - a.signal
  return {
    cleaning: found && first ? moved(found.reading, first.reading) : null,
    faster: found && first ? paceRatio(found.reading, first.reading) : null,
    hysteresis: !share && first && back ? moved(first.reading, back.reading) : null,
  }
}

/**
 * Error in the process that the standards do not explain, in tolerances: by a hand meter soon after a calibration, or
 * by how far all readings of the visit in the process lie from what this water usually is, with the sensor taken as
 * the standards of the same visit found it.
 */
function tankAlone(sensor: HealthSensor, visit: ClosedVisit, before: readonly ClosedVisit[]): number | null {
  if (visit.codes?.includes('beaker-right-tank-wrong')) return CLEARLY
  if (visit.compared) {
    const calibrated = before.findLast((v) => v.asLeft !== null)
    if (!calibrated || visit.at - calibrated.at > FRESH_DAYS * DAY_MS) return null
    const unexplained = Math.abs(visit.compared.error - (calibrated.asLeft as number))
    return Math.max(0, unexplained - visit.compared.uncertainty) / sensor.tolerance
  }
  const { characteristic } = visit
  if (!characteristic) return null
  const { model } = sensor
  const errors = visit.readings.flatMap(({ step, reading }) => {
    if (!inProcess(reading, step)) return []
    const value = nullIfOutOfRange(() =>
      model.valueOf(reading.signal, reading.temperature, characteristic, sensor.device),
    )
    return value === null ? [] : [model.errorOf(value, sensor.processValue)]
  })
  if (errors.length === 0 || (errors.some((e) => e > 0) && errors.some((e) => e < 0))) return null
  const strayed = Math.min(...errors.map(Math.abs)) / (USUAL_STRAY * sensor.tolerance)
  // Near its usual value proves nothing: water moves too.
  return strayed > 1 ? strayed : null
}

/** degC by which its own thermometer is off, as far as the visit tells; null where nothing speaks against it. */
function temperatureError(sensor: HealthSensor, { readings, codes }: ClosedVisit): number | null {
  if (codes?.some((code) => TEMPERATURE_WRONG.includes(code))) return CLEARLY
  if (!sensor.traits.thermometer) return null
  const apart = readings.flatMap(({ step, reading }) =>
    inProcess(reading, step) ? [reading.temperature - sensor.processTemperature] : [],
  )
  // A water near its usual temperature proves nothing to the tenth of a degree.
  return apart.length > 0 && Math.min(...apart.map(Math.abs)) > USUAL_TEMPERATURE ? median(apart) : null
}

/** MOhm of the glass at 25 degC, or kOhm of the junction, as the device reported them; null where it does not. */
function resistanceOf({ readings }: ClosedVisit, which: 'glass' | 'junction'): number | null {
  const known = readings.flatMap(({ reading }) => {
    const value = reading.resistances?.[which]
    if (value === undefined) return []
    return [which === 'glass' ? value * 2 ** ((reading.temperature - 25) / DOUBLES_EVERY) : value]
  })
  return known.length > 0 ? median(known) : null
}

const firstKnown = (seen: readonly ClosedVisit[], of: (v: ClosedVisit) => number | null): number | null =>
  seen.map(of).find((value) => value !== null) ?? null

const timesNew = (value: number | null, first: number | null): number | null =>
  value === null || first === null || first <= 0 ? null : value / first
