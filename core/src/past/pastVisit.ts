import { kindOf, ownPart, pastProcedureFor } from '../kinds/index.ts'
import { type CapturedReading, isDisplayAlone } from '../measurement/capturedReading.ts'
import type { CalibrationParameters } from '../measurement/measurementModel.ts'
import { isWhole } from '../measurement/wholeCalibration.ts'
import { VERIFY_KEYS } from '../procedures/assess.ts'
import { LIST_STEP, STATED_STEP } from '../procedures/pastProcedure.ts'
import type { Procedure, VisitState } from '../procedures/procedure.ts'
import type { Setup } from '../procedures/setup.ts'
import type { FormValues } from '../procedures/step.ts'
import { nullIfOutOfRange } from '../quantities/outOfRange.ts'
import { stillWidth } from '../stability/typedOpinion.ts'
import { ROOM_TEMPERATURE } from '../visits/typing.ts'
import { type Progress, type RecordLine, reduceVisit, type VisitEntry } from '../visits/visitReducer.ts'

/** What was read in one standard, as the device showed it; null where it was not noted. */
export interface PastPoint {
  /** Code of the standard. */
  standard: string
  before: number | null
  after: number | null
  /** degC, where its own row says it; else that of the visit. */
  temperature?: number | null
}

/** A calibration of the past, as it was noted. */
export interface PastCalibration {
  /** Epoch ms. */
  at: number
  /** Its row, as it stands in the list, by heading. */
  row: FormValues
  points: readonly PastPoint[]
  /** What was measured otherwise at the same moment, and what the device showed, on its scale. */
  reference: { right: number; shown: number } | null
  /** degC; null where it was not noted. */
  temperature: number | null
  /** What the readings are: the display, or the signal in its core unit. */
  readAs: 'shown' | 'signal'
  /** Parameters that the device said, in the units of the calibration parameters; as many as were noted. */
  stated: CalibrationParameters
  /** Whether the device computes otherwise since. */
  calibrated: boolean
}

/** All that stands around a calibration of the past, as far as it is known now. */
export type PastSetup = Omit<Setup, 'standards' | 'settlingHistory' | 'twins'>

export interface PastVisit {
  procedure: Procedure
  setup: Setup
  startedAt: number
  lines: readonly RecordLine[]
  progress: Progress
}

/** So far a standard whose temperature nobody noted may be from the room's, degC (common practice, no source). */
const ROOM_STRAY = 5

/**
 * A calibration of the past as the record of a visit: the same arithmetic over what was noted, and nothing beyond it.
 * @param known `activeCalibration`: what the device computed with before it; `previous`: null where nothing is known of before
 * @returns what is wrong, where the readings make no visit
 * @example pastVisit(setup, { ...row, points: [{ standard: 'pH7.00', before: 7.05, after: null }] })
 */
export function pastVisit(known: PastSetup, past: PastCalibration): PastVisit | { problem: string } {
  const before = past.points.filter((p) => p.before !== null)
  const isStated = Object.keys(past.stated).length > 0
  const procedure = pastProcedureFor(known.kind, past.reference ? 0 : before.length > 0 ? before.length : null)
  if (!procedure) {
    return {
      problem: past.reference
        ? 'This kind of sensor is not set by a sample.'
        : `There is no way to calibrate it in ${before.length} standards.`,
    }
  }
  if (!isStated && !past.reference && past.points.every((p) => p.before === null && p.after === null)) {
    return { problem: 'There is no reading and no result in it.' }
  }
  const points = ordered(known, past.points, procedure)
  const setup: Setup = {
    ...known,
    standards: Object.fromEntries(
      procedure.roles.flatMap(({ role }, i) => {
        const point = points.filter((p) => p.before !== null)[i]
        return point ? [[role, { code: point.standard, lot: null, ...ownPart(point.standard) }]] : []
      }),
    ),
    settlingHistory: [],
    twins: [],
  }
  try {
    const lines = linesOf(procedure, setup, { ...past, points })
    const progress = reduceVisit(procedure, setup, past.at, lines)
    return { procedure, setup, startedAt: past.at, lines, progress }
  } catch (error) {
    if (error instanceof NotPossible) return { problem: error.message }
    throw error
  }
}

/** A number of the list that this sensor cannot have shown. */
class NotPossible extends Error {}

/** The points in the order in which their procedure takes them: those that were read before first. */
function ordered({ kind }: PastSetup, points: readonly PastPoint[], { past }: Procedure): readonly PastPoint[] {
  const nominal = (p: PastPoint) => kindOf(kind).standards.find((s) => s.code === p.standard)?.nominal ?? 0
  const read = (p: PastPoint) => (p.before === null ? 1 : 0)
  const highFirst = past?.highFirst ?? false
  return [...points].sort((a, b) => read(a) - read(b) || (highFirst ? nominal(b) - nominal(a) : 0))
}

function linesOf(procedure: Procedure, setup: Setup, past: PastCalibration): RecordLine[] {
  const entries: VisitEntry[] = [
    { type: 'filled', step: LIST_STEP, values: { ...past.row, calibrated: past.calibrated ? 'yes' : 'no' } },
  ]
  const stateNow = () =>
    reduceVisit(
      procedure,
      setup,
      past.at,
      entries.map((entry) => ({ at: past.at, entry })),
    ).evidence
  const e = stateNow()
  const at = ({ temperature }: PastPoint) => ({ ...past, temperature: temperature ?? past.temperature })
  let taken = 0
  for (const point of past.points) {
    const { standard, before } = point
    if (before === null) continue
    taken++
    entries.push({
      type: 'captured',
      step: `point-${taken}`,
      reading: readingOf(e, at(point), { noted: before, standard, calibration: setup.activeCalibration }),
    })
  }
  if (past.reference) entries.push(...sampleOf(e, past, past.reference))
  const stated = statedValues(e, past.stated)
  if (Object.keys(stated).length > 0) entries.push({ type: 'filled', step: STATED_STEP, values: stated })
  const given = past.calibrated ? givenThen(stateNow(), procedure) : null
  if (given) {
    entries.push({ type: 'applied', way: 'noted', characteristic: given, readBack: null, shownAfter: null })
  }
  past.points
    .filter((p) => p.after !== null)
    .slice(0, VERIFY_KEYS.length)
    .forEach((point, i) => {
      const { standard, after } = point
      const noted = { noted: after as number, standard, calibration: given ?? setup.activeCalibration }
      entries.push({ type: 'captured', step: VERIFY_KEYS[i] as string, reading: readingOf(e, at(point), noted) })
    })
  return entries.map((entry) => ({ at: past.at, entry }))
}

/**
 * Recalculates a visit from what is known now of the device's calibration before it. Signals derived from the display
 * change; what was read doesn't.
 * @param before the calibration that the device was taken to hold
 */
export function workedOutAnew(
  procedure: Procedure,
  setup: Setup,
  { startedAt, lines }: Pick<PastVisit, 'startedAt' | 'lines'>,
  before: CalibrationParameters,
): { progress: Progress; lines: readonly RecordLine[] } {
  const anew: RecordLine[] = []
  const progress = () => reduceVisit(procedure, setup, startedAt, anew)
  // What the device computes with as the record goes on: as it was believed then, and as it is known now.
  let [old, held] = [before, setup.activeCalibration]
  for (const { at, entry } of lines) {
    if (entry.type === 'captured') {
      const reading = throughCalibration(setup, entry.reading, old, held)
      anew.push({ at, entry: { ...entry, reading } })
    } else if (entry.type === 'applied' && entry.readBack === null) {
      const given = givenThen(progress().evidence, procedure) ?? entry.characteristic
      anew.push({ at, entry: { ...entry, characteristic: given } })
      ;[old, held] = [entry.characteristic, given]
    } else anew.push({ at, entry })
  }
  return { progress: progress(), lines: anew }
}

/** A reading of the display alone, its signal worked out through another calibration. */
function throughCalibration(
  { kind, device }: Setup,
  reading: CapturedReading,
  old: CalibrationParameters,
  held: CalibrationParameters,
): CapturedReading {
  const { shown, temperature } = reading
  if (shown === null || !isDisplayAlone(reading.source)) return reading
  const { model } = kindOf(kind)
  const at = (value: number, by: CalibrationParameters) => model.fromShown(value, temperature, by, device)
  const width = 10 ** -model.shownScale(device).decimals
  const scale = nullIfOutOfRange(
    () => (at(shown + width, held) - at(shown, held)) / (at(shown + width, old) - at(shown, old)),
  )
  const signal = nullIfOutOfRange(() => at(shown, held))
  return signal === null || scale === null || !Number.isFinite(scale)
    ? reading
    : { ...reading, signal, signalUncertainty: reading.signalUncertainty * Math.abs(scale) }
}

/** The stated parameters as they are keyed in. */
const statedValues = (e: VisitState, stated: CalibrationParameters): FormValues =>
  Object.fromEntries(
    e.model.parameters.flatMap(({ key, scale }) =>
      stated[key] === undefined ? [] : [[key, Number((stated[key] * scale).toPrecision(12))]],
    ),
  )

/** What the device computed with afterwards, as far as it is known. */
function givenThen(e: VisitState, procedure: Procedure): CalibrationParameters | null {
  const { activeCalibration } = e.setup
  const judged = nullIfOutOfRange(() => procedure.judge(e, 'result'))
  const found = judged?.found?.characteristic
  if (found && isWhole(e.model, found)) {
    // A stop says that the points gave no calibration.
    return judged.findings.some((f) => f.severity === 'stop') ? null : found
  }
  // In one standard an electrode gets another zero, and keeps its slope.
  const { zeroKey } = e.kind.health
  const reading = e.readings['point-1']
  if (zeroKey === null || !reading?.standard) return null
  const { value } = reading.standard
  const before = { ...activeCalibration, ...found }
  const expected = nullIfOutOfRange(() => e.model.signalOf(value, reading.temperature, before, e.setup.device))
  return expected === null
    ? null
    : { ...before, [zeroKey]: (before[zeroKey] ?? 0) + (e.model.signalUnit === 'mV' ? reading.signal - expected : 0) }
}

interface Noted {
  noted: number
  standard: string
  calibration: CalibrationParameters
}

/** A number of the list as a reading: what it is worth, and how well that is known from its digits. */
function readingOf(e: VisitState, past: PastCalibration, { noted, standard, calibration }: Noted): CapturedReading {
  const { model, setup, kind } = e
  const temperature = past.temperature ?? ROOM_TEMPERATURE
  const bottle = kind.standards.find((s) => s.code === standard)
  const valueAt = (t: number) => nullIfOutOfRange(() => model.standardValue(standard, t, setup.device))
  const value = valueAt(temperature)
  if (!bottle || value === null) {
    throw new NotPossible(`At ${temperature} °C ${bottle?.label ?? standard} has no known value.`)
  }
  // Where its temperature is not known, neither is to the digit what is right to show there.
  const rightAt = (t: number) => {
    const there = valueAt(t)
    return there === null
      ? null
      : nullIfOutOfRange(() => {
          const signal = model.signalOf(there, t, calibration, setup.device)
          return past.readAs === 'signal' ? signal : model.toShown(signal, t, calibration, setup.device)
        })
  }
  const [cold, warm] = [rightAt(temperature - ROOM_STRAY), rightAt(temperature + ROOM_STRAY)]
  const stray = past.temperature === null && cold !== null && warm !== null ? Math.abs(warm - cold) / 2 : 0
  const { signal, width } = signalOf(e, past.readAs, {
    noted,
    temperature,
    calibration,
    stray,
    goesOn: kind.flatWaitSeconds,
  })
  return {
    ...common(past, temperature),
    signal,
    signalUncertainty: width,
    shown: past.readAs === 'shown' ? noted : null,
    standard: { code: standard, value, lot: null, expired: false, openTooLong: false, daysOver: 0 },
  }
}

const common = (past: PastCalibration, temperature: number) => ({
  source: past.readAs === 'shown' ? ('display-typed' as const) : ('signal-typed' as const),
  temperature,
  temperatureFrom: past.temperature === null ? { from: 'usual' as const } : { from: 'device' as const },
  stability: { state: 'unknown' as const, reason: 'not-noted' as const, seconds: 0, confidence: 0 },
  trace: [],
  signature: null,
})

interface At {
  noted: number
  temperature: number
  calibration: CalibrationParameters
  /** By how much what is right may differ, on the scale of the number. */
  stray: number
  /** How long it goes on after a change of solution, s; 0 where nothing was changed. */
  goesOn: number
}

/** The signal behind a number, and its half-width: that of a number which stood still, for nobody noted more. */
function signalOf(
  e: VisitState,
  readAs: PastCalibration['readAs'],
  { noted, temperature, calibration, stray, goesOn }: At,
) {
  const { model, setup, kind } = e
  const widthFor = (decimals: number, resolution: number) =>
    Math.hypot(stillWidth({ digit: 10 ** -decimals, resolution, goesOn }), stray)
  if (readAs === 'signal') {
    const { resolution } = model.preset(Math.abs(noted), 'signal', setup.device)
    return { signal: noted, width: widthFor(kind.signalDisplay?.decimals ?? 1, resolution) }
  }
  const { low, high } = model.shownRange(setup.device)
  const { unit, decimals } = model.shownScale(setup.device)
  const at = (shown: number) => nullIfOutOfRange(() => model.fromShown(shown, temperature, calibration, setup.device))
  const signal = noted < low || noted > high ? null : at(noted)
  if (signal === null) throw new NotPossible(`${noted} ${unit} is nothing that this device can show.`)
  const width = widthFor(decimals, model.preset(Math.abs(noted), 'shown', setup.device).resolution)
  const other = at(noted + width) ?? at(noted - width)
  return { signal, width: other === null ? 0 : Math.abs(other - signal) }
}

/** What was measured otherwise, as a grab sample that was measured at once. */
function sampleOf(
  e: VisitState,
  past: PastCalibration,
  { right, shown }: { right: number; shown: number },
): VisitEntry[] {
  const temperature = past.temperature ?? e.setup.processTemperature
  const { signal, width } = signalOf(e, 'shown', {
    noted: shown,
    temperature,
    calibration: e.setup.activeCalibration,
    stray: 0,
    goesOn: 0,
  })
  const usual = e.kind.sample?.usualUncertainty ?? e.setup.tolerance
  return [
    {
      type: 'captured',
      step: 'moment',
      reading: { ...common({ ...past, readAs: 'shown' }, temperature), signal, signalUncertainty: width, shown },
    },
    { type: 'filled', step: 'lab', values: { result: right, uncertainty: usual, ageMinutes: 0 } },
  ]
}
