import type { Finding } from '../calibration/finding.ts'
import { findingsOfLots } from '../calibration/lotFindings.ts'
import { findSlowResponse } from '../calibration/slips.ts'
import {
  type CalibrationEvidence,
  type Decision,
  type ProposedDecision,
  proposeAfterCalibration,
  proposeAfterCheck,
  ROUTINE,
} from '../judgement/decision.ts'
import { type CapturedReading, settledAfter } from '../measurement/capturedReading.ts'
import { findStaleInstrument } from '../measurement/instrument.ts'
import type { CalibrationParameters } from '../measurement/measurementModel.ts'
import { meanOfReadings } from '../measurement/repeatedReadings.ts'
import { nullIfOutOfRange, OutOfRange } from '../quantities/outOfRange.ts'
import {
  celsius,
  difference,
  figures,
  likelihood,
  type Quantity,
  quantity,
  type Sentence,
  say,
} from '../quantities/sentence.ts'
import type { Budget } from '../uncertainty/propagation.ts'
import { knowsErrors, knowsNumbers, tellableFigures, tellableFindings } from './heldCalibration.ts'
import type { Assessment, Figure, Observation, Procedure, VisitState } from './procedure.ts'
import { seesSignal } from './setup.ts'
import { displayed, errorQuantity, shownQuantity, standardOfVisit } from './words.ts'

/** What calibrations of all kinds have in common: findings of their points, errors at the process value, the proposal. */

const ALL_CHOICES: readonly Decision[] = ['leave-alone', 'adjust', 'clean-and-recheck', 'replace', 'repeat']
const NO_RESULT_CHOICES: readonly Decision[] = ['repeat', 'clean-and-recheck', 'replace']

export const isDone = (e: VisitState, key: string) => e.doneAt[key] !== undefined && e.skipped[key] === undefined

/** A reading that was taken in a standard. */
export type StandardReading = CapturedReading & Required<Pick<CapturedReading, 'standard'>>

/** A point's reading with its standard, or null while it is not there. */
export function pointReading(e: VisitState, key: string): StandardReading | null {
  const reading = e.readings[key]
  return reading?.standard ? { ...reading, standard: reading.standard } : null
}

/** The table by which the standard of a reading has its value; records of before it was kept with each have it by visit. */
export const lotTableOf = (e: VisitState, { code, lotTable }: Required<CapturedReading>['standard']) =>
  lotTable ?? Object.values(e.setup.standards).find((s) => s.code === code)?.lotTable

/** Findings that every captured point may carry: its lot, taken early, slow to settle, tried again and again. */
export function findingsOfReadings(e: VisitState, keys: readonly string[]): Finding[] {
  const found: Finding[] = []
  for (const key of keys) {
    const reading = e.readings[key]
    if (!reading) continue
    const name = reading.standard ? standardOfVisit(e, reading.standard.code).label : 'The reading'
    if (reading.earlyReason) {
      const { unit, decimals, factor } = e.model.signalScale(Math.abs(reading.signal))
      found.push({
        code: 'taken-early',
        severity: 'note',
        sentence: `${name} was captured before it was stable ("${reading.earlyReason}").`,
        advice: say`It is good to ± ${difference(reading.signalUncertainty * factor, unit, decimals)}.`,
        numbers: { uncertainty: reading.signalUncertainty },
      })
    } else {
      // By eye it is the pace of a person that is seen, not that of the sensor.
      const slow = e.setup.linked ? findSlowResponse(settledAfter(reading), e.setup.settlingHistory) : null
      if (slow && reading.standard && !found.some((f) => f.code === 'slow-response')) found.push(slow)
    }
    const stale = staleThermometer(e, key, reading)
    if (stale && !found.some((f) => f.code === stale.code)) found.push(stale)
    const counting = e.counting[key] ?? []
    if (counting.length > 1) found.push(findingOfRepeats(e, name, counting))
    const attempts = (e.attempts[key] ?? 1) - Math.max(0, counting.length - 1)
    if (attempts > 1 && reading.standard) {
      found.push({
        code: 'taken-early',
        severity: 'note',
        sentence: say`${name} was captured ${quantity(attempts, '', 0)} times; the last one counts.`,
        advice: 'Up to three attempts are usual; all are on record.',
        numbers: { attempts },
      })
    }
  }
  const lots = keys.flatMap((key) => {
    const s = e.readings[key]?.standard
    return s?.lot ? [{ lot: s.lot, expired: s.expired, openTooLong: s.openTooLong, daysOver: s.daysOver }] : []
  })
  const seen = new Set<string>()
  return [...findingsOfLots(lots.filter((l) => !seen.has(l.lot) && seen.add(l.lot))), ...found]
}

/** A thermometer of the site whose own calibration is too old to be believed; of one that it does not know nothing is said. */
function staleThermometer(e: VisitState, key: string, { temperatureFrom }: CapturedReading): Finding | null {
  if (temperatureFrom?.from !== 'thermometer' || temperatureFrom.calibratedAt === undefined) return null
  const { name, calibratedAt } = temperatureFrom
  return findStaleInstrument({ kind: 'thermometer', name, calibratedAt }, e.doneAt[key] ?? e.startedAt)
}

/** A width of the signal on the scale of what is read: where only the finished value is, on that one. */
function readWidth(e: VisitState, { signal, temperature }: CapturedReading, width: number): Quantity {
  const { model, setup } = e
  if (!seesSignal(setup)) {
    const at = (s: number) =>
      nullIfOutOfRange(() => model.toShown(s, temperature, setup.activeCalibration, setup.device))
    const [here, there] = [at(signal), at(signal + width)]
    const shown = here === null || there === null ? 0 : Math.abs(there - here)
    return difference(shown, model.shownScale(setup.device).unit, figures(shown, 2))
  }
  const { unit, factor } = model.signalScale(Math.abs(signal))
  return difference(width * factor, unit, figures(width * factor, 2))
}

/** Readings of one point that do not repeat are taken again before anything follows from them. */
export function repeatsApart(findings: readonly Finding[]): ProposedDecision | null {
  const apart = findings.find((f) => f.code === 'repeats-apart')
  return apart ? { decision: 'repeat', reason: say`${apart.sentence} ${apart.advice}` } : null
}

/** What several readings of one point say of each other. */
function findingOfRepeats(e: VisitState, name: string, counting: readonly CapturedReading[]): Finding {
  const { reading, scatter, apart } = meanOfReadings(counting)
  const width = (of: number) => readWidth(e, reading, of)
  return {
    code: apart ? 'repeats-apart' : 'repeats',
    severity: apart ? 'warn' : 'note',
    sentence: say`${name} was read ${quantity(counting.length, '', 0)} times: scatter ${width(scatter)}${apart ? ', more than readings that stood still can have' : ''}.`,
    advice: apart
      ? 'Something is carried over, or the pouring is not fresh. Rinse better and take the points again.'
      : say`Their mean counts, good to ± ${width(reading.signalUncertainty)}.`,
    numbers: { count: counting.length, scatter },
  }
}

/** Instruments of a form whose own calibration is too old to be believed. */
export function findingsOfInstruments(e: VisitState, step: string): Finding[] {
  const form = e.forms[step]
  return Object.values(form?.instruments ?? {}).flatMap((i) => findStaleInstrument(i, form?.at ?? e.startedAt) ?? [])
}

/** Temperatures that an installed sensor in a cup hardly has, degC (common practice, no source). */
const PLAUSIBLE = { low: 3, high: 48 }

/** Whether the temperature of a point can be believed. */
export function findingsOfTemperature(e: VisitState, keys: readonly string[]): Finding[] {
  return keys.flatMap((key) => {
    const reading = e.readings[key]
    if (!reading?.standard || (reading.temperature >= PLAUSIBLE.low && reading.temperature <= PLAUSIBLE.high)) return []
    return [
      {
        code: 'temperature-implausible' as const,
        severity: 'warn' as const,
        sentence: say`A standard at ${celsius(reading.temperature, 1)} is implausible.`,
        advice: 'Compare with a thermometer; a wrong temperature input spoils the value of the standard.',
        numbers: { temperature: reading.temperature },
      },
    ]
  })
}

/** Error of the device in the standard of a reading, with the 95 % half-width; in the unit of errors. */
export function errorInStandard(
  e: VisitState,
  reading: CapturedReading,
  activeCalibration: CalibrationParameters = e.setup.activeCalibration,
) {
  const { model, setup } = e
  if (!reading.standard) throw new RangeError('This reading was not taken in a standard.')
  const right = reading.standard.value
  const at = (signal: number) => model.valueOf(signal, reading.temperature, activeCalibration, setup.device)
  const value = at(reading.signal)
  const error = model.errorOf(value, right)
  const moved = at(reading.signal + reading.signalUncertainty) - value
  const standard = standardOfVisit(e, reading.standard.code)
  // The half-width of a standard scales with it where it is stated in percent.
  const standardShare = (standard.uncertainty / Math.max(Math.abs(standard.nominal), 1e-9)) * right
  const standardWidth = standard.relative ? standardShare : standard.uncertainty
  const width = (delta: number) => Math.abs(model.errorOf(right + delta, right))
  return { error, value, right, uncertainty: Math.hypot(width(moved), width(standardWidth)) }
}

/** What the device should show in the standard of a reading, in its own unit. */
export function expectedShown(e: VisitState, value: number, temperature: number): number {
  const { model, setup } = e
  const signal = model.signalOf(value, temperature, setup.activeCalibration, setup.device)
  return model.toShown(signal, temperature, setup.activeCalibration, setup.device)
}

/** Uncertainty of the error at the process value that comes from a calibration's parameters, whose inputs they share. */
export function uncertaintyAtProcess(
  e: VisitState,
  found: CalibrationParameters,
  budgets: Readonly<Record<string, Budget>>,
): number {
  const process = processOf(e)
  const error = (c: CalibrationParameters) => e.model.errorAt(c, e.setup.activeCalibration, process, e.setup.device)
  const centre = error(found)
  const perInput = new Map<string, number>()
  for (const [key, budget] of Object.entries(budgets)) {
    const step = Math.max(1e-9, budget.uncertainty / 4)
    const slope = (error({ ...found, [key]: (found[key] ?? 0) + step }) - centre) / step
    for (const { name, sensitivity, sd } of budget.contributions) {
      perInput.set(name, (perInput.get(name) ?? 0) + slope * Math.sign(sensitivity) * sd)
    }
  }
  return 1.959964 * Math.sqrt([...perInput.values()].reduce((sum, v) => sum + v * v, 0))
}

const processOf = (e: VisitState) => ({ value: e.setup.processValue, temperature: e.setup.processTemperature })

interface Calibrated {
  /** Also of a sensor that does not answer: that is what it was found to be. */
  found: { characteristic: CalibrationParameters; uncertainty: CalibrationParameters } | null
  findings: readonly Finding[]
  figures: readonly Figure[]
  /** Half-width of the 95 % interval of the error at the process value. */
  uncertainty: number
  worn?: Sentence | null
  mayRecover?: CalibrationEvidence['mayRecover']
  neverAdjust?: boolean
  atSample?: number
}

/** Turns what a calibration found into the result: errors as found and now, fouling, proposal, choices. */
export function calibrationResult(e: VisitState, calibrated: Calibrated): Assessment {
  const { found, uncertainty } = calibrated
  const figures = tellableFigures(e, calibrated.figures)
  const findings = [...tellableFindings(e, calibrated.findings), ...findingsOfRecord(e)]
  const isTold = knowsNumbers(e)
  const stopped = !found || findings.some((f) => f.severity === 'stop')
  const cleaned = isDone(e, 'clean')
  // Without numbers to be given there is nothing to adjust from here.
  const neverAdjust =
    (calibrated.neverAdjust ?? false) || e.setup.adjustsBy === 'nothing' || (e.setup.adjustsBy === 'numbers' && !isTold)
  const common = {
    findings,
    tolerance: e.setup.tolerance,
    scale: e.model.errorScale,
    cleaned,
    repeated: wasRepeated(e),
    doubted: e.doubted,
    // A correction by a sample that agrees would only add its error.
    routine: e.setup.routine === true && calibrated.atSample === undefined,
    worn: isTold ? (calibrated.worn ?? null) : null,
    mayRecover: isTold ? (calibrated.mayRecover ?? null) : null,
    neverAdjust,
  }
  if (stopped) {
    return {
      figures: [],
      findings,
      proposal: proposeAfterCalibration({ ...common, error: 0, uncertainty: 0 }),
      choices: NO_RESULT_CHOICES,
      found,
      asFoundError: null,
      errorNow: null,
      uncertainty: null,
      fouling: null,
    }
  }
  if (!knowsErrors(e))
    return withoutErrors({
      figures,
      findings,
      found,
      proposal: proposeAfterCalibration({ ...common, error: 0, uncertainty: 0 }),
      neverAdjust,
    })
  const errorNow = e.model.errorAt(found.characteristic, e.setup.activeCalibration, processOf(e), e.setup.device)
  const fouling = foulingOf(e, found.characteristic)
  const asFoundError = fouling === null ? null : errorNow + fouling
  const proposal = proposeAfterCalibration({
    ...common,
    error: errorNow,
    uncertainty,
    ...(calibrated.atSample === undefined ? {} : { atSample: calibrated.atSample }),
  })
  return {
    figures: [
      ...figures,
      {
        label: 'As found, at the process',
        value: asFoundError === null ? '–' : errorQuantity(e, asFoundError),
        note: asFoundError === null ? 'not measured' : say`limit ± ${errorQuantity(e, e.setup.tolerance, false)}`,
      },
      {
        label: 'Now, before any change',
        value: errorQuantity(e, errorNow),
        note: say`± ${errorQuantity(e, uncertainty, false)}${fouling === null ? '' : say`; cleaning moved it ${errorQuantity(e, -fouling)}`}`,
      },
    ],
    findings,
    proposal,
    choices: [
      ...ALL_CHOICES.filter((c) => !(neverAdjust && c === 'adjust')),
      ...(common.mayRecover ? (['condition'] as const) : []),
    ],
    found,
    asFoundError,
    errorNow,
    uncertainty,
    fouling,
  }
}

/** The result where nobody knows what the device made of the signals: of its errors nothing is said. */
function withoutErrors(
  result: Pick<Assessment, 'figures' | 'findings' | 'found' | 'proposal'> & { neverAdjust: boolean },
): Assessment {
  const { neverAdjust, proposal, ...same } = result
  const reason = 'The device’s calibration is unknown, so its error can’t be calculated.'
  return {
    ...same,
    figures: [...same.figures, { label: 'As found, at the process', value: '–', note: 'not known' }],
    proposal:
      proposal.decision !== 'leave-alone'
        ? proposal
        : neverAdjust
          ? { decision: 'leave-alone', reason }
          : { decision: 'adjust', reason: `${reason} Entering these values makes it known.` },
    choices: ALL_CHOICES.filter((c) => !(neverAdjust && c === 'adjust')),
    asFoundError: null,
    errorNow: null,
    uncertainty: null,
    fouling: null,
  }
}

/** Findings that cleaning can't change: a setting, a standard or a thermometer is at fault. */
const NOT_OF_THE_SENSOR: readonly Finding['code'][] = [
  'wrong-compensation',
  'unit-slip',
  'lot-expired',
  'lot-open-too-long',
  'standards-swapped',
  'same-standard-twice',
  'points-too-close',
  'temperature-implausible',
  'temperatures-apart',
  'key-without-effect',
]

/**
 * The judgement of a step. Points that were taken again and gave the same findings are not asked for a third time:
 * another step is proposed, or nothing is changed.
 */
export function judgeStep(procedure: Procedure, e: VisitState, step: string): Assessment | null {
  const judged = step === 'verdict' ? asRoutine(e, procedure.judge(e, step)) : procedure.judge(e, step)
  if (judged?.proposal.decision !== 'repeat' || !wasRepeated(e)) return judged
  const reasons = judged.findings.filter((f) => f.severity !== 'note' && !e.doubted.includes(f.code))
  if (reasons.length > 0) return judged
  const doubt = judged.findings.find((f) => f.severity !== 'note')
  const was = doubt?.sentence ?? judged.proposal.reason
  const isCleaned = isDone(e, 'clean') || (e.asked['clean-and-recheck'] ?? 0) > 0
  const next: ProposedDecision =
    judged.choices.includes('clean-and-recheck') && !isCleaned && !(doubt && NOT_OF_THE_SENSOR.includes(doubt.code))
      ? {
          decision: 'clean-and-recheck',
          reason: say`${was} Repeating the points gave the same result. Clean the sensor, then measure in fresh standards.`,
        }
      : {
          decision: 'leave-alone',
          reason: say`${was} Repeating the points gave the same result. Leave the calibration as it is until the cause is found.`,
        }
  const choices = judged.choices.includes(next.decision) ? judged.choices : [next.decision, ...judged.choices]
  return { ...judged, proposal: next, choices }
}

/** Where the rule is to calibrate at each visit, a sound check is no reason to leave it out. */
function asRoutine(e: VisitState, judged: Assessment | null): Assessment | null {
  if (!e.setup.routine || judged?.proposal.decision !== 'leave-alone' || !judged.choices.includes('adjust'))
    return judged
  const reason = say`${judged.proposal.reason} ${ROUTINE}`
  return { ...judged, proposal: { decision: 'adjust', reason } }
}

/** Whether points that were doubted have been taken again. */
export const wasRepeated = (e: VisitState) => (e.asked.repeat ?? 0) > 0

/** What the sensor's record points to, so that its own page and the Bench say the same. */
function findingsOfRecord({ setup: { diagnosed } }: VisitState): Finding[] {
  if (!diagnosed) return []
  const { name, remedy, probability } = diagnosed
  return [
    {
      code: 'diagnosed',
      severity: 'warn',
      sentence: say`Its record points to: ${name}, ${likelihood(probability)} likely.`,
      advice: remedy,
      numbers: { probability },
    },
  ]
}

/** How far the dirty sensor was off what the clean one gives in the same standard, in the unit of errors. */
function foulingOf(e: VisitState, clean: CalibrationParameters): number | null {
  const dirty = pointReading(e, 'found-standard')
  if (!dirty) return null
  const { model, setup } = e
  try {
    const signal = model.signalOf(dirty.standard.value, dirty.temperature, clean, setup.device)
    const read = (s: number) => model.valueOf(s, dirty.temperature, setup.activeCalibration, setup.device)
    return model.errorOf(read(dirty.signal), dirty.standard.value) - model.errorOf(read(signal), dirty.standard.value)
  } catch (error) {
    if (error instanceof OutOfRange) return null
    throw error
  }
}

/** A check says nothing where nobody knows what the device made of its signal. */
const checkWithoutErrors = (e: VisitState, key: string): Assessment => ({
  figures: [],
  findings: [...findingsOfReadings(e, [key]), ...findingsOfRecord(e)],
  proposal: {
    decision: e.setup.adjustsBy === 'nothing' ? 'leave-alone' : 'adjust',
    reason: 'The device’s calibration is unknown, so one standard can’t show its error.',
  },
  choices: e.setup.adjustsBy === 'nothing' ? ['leave-alone', 'replace'] : ['leave-alone', 'adjust'],
  found: null,
  asFoundError: null,
  errorNow: null,
  uncertainty: null,
  fouling: null,
})

/** The verdict of a check in one standard. */
export function checkVerdict(e: VisitState, key = 'found-standard'): Assessment | null {
  const reading = pointReading(e, key)
  if (!reading) return null
  if (!knowsErrors(e)) return checkWithoutErrors(e, key)
  const { error, uncertainty } = errorInStandard(e, reading)
  const right = expectedShown(e, reading.standard.value, reading.temperature)
  const shown = shownQuantity(e, displayed(e, reading))
  const findings = findingsOfReadings(e, [key])
  const again = repeatsApart(findings)
  const proposal = proposeAfterCheck(
    {
      shown,
      right: shownQuantity(e, right),
      limit: errorQuantity(e, e.setup.tolerance, false),
      unsure: errorQuantity(e, uncertainty, false),
    },
    error,
    uncertainty,
    e.setup.tolerance,
  )
  return {
    figures: [
      {
        label: `${reading.shown === null ? 'Worked out' : 'Shown'} in ${standardOfVisit(e, reading.standard.code).label}`,
        value: shown,
        note: say`${shownQuantity(e, right)} is right`,
      },
      {
        label: 'Off by',
        value: errorQuantity(e, error),
        note: say`± ${errorQuantity(e, uncertainty, false)}, limit ± ${errorQuantity(e, e.setup.tolerance, false)}`,
      },
    ],
    findings: [...findings, ...findingsOfRecord(e)],
    proposal: again ?? proposal,
    choices: [
      ...(e.setup.adjustsBy === 'nothing'
        ? (['leave-alone', 'replace'] as const)
        : (['leave-alone', 'adjust'] as const)),
      ...(again ? (['repeat'] as const) : []),
    ],
    found: null,
    asFoundError: error,
    errorNow: error,
    uncertainty,
    fouling: null,
  }
}

/** What the sensor's record gets from a calibration or a check: the error met, and the error left behind. */
export function observeFrom(e: VisitState, result: Assessment | null): Observation | null {
  if (!result) return null
  const left = e.applied ? errorAfter(e) : result.errorNow
  if (left === null) return null
  return {
    asFound: result.asFoundError ?? result.errorNow,
    asLeft: left,
    verified: !e.applied || verifications(e).length > 0,
    uncertainty: result.uncertainty ?? e.setup.tolerance / 2,
    fouling: result.fouling,
    adjusted: e.applied !== null,
  }
}

/** Readings after the numbers were given, by the order of the standards. */
export const VERIFY_KEYS = ['verify', 'verify-2', 'verify-3'] as const

const verifications = (e: VisitState): StandardReading[] => VERIFY_KEYS.flatMap((key) => pointReading(e, key) ?? [])

/** The error that the display showed in the last standard once it had its new numbers; null where it was not read. */
export function shownAfterError(e: VisitState): number | null {
  const shown = e.applied?.shownAfter?.value
  const last = Object.values(e.readings).findLast((r) => r.standard)
  if (!e.applied || shown === undefined || !last) return null
  const { characteristic } = e.applied
  return nullIfOutOfRange(() => {
    const signal = e.model.fromShown(shown, last.temperature, characteristic, e.setup.device)
    return errorInStandard(e, { ...last, signal }, characteristic).error
  })
}

/** The error that the verification showed after the numbers were applied, nearest to the process; 0 where nobody looked. */
export function errorAfter(e: VisitState): number {
  const far = ({ standard }: StandardReading) => e.model.distance(standard.value, e.setup.processValue)
  const [check] = verifications(e).sort((a, b) => far(a) - far(b))
  if (!e.applied || !check) return 0
  return errorInStandard(e, check, e.applied.characteristic).error
}

/** A parameter as found, beside what it was. */
export function parameterFigure(e: VisitState, key: string, budget: { value: number; uncertainty: number }): Figure {
  const spec = e.model.parameters.find((p) => p.key === key)
  if (!spec) throw new RangeError(`No parameter "${key}".`)
  // Digits far below what is known of a number say nothing.
  const known = budget.uncertainty * spec.scale
  const decimals = known > 0 ? Math.min(spec.decimals, Math.max(0, 1 - Math.floor(Math.log10(known)))) : spec.decimals
  const text = (v: number, unit = '') => quantity(v * spec.scale, unit, decimals)
  const was = e.setup.previous?.characteristic[key]
  // Behind a display that shows the finished value alone nobody has read a signal.
  const workedOut = !seesSignal(e.setup)
  return {
    label: spec.label,
    value: text(budget.value, spec.unit),
    note: say`${workedOut ? 'worked out, ' : ''}± ${text(budget.uncertainty)}${was === undefined ? '' : say`, was ${text(was)}`}`,
  }
}
