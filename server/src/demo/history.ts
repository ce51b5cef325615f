import { randomUUID } from 'node:crypto'
import type { CapturedReading, VisitEntry } from '@frustum/contract'
import {
  calibratePhTwoPoint,
  DAY_MS,
  type ElectrodeTruth,
  errorAtProcessValue,
  IDEAL_CHARACTERISTIC,
  millivoltsToPh,
  type PhCharacteristic,
  type PhStepKey,
  phBufferValue,
  phToMillivolts,
  phUncertaintyAt,
  proposeBuffers,
  type RandomStream,
  type SettlingSignature,
} from '@frustum/core'
import { type FleetSensor, processAt, truthAt } from '@frustum/demo'
import { signatureOf } from './signature.ts'

export interface PastVisit {
  id: string
  at: number
  kind: 'two-point' | 'check'
  operator: string
  first: string
  second: string
  entries: { at: number; entry: VisitEntry }[]
  calibration:
    | (PhCharacteristic & { zeroUncertainty: number; slopeEfficiencyUncertainty: number; adopted: boolean })
    | null
  asFound: number | null
  asLeft: number
  uncertainty: number
  fouling: number | null
  adjusted: boolean
}

const MINUTE = 60_000
/** Visits whose traces are kept as a prior for the judge. */
const WITH_SIGNATURES = 4

/** Plays a sensor's past visits from its story: what was read is simulated, what was concluded is reckoned by core. */
export function playHistory(
  sensor: FleetSensor,
  now: number,
  operators: readonly string[],
  random: RandomStream,
): PastVisit[] {
  const visits: PastVisit[] = []
  let inForce: PhCharacteristic = { ...IDEAL_CHARACTERISTIC }
  const days = visitDays(sensor, random)
  days.forEach((day, i) => {
    const visit = playVisit(sensor, now, day, i, inForce, operators, random, days.length - i <= WITH_SIGNATURES)
    if (visit.calibration?.adopted) inForce = visit.calibration
    visits.push(visit)
  })
  return visits
}

function visitDays(sensor: FleetSensor, random: RandomStream): number[] {
  const days: number[] = [-sensor.lastVisitDaysAgo]
  for (;;) {
    const earlier = (days[0] as number) - sensor.visitEveryDays - Math.round(random.between(-2, 2.99))
    if (earlier <= -sensor.installedDaysAgo + 5) break
    days.unshift(earlier)
  }
  return [-sensor.installedDaysAgo, ...days]
}

function playVisit(
  sensor: FleetSensor,
  now: number,
  day: number,
  index: number,
  inForce: PhCharacteristic,
  operators: readonly string[],
  random: RandomStream,
  keepSignature: boolean,
): PastVisit {
  const start = Math.floor((now + day * DAY_MS) / DAY_MS) * DAY_MS + (8 + random.between(0, 6)) * 60 * MINUTE
  const { first, second } = proposeBuffers(sensor.processPh)
  const dirty = truthAt(sensor, day)
  const clean: ElectrodeTruth = { ...dirty, coating: 0 }
  const kind = index % 3 === 1 ? 'check' : 'two-point'
  const entries: PastVisit['entries'] = []
  let clock = start
  const add = (entry: VisitEntry, minutes: number) => {
    clock += minutes * MINUTE
    entries.push({ at: clock, entry })
  }
  const signature = keepSignature ? signatureOf(clean, random) : null
  const capture = (step: PhStepKey, truth: ElectrodeTruth, code: string | null, device: PhCharacteristic) => {
    const reading = readIn(sensor, truth, code, device, clock, random, signature)
    add({ type: 'captured', step, reading }, 2 + random.between(0, 2))
    return reading
  }

  add({ type: 'done', step: 'hold' }, 1)
  capture('found-process', dirty, null, inForce)
  const found = capture('found-buffer', dirty, first, inForce)
  const checkError = found.shown - (found.standard?.value ?? 0)
  const goesOn = kind === 'check' && Math.abs(checkError) > 0.6 * sensor.tolerance
  const base = {
    id: randomUUID(),
    at: start,
    kind,
    operator: operators[index % operators.length] as string,
    first,
    second,
    entries,
  } as const
  if (kind === 'check' && !goesOn) {
    add({ type: 'decided', step: 'verdict', decision: 'leave-alone', proposed: 'leave-alone', note: null }, 1)
    capture('back', dirty, null, inForce)
    add({ type: 'done', step: 'release' }, 1)
    return {
      ...base,
      calibration: null,
      asFound: checkError,
      asLeft: checkError,
      uncertainty: 0.025,
      fouling: null,
      adjusted: false,
    }
  }
  if (goesOn) add({ type: 'went-on' }, 1)
  add({ type: 'done', step: 'clean' }, 3)
  const one = capture('first-buffer', clean, first, inForce)
  add({ type: 'done', step: 'rinse' }, 1)
  const two = capture('second-buffer', clean, second, inForce)
  const point = (code: string, r: CapturedReading) => ({
    bufferCode: code,
    millivolts: r.millivolts,
    millivoltsUncertainty: r.millivoltsUncertainty,
    temperature: r.temperature,
  })
  const calibration = calibratePhTwoPoint(point(first, one), point(second, two))
  const at = [sensor.processPh, sensor.processTemperature] as const
  const errorNow = errorAtProcessValue(calibration, inForce, ...at)
  const fouling = found.millivolts - phToMillivolts(found.standard?.value ?? 7, found.temperature, calibration)
  const asFound = errorAtProcessValue({ ...calibration, zero: calibration.zero + fouling }, inForce, ...at)
  const adjusts = index === 0 || Math.abs(errorNow) > 0.5 * sensor.tolerance
  const decision = adjusts ? 'adjust' : 'leave-alone'
  add({ type: 'decided', step: 'result', decision, proposed: decision, note: null }, 1)
  const taken = {
    zero: Math.round(calibration.zero * 10) / 10,
    slopeEfficiency: Math.round(calibration.slopeEfficiency * 1e4) / 1e4,
  }
  const device = adjusts ? taken : inForce
  let asLeft = errorNow
  if (adjusts) {
    add({ type: 'applied', way: sensor.writable ? 'link' : 'keyed', ...taken, shownAfter: null }, 1)
    const check = capture('verify', clean, first, device)
    asLeft = check.shown - (check.standard?.value ?? 0)
  }
  capture('back', clean, null, device)
  add({ type: 'done', step: 'release' }, 1)
  return {
    ...base,
    calibration: {
      ...(adjusts ? taken : { zero: calibration.zero, slopeEfficiency: calibration.slopeEfficiency }),
      zeroUncertainty: calibration.zeroUncertainty,
      slopeEfficiencyUncertainty: calibration.slopeEfficiencyUncertainty,
      adopted: adjusts,
    },
    asFound: index === 0 ? null : asFound,
    asLeft,
    uncertainty: phUncertaintyAt(calibration, ...at),
    fouling,
    adjusted: adjusts,
  }
}

/** A settled reading in a buffer, or in the process when no buffer is named. */
function readIn(
  sensor: FleetSensor,
  truth: ElectrodeTruth,
  code: string | null,
  device: PhCharacteristic,
  at: number,
  random: RandomStream,
  signature: SettlingSignature | null,
): CapturedReading {
  const temperature = code ? Math.round((22.4 + 0.3 * random.normal()) * 100) / 100 : sensor.processTemperature
  const ph = code ? phBufferValue(code, temperature) : processAt(sensor, at).ph
  const ideal = phToMillivolts(ph, temperature, { ...truth, zero: truth.zero + truth.coating })
  const millivolts = Math.round((ideal + 0.35 * random.normal()) * 10) / 10
  const shown = millivoltsToPh(millivolts, temperature, device)
  return {
    millivolts,
    millivoltsUncertainty: 0.9,
    temperature,
    shown: sensor.shows === 'value' ? Math.round(shown * 100) / 100 : shown,
    stability: {
      state: 'stable',
      reason: 'known',
      seconds: Math.round(4 * truth.slowTime + random.between(0, 20)),
      confidence: 97,
    },
    trace: [],
    signature: code && Math.abs(ph - sensor.processPh) > 0.5 ? signature : null,
    ...(code ? { standard: { code, value: ph, lot: null, expired: false, openTooLong: false, daysOver: 0 } } : {}),
  }
}
