import type { FindingCode } from '../calibration/finding.ts'
import { DAY_MS } from '../drift/observation.ts'
import { type CapturedReading, isOverLine, settledAfter } from '../measurement/capturedReading.ts'
import type { CalibrationParameters, DeviceSetting, MeasurementModel } from '../measurement/measurementModel.ts'
import { nullIfOutOfRange } from '../quantities/outOfRange.ts'
import { median } from '../statistics/median.ts'
import type { HealthTraits } from './healthTraits.ts'
import type { HealthVisit } from './healthVisit.ts'
import type { StandardReading } from './whatMoved.ts'

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
  /** Whether its signals were worked out behind a display while the device's calibration was unknown. */
  isBehindUnknown?: boolean
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
/** Standards that are nearer to each other tell no slope, mV: half a pH; common practice, no source. */
const LEAST_APART = 30
/** Of a standard nearer to the process than this, mV, nobody can say which way a film holds it. */
const LEAST_AWAY = 10
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
    const { cleaning, away, faster, hysteresis } = sameStandardAgain(visit, cell)
    const share = cell ? sensor.processValue : 1
    const before = visit.isBehindUnknown
      ? null
      : (seen.slice(0, i).findLast((v) => v.characteristic)?.characteristic ?? null)
    return {
      at: visit.at,
      zero: cell ? (c?.zero === undefined ? null : c.zero / sensor.processValue) : zeroOf(traits, c),
      // Of a sensor that cannot be calibrated any more its standards still tell.
      slope: slopeKey === null ? null : (c?.[slopeKey] ?? slopeOfReadings(sensor, visit)),
      settlingSeconds: settlingSeconds(visit),
      noise: noiseOf(visit, (r) => r.standard !== undefined, share),
      noiseApart: noiseApart(visit),
      processNoise: noiseOf(visit, inProcess, share),
      againstBefore: referenceElectrode ? againstBefore(sensor, visit, before) : null,
      hysteresis,
      cleaning,
      cleaningAway: away,
      fasterAfterCleaning: faster,
      cellFactor: cell ? (c?.factor ?? null) : null,
      tankAlone: tankAlone(sensor, visit, seen.slice(0, i)),
      tankNow: strayed(sensor, visit, c),
      tankByBefore: strayed(sensor, visit, before),
      temperatureError: temperatureError(visit),
      processWarmer: warmerThanUsual(sensor, visit),
      standardTemperature: temperatureIn(sensor, visit, (r) => r.standard !== undefined),
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
    reading.standard && !reading.earlyReason && hasPace(reading) ? [settledAfter(reading)] : [],
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
  const known = [a, b].every((r) => hasPace(r) && !r.earlyReason && settledAfter(r) > 0)
  return known ? settledAfter(a) / settledAfter(b) : null
}

/** Of the readings in standards the most restless against the middle one; null where there are too few. */
function noiseApart({ readings }: ClosedVisit): number | null {
  const known = readings.flatMap(({ reading }) =>
    reading.standard && reading.noise !== undefined && reading.noise > 0 ? [reading.noise] : [],
  )
  return known.length < 3 ? null : Math.max(...known) / median(known)
}

/** Share of the ideal slope that two standards of the visit show, after cleaning where they were read then. */
function slopeOfReadings({ model, device }: HealthSensor, { readings, isBehindUnknown }: ClosedVisit): number | null {
  if (isBehindUnknown) return null
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
): { cleaning: number | null; away: number | null; faster: number | null; hysteresis: number | null } {
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
  const inWater = readings.find(({ step, reading }) => inProcess(reading, step))
  const apart = inWater && first ? first.reading.signal - inWater.reading.signal : 0
  const moved = (a: CapturedReading, b: CapturedReading) =>
    share ? (b.signal - a.signal) / b.signal : b.signal - a.signal
  return {
    cleaning: found && first ? moved(found.reading, first.reading) : null,
    away:
      !share && found && first && Math.abs(apart) > LEAST_AWAY
        ? Math.sign(apart) * moved(found.reading, first.reading)
        : null,
    faster: found && first ? paceRatio(found.reading, first.reading) : null,
    hysteresis: !share && first && back ? moved(first.reading, back.reading) : null,
  }
}

/** Error against a hand meter soon after a calibration that the standards do not explain, in tolerances. */
function tankAlone(sensor: HealthSensor, visit: ClosedVisit, before: readonly ClosedVisit[]): number | null {
  if (visit.codes?.includes('beaker-right-tank-wrong')) return CLEARLY
  if (!visit.compared) return null
  const calibrated = before.findLast((v) => v.asLeft !== null)
  if (!calibrated || visit.at - calibrated.at > FRESH_DAYS * DAY_MS) return null
  const unexplained = Math.abs(visit.compared.error - (calibrated.asLeft as number))
  return Math.max(0, unexplained - visit.compared.uncertainty) / sensor.tolerance
}

/** How far the process lay from its usual value by a calibration, in tolerances; null where it was not read. */
function strayed(sensor: HealthSensor, { readings }: ClosedVisit, by: CalibrationParameters | null): number | null {
  if (!by) return null
  const { model } = sensor
  const errors = readings.flatMap(({ step, reading }) => {
    if (!inProcess(reading, step)) return []
    const value = nullIfOutOfRange(() => model.valueOf(reading.signal, reading.temperature, by, sensor.device))
    return value === null ? [] : [model.errorOf(value, sensor.processValue)]
  })
  return errors.length > 0 ? median(errors) / sensor.tolerance : null
}

/** How far each reading in a standard lay from what an earlier calibration foresaw; null where there is none. */
function againstBefore(
  { model, device, traits }: HealthSensor,
  { readings }: ClosedVisit,
  by: CalibrationParameters | null,
): StandardReading[] | null {
  if (!by) return null
  return readings.flatMap(({ reading: { standard, temperature, signal } }) => {
    if (!standard) return []
    const foreseen = nullIfOutOfRange(() => [
      model.signalOf(standard.value, temperature, by, device),
      model.signalOf(standard.value, temperature, model.ideal, device),
    ])
    if (!foreseen) return []
    const [expected, ideal] = foreseen as [number, number]
    return [{ code: standard.code, off: signal - expected, span: ideal - (zeroOf(traits, model.ideal) ?? 0) }]
  })
}

/** degC by which its own thermometer is off, where the visit found it out; null where it did not. */
const temperatureError = ({ codes }: ClosedVisit): number | null =>
  codes?.some((code) => TEMPERATURE_WRONG.includes(code)) ? CLEARLY : null

/** By how much its own thermometer showed the process warmer than usual, degC; null where that is not known. */
function warmerThanUsual(sensor: HealthSensor, visit: ClosedVisit): number | null {
  const shown = temperatureIn(sensor, visit, inProcess)
  return shown === null ? null : shown - sensor.processTemperature
}

/** What its own thermometer showed in readings of a kind, degC; null where it has none, or was not read. */
function temperatureIn(
  { traits }: HealthSensor,
  { readings }: ClosedVisit,
  which: (reading: CapturedReading, step: string) => boolean,
): number | null {
  const known = readings.flatMap(({ step, reading }) => (which(reading, step) ? [reading.temperature] : []))
  return traits.thermometer && known.length > 0 ? median(known) : null
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
