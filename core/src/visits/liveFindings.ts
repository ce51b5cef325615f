import type { Finding } from '../calibration/finding.ts'
import { findLeftOver, findUnitSlip } from '../calibration/slips.ts'

import type { CalibrationParameters } from '../measurement/measurementModel.ts'
import { errorAfter, expectedShown, pointReading, VERIFY_KEYS } from '../procedures/assess.ts'
import type { LiveReading, VisitState } from '../procedures/procedure.ts'
import type { Step } from '../procedures/step.ts'
import { errorQuantity, shownQuantity, standardOfVisit } from '../procedures/words.ts'
import { nullIfOutOfRange } from '../quantities/outOfRange.ts'
import { celsius, figures, quantity, say } from '../quantities/sentence.ts'

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
      sentence: say`At ${celsius(reading.temperature, 1)} ${standardOfVisit(e, code).label} has no known value.`,
      advice: 'Bring it to room temperature, or look at the temperature input.',
      numbers: { temperature: reading.temperature },
    }
  }
  const slip = unitSlip(e, code, right, reading)
  // An ion electrode that was never calibrated says nothing of what it stands in; a number that was typed may be asked for.
  const known = e.kind.readsUncalibrated || setup.previous !== null || e.applied !== null
  if (!known) return (!setup.linked && slip ? { ...slip, severity: 'warn' } : e.kind.earlyFindings?.(e)[0]) ?? null
  if (slip) return slip
  const read = nullIfOutOfRange(() => model.valueOf(reading.signal, reading.temperature, knownAs(e), setup.device))
  const setting = e.kind.settingFinding?.(e, right, reading)
  if (setting) return setting
  if (read !== null) {
    const wrong = wrongCup(e, code, right, read, reading.temperature, valueAt) ?? leftOver(e, step, right, read)
    if (wrong) return wrong
  }
  return step.key.startsWith('verify') || step.key.startsWith('left-')
    ? carriedOver(e, step, reading)
    : (e.kind.earlyFindings?.(e)[0] ?? null)
}

/** A display in another unit; one that was given the label's amount shows that, and not its activity. */
function unitSlip(e: VisitState, code: string, right: number, reading: LiveReading): Finding | null {
  const kind = e.kind.unitSlip(e.setup.device)
  const { shown } = reading
  if (!kind || shown === null || !(shown > 0)) return null
  const amount = e.model.standardValue(code, reading.temperature, { ...e.setup.device, expects: 'concentration' })
  const slip = (value: number) =>
    nullIfOutOfRange(() => findUnitSlip(shown, expectedShown(e, value, reading.temperature), kind))
  return slip(right) ?? slip(amount)
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
  const others = [...new Set([...chosen, ...e.kind.commonStandards])].filter((c) => c !== code)
  const nearer = others
    .flatMap((c) => {
      const value = valueAt(c)
      return value === null ? [] : [{ code: c, value, far: distance(read, value) }]
    })
    .filter((o) => o.far < rule.near)
    // Of two that fit, the one that is on the table is the likelier.
    .sort((a, b) => a.far - (chosen.includes(a.code) ? 1 : 0) - b.far + (chosen.includes(b.code) ? 1 : 0))[0]
  if (!nearer) return null
  const [is, should] = [standardOfVisit(e, nearer.code).label, standardOfVisit(e, code).label]
  const shown = nullIfOutOfRange(() => shownQuantity(e, expectedShown(e, read, temperature)))
  return {
    code: 'wrong-standard',
    severity: 'stop',
    sentence: say`This reads like ${shown ?? quantity(read, e.model.coreUnit, figures(read, 4))}: ${is}, not ${should}.`,
    advice: `Check the cup. If it is ${is}, rinse and go into ${should}.`,
    numbers: { read, expected: right, nearer: nearer.value },
  }
}

/** The display, or the sensor, still in the standard before. */
function leftOver(e: VisitState, step: Step, right: number, read: number): Finding | null {
  const before = pointReading(e, step.key === 'point-2' ? 'point-1' : step.key === 'point-3' ? 'point-2' : '')
  if (!before) return null
  const value = nullIfOutOfRange(() => e.model.valueOf(before.signal, before.temperature, knownAs(e), e.setup.device))
  if (value === null) return null
  return findLeftOver(read, value, right, e.kind.leftOverSpread(right))
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
    sentence: say`Back in ${standardOfVisit(e, standard.code).label} it is off by ${errorQuantity(e, error)}.`,
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
    sentence: say`In air the cell shows ${quantity(reading.signal, e.model.signalUnit, figures(reading.signal, 3))}: it is not dry.`,
    advice: 'Blow it out and let it dry longer. A drop that is left behind becomes the zero.',
    numbers: { signal: reading.signal },
  }
}

function inProcess(e: VisitState, step: Step, reading: LiveReading): Finding | null {
  const { setup } = e
  const apart = reading.temperature - setup.processTemperature
  if (e.kind.temperatureInput && Math.abs(apart) > USUAL_TEMPERATURE) {
    return {
      code: 'wrong-temperature-input',
      severity: 'warn',
      sentence: say`Temperature shown: ${celsius(reading.temperature, 1)}; usual for this water: ${celsius(setup.processTemperature, 1)}.`,
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
  const points = [...VERIFY_KEYS, 'point-1', 'point-2'].flatMap((key) => {
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
    sentence: say`Correct in the standard, but ${errorQuantity(e, usual)} from the usual value of this water.`,
    advice:
      'Right in the beaker, wrong in the tank: unplug pumps, heaters and lights in turn and watch the reading. Stray voltage is work for a licensed electrician.',
    numbers: { usual, jump },
  }
}
