import type { Finding } from '../calibration/finding.ts'
import { findLeftOver, findUnitSlip, type SlipKind } from '../calibration/slips.ts'
import { findWrongCompensation } from '../kinds/conductivity/wrongCompensation.ts'
import type { CalibrationParameters } from '../kinds/index.ts'
import { pairFindings } from '../kinds/ion/procedures.ts'
import { errorAfter, expectedShown, pointReading } from '../procedures/assess.ts'
import type { Step, VisitState } from '../procedures/procedure.ts'
import { errorText, shownText } from '../procedures/words.ts'
import { OutOfRange } from '../quantities/outOfRange.ts'
import { standardOf } from '../standards/standard.ts'

/** A reading while the sensor stands in something, before it is taken. */
export interface LiveReading {
  /** Where the signal will end, as far as known. */
  signal: number
  temperature: number
  /** As displayed now. */
  shown: number
  /** Quick scatter of the signal. */
  noise: number
}

/** What a function gives, or null where the numbers leave its range. */
export function nullIfOutOfRange<T>(compute: () => T): T | null {
  try {
    return compute()
  } catch (error) {
    if (error instanceof OutOfRange) return null
    throw error
  }
}

/** Water whose temperature differs from the usual by more than this is a wrong input, degC (common practice, no source). */
const USUAL_TEMPERATURE = 3

/** What is wrong at a step, from what is read now: said before the reading is taken, with a way on. */
export function liveFinding(e: VisitState, step: Step, reading: LiveReading): Finding | null {
  if (step.medium === 'standard' && step.role) return inStandard(e, step, reading)
  if (step.medium === 'air') return inAir(e, reading)
  if (step.medium === 'process') return inProcess(e, step, reading)
  return null
}

/** What the sensor was last found to be, or the calibration held by the device: what readings are recognised by. */
export const knownAs = (e: VisitState): CalibrationParameters =>
  e.applied?.characteristic ?? e.setup.previous?.characteristic ?? e.setup.activeCalibration

function inStandard(e: VisitState, step: Step, reading: LiveReading): Finding | null {
  const code = e.setup.standards[step.role ?? '']?.code
  if (!code) return null
  const { model, setup } = e
  const lotTable = setup.standards[step.role ?? '']?.lotTable
  const valueAt = (c: string) =>
    nullIfOutOfRange(() => model.standardValue(c, reading.temperature, setup.device, c === code ? lotTable : undefined))
  const right = valueAt(code)
  if (right === null) {
    return {
      code: 'temperature-implausible',
      severity: 'stop',
      sentence: `At ${reading.temperature.toFixed(1)} °C ${standardOf(code).label} has no known value.`,
      advice: 'Bring it to room temperature, or look at the temperature input.',
      numbers: { temperature: reading.temperature },
    }
  }
  // An ion electrode that was never calibrated says nothing of what it stands in.
  const known = model.kind !== 'ion' || setup.previous !== null || e.applied !== null
  if (!known) return pairFindings(e)[0] ?? null
  const read = nullIfOutOfRange(() => model.valueOf(reading.signal, reading.temperature, knownAs(e), setup.device))
  const slip = unitSlip(e, right, reading)
  if (slip) return slip
  if (model.kind === 'conductivity') {
    const setting = settingFinding(e, right, reading)
    if (setting) return setting
  }
  if (read !== null) {
    const wrong = wrongCup(e, code, right, read, reading.temperature, valueAt) ?? leftOver(e, step, right, read)
    if (wrong) return wrong
  }
  return step.key === 'verify' ? carriedOver(e, step, reading) : (pairFindings(e)[0] ?? null)
}

/**
 * A display that does not follow the setting as noted. A linked device says itself what it measures; of another only
 * the standard is known.
 */
export function settingFinding(
  e: VisitState,
  standard: number,
  reading: Pick<LiveReading, 'shown' | 'signal' | 'temperature'>,
): Finding | null {
  const { setup, model } = e
  const activeCalibration = e.applied?.characteristic ?? setup.activeCalibration
  const measured = setup.linked
    ? nullIfOutOfRange(() => model.valueOf(reading.signal, reading.temperature, activeCalibration, setup.device))
    : null
  const found = nullIfOutOfRange(() =>
    findWrongCompensation(reading.shown, measured ?? standard, reading.temperature, setup.device),
  )
  if (!found || measured !== null) return found
  // Without its signal a low cell and a wrong setting look alike: said, but not held up.
  return {
    ...found,
    severity: 'warn',
    advice:
      'Look at its setting first. If that is as noted, the cell reads low or high: clean it and take the point again.',
  }
}

function unitSlip(e: VisitState, right: number, reading: LiveReading): Finding | null {
  const kind = slipKindOf(e)
  if (!kind) return null
  const expected = nullIfOutOfRange(() => expectedShown(e, right, reading.temperature))
  return expected === null || !(reading.shown > 0)
    ? null
    : nullIfOutOfRange(() => findUnitSlip(reading.shown, expected, kind))
}

/** The slips of unit that a sensor of this kind is open to; null where none is usual. */
export function slipKindOf({ model, setup }: VisitState): SlipKind | null {
  if (model.kind === 'conductivity') return 'conductivity'
  if (model.kind === 'nitrate-optical') return 'nitrate'
  if (model.kind !== 'ion') return null
  return setup.device.ion === 'nitrate' || setup.device.ion === 'ammonium' ? setup.device.ion : null
}

/** A cup that holds another standard than the step says. */
function wrongCup(
  e: VisitState,
  code: string,
  right: number,
  read: number,
  temperature: number,
  valueAt: (code: string) => number | null,
): Finding | null {
  const { distance, wrongCup: rule } = e.model
  if (distance(read, right) < rule.miss) return null
  const chosen = Object.values(e.setup.standards).map((s) => s.code)
  const others = [...new Set([...chosen, ...tableOf(e)])].filter((c) => c !== code)
  const nearer = others
    .flatMap((c) => {
      const value = valueAt(c)
      return value === null ? [] : [{ code: c, value, far: distance(read, value) }]
    })
    .filter((o) => o.far < rule.near)
    // Of two that fit, the one that is on the table is the likelier.
    .sort((a, b) => a.far - (chosen.includes(a.code) ? 1 : 0) - b.far + (chosen.includes(b.code) ? 1 : 0))[0]
  if (!nearer) return null
  const [is, should] = [standardOf(nearer.code).label, standardOf(code).label]
  const text = nullIfOutOfRange(() => shownText(e, expectedShown(e, read, temperature))) ?? read.toPrecision(4)
  return {
    code: 'wrong-standard',
    severity: 'stop',
    sentence: `This reads like ${e.model.kind === 'ph' ? 'pH ' : ''}${text}: ${is}, not ${should}.`,
    advice: `Check the cup. If it is ${is}, rinse and go into ${should}.`,
    numbers: { read, expected: right, nearer: nearer.value },
  }
}

/** Standards that usually stand about, whatever was chosen. */
const TABLES: Partial<Record<string, readonly string[]>> = {
  ph: ['pH4.01', 'pH7.00', 'pH10.01'],
  conductivity: ['kcl-84', 'kcl-1413', 'kcl-2.77', 'kcl-12.88', 'seawater-53'],
  orp: ['zobell', 'light', 'quinhydrone-4', 'quinhydrone-7'],
}

const tableOf = (e: VisitState): readonly string[] => TABLES[e.model.kind] ?? []

/** The display, or the sensor, still in the standard before. */
function leftOver(e: VisitState, step: Step, right: number, read: number): Finding | null {
  const before = pointReading(e, step.key === 'point-2' ? 'point-1' : step.key === 'point-3' ? 'point-2' : '')
  if (!before) return null
  const value = nullIfOutOfRange(() => e.model.valueOf(before.signal, before.temperature, knownAs(e), e.setup.device))
  if (value === null) return null
  // Where a kind counts in shares its values are compared as such.
  const scale = e.model.errorScale.unit === '%' ? Math.abs(right) : 1
  const spread = e.model.kind === 'ph' ? 0.05 : e.model.kind === 'orp' ? 6 : 0.01 * scale
  return findLeftOver(read, value, right, spread)
}

/** On the return to the first standard: off by more than half of the tolerance is something carried over, or a bad point. */
function carriedOver(e: VisitState, step: Step, reading: LiveReading): Finding | null {
  if (!e.applied) return null
  const standard = e.setup.standards[step.role ?? '']
  if (!standard) return null
  const right = nullIfOutOfRange(() =>
    e.model.standardValue(standard.code, reading.temperature, e.setup.device, standard.lotTable),
  )
  const read = nullIfOutOfRange(() =>
    e.model.valueOf(reading.signal, reading.temperature, e.applied?.characteristic ?? {}, e.setup.device),
  )
  if (right === null || read === null) return null
  const error = e.model.errorOf(read, right)
  if (Math.abs(error) <= 0.5 * e.setup.tolerance) return null
  return {
    code: 'carried-over',
    severity: 'warn',
    sentence: `Back in ${standardOf(standard.code).label} it is off by ${errorText(e, error)}.`,
    advice:
      'Something was carried over, or one of the points was not right. Rinse, take a fresh pouring; if it stays, take the points again.',
    numbers: { error },
  }
}

/** A dry cell shows less than this share of the process (common practice, no source). */
const DRY_SHARE = 0.005

function inAir(e: VisitState, reading: LiveReading): Finding | null {
  if (Math.abs(reading.signal) <= DRY_SHARE * Math.max(200, e.setup.processValue)) return null
  return {
    code: 'cell-not-dry',
    severity: 'stop',
    sentence: `In air the cell shows ${reading.signal.toPrecision(3)} µS/cm: it is not dry.`,
    advice: 'Blow it out and let it dry longer. A drop that is left behind becomes the zero.',
    numbers: { signal: reading.signal },
  }
}

function inProcess(e: VisitState, step: Step, reading: LiveReading): Finding | null {
  const { setup, model } = e
  const apart = reading.temperature - setup.processTemperature
  if (model.kind !== 'temperature' && Math.abs(apart) > USUAL_TEMPERATURE) {
    return {
      code: 'wrong-temperature-input',
      severity: 'warn',
      sentence: `It says ${reading.temperature.toFixed(1)} °C; this water is usually at ${setup.processTemperature.toFixed(1)} °C.`,
      advice:
        'Hold a thermometer beside it. A wrong temperature input spoils compensation and the value of every standard.',
      numbers: { temperature: reading.temperature, usual: setup.processTemperature },
    }
  }
  return step.key === 'back' ? tankOnly(e, reading) : null
}

/**
 * Right in the beaker and wrong in the tank: the reading jumps, or scatters, in the process only. Not the sensor then,
 * but what is in the water: stray voltage, a ground loop, a ballast.
 */
function tankOnly(e: VisitState, reading: LiveReading): Finding | null {
  const before = e.readings['found-process']
  const points = ['verify', 'point-1', 'point-2'].flatMap((key) => {
    const r = pointReading(e, key)
    return r ? [r] : []
  })
  if (points.length === 0) return null
  const activeCalibration = e.applied?.characteristic ?? e.setup.activeCalibration
  const value = nullIfOutOfRange(() =>
    e.model.valueOf(reading.signal, reading.temperature, activeCalibration, e.setup.device),
  )
  if (value === null) return null
  const beakerRight = !e.applied || Math.abs(errorAfter(e)) <= e.setup.tolerance
  const usual = e.model.errorOf(value, e.setup.processValue)
  const was = before
    ? nullIfOutOfRange(() =>
        e.model.valueOf(before.signal, before.temperature, e.setup.activeCalibration, e.setup.device),
      )
    : null
  const jump = was === null ? usual : e.model.errorOf(value, was)
  const far = Math.min(Math.abs(usual), Math.abs(jump))
  if (!beakerRight || far <= 4 * e.setup.tolerance) return null
  return {
    code: 'beaker-right-tank-wrong',
    severity: 'warn',
    sentence: `It read right in the standard, and is off by ${errorText(e, usual)} from what this water usually is.`,
    advice:
      'Right in the beaker, wrong in the tank: unplug pumps, heaters and lights in turn and watch the reading. Stray voltage is work for a licensed electrician.',
    numbers: { usual, jump },
  }
}
