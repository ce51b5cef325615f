import type { CapturedReading, ResultView } from '@frustum/contract'
import {
  calibratePhTwoPoint,
  errorAtProcessValue,
  type Finding,
  findingsOfTwoPoints,
  nernstSlope,
  type PhCharacteristic,
  type PhPoint,
  phBuffer,
  phToMillivolts,
  phUncertaintyAt,
  proposeAfterCheck,
  proposeAfterTwoPoints,
} from '@frustum/core'
import type { Installed } from '../sensors.ts'
import type { VisitProgress } from './fold.ts'

/** A reading in a buffer as a calibration point. */
function pointOf(reading: CapturedReading, lotTable?: PhPoint['lotTable']): PhPoint | null {
  if (!reading.standard) return null
  return {
    bufferCode: reading.standard.code,
    millivolts: reading.millivolts,
    millivoltsUncertainty: reading.millivoltsUncertainty,
    temperature: reading.temperature,
    ...(lotTable ? { lotTable } : {}),
  }
}

/** What two captured points come to, or null while one is missing. */
export function resultOf(
  progress: VisitProgress,
  installed: Installed,
  inForce: PhCharacteristic,
  previous: ResultView['previous'],
): ResultView | null {
  const one = progress.readings['first-buffer']
  const two = progress.readings['second-buffer']
  const taken = (key: string) => progress.steps.some((s) => s.key === key && s.status === 'done')
  if (!one?.standard || !two?.standard || !taken('first-buffer') || !taken('second-buffer')) return null
  const first = pointOf(one) as PhPoint
  const second = pointOf(two) as PhPoint
  const findings: Finding[] = [
    ...findingsOfTwoPoints(first, second, { first: lotOf(one), second: lotOf(two) }, previous ?? undefined),
    ...[one, two].flatMap(takenEarly),
  ]
  const { position } = installed
  const impossible = first.bufferCode === second.bufferCode
  const calibration = impossible ? null : calibratePhTwoPoint(first, second, installed.sensor.isothermalPh)
  const usable = calibration !== null && !findings.some((f) => f.severity === 'stop')
  if (!calibration || !usable) {
    const proposal = proposeAfterTwoPoints({
      findings,
      slopeEfficiency: calibration?.slopeEfficiency ?? 0,
      zero: calibration?.zero ?? 0,
      error: 0,
      uncertainty: 0,
      tolerance: position.tolerance,
      cleaned: progress.cleaned,
    })
    return {
      calibration,
      findings,
      proposal,
      asFoundError: null,
      errorNow: null,
      fouling: null,
      uncertainty: null,
      previous,
    }
  }
  const { processValue, processTemperature } = position
  const errorNow = errorAtProcessValue(calibration, inForce, processValue, processTemperature)
  const uncertainty = phUncertaintyAt(calibration, processValue, processTemperature)
  const found = progress.readings['found-buffer']
  const fouling = found ? foulingOf(found, calibration) : null
  const asFoundError =
    fouling === null
      ? null
      : errorAtProcessValue(
          { ...calibration, zero: calibration.zero + fouling },
          inForce,
          processValue,
          processTemperature,
        )
  const proposal = proposeAfterTwoPoints({
    findings,
    slopeEfficiency: calibration.slopeEfficiency,
    zero: calibration.zero,
    error: errorNow,
    uncertainty,
    tolerance: position.tolerance,
    cleaned: progress.cleaned,
  })
  return { calibration, findings, proposal, asFoundError, errorNow, fouling, uncertainty, previous }
}

/** Millivolts by which the dirty electrode was off what the clean one gives in the same buffer at that temperature. */
function foulingOf(found: CapturedReading, clean: PhCharacteristic): number | null {
  if (!found.standard) return null
  return found.millivolts - phToMillivolts(found.standard.value, found.temperature, clean)
}

function lotOf(reading: CapturedReading) {
  const s = reading.standard
  if (!s?.lot) return undefined
  return { lot: s.lot, expired: s.expired, openTooLong: s.openTooLong, daysOver: s.daysOver }
}

function takenEarly(reading: CapturedReading): Finding[] {
  if (!reading.earlyReason) return []
  return [
    {
      code: 'taken-early',
      severity: 'note',
      sentence: `${reading.standard?.code.replace('pH', 'pH ')} was taken before it was stable ("${reading.earlyReason}").`,
      advice: `It is good to ± ${reading.millivoltsUncertainty.toFixed(1)} mV.`,
      numbers: { uncertainty: reading.millivoltsUncertainty },
    },
  ]
}

/** What a check in one buffer says, or null before it was read. */
export function verdictOf(progress: VisitProgress, tolerance: number, inForce: PhCharacteristic) {
  const reading = progress.readings['found-buffer']
  if (!reading?.standard) return null
  const right = reading.standard.value
  const perPh = inForce.slopeEfficiency * nernstSlope(reading.temperature)
  const uncertainty = Math.hypot(reading.millivoltsUncertainty / perPh, phBuffer(reading.standard.code).uncertainty)
  return {
    shown: reading.shown,
    right,
    uncertainty,
    proposal: proposeAfterCheck(reading.shown, right, uncertainty, tolerance),
  }
}
