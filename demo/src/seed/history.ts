import { randomUUID } from 'node:crypto'
import type { VisitSettings } from '@frustum/contract'
import {
  type CalibrationParameters,
  type CapturedReading,
  DAY_MS,
  type FindingCode,
  modelOf,
  nullIfOutOfRange,
  type Observation,
  type Procedure,
  type Progress,
  procedureOf,
  type RandomStream,
  type RecordLine,
  randomStream,
  reduceVisit,
  resultFindings,
  type SettlingSignature,
  type Setup,
  SIGNATURE_TIMES,
  type Step,
  USUAL_PRACTICES,
  type VisitEntry,
} from '@frustum/core'
import { type SensorTruth, simulatedResistances, simulateSensor } from '@frustum/lab/simulation'
import type { FleetSensor } from '../fleet/fleetSensor.ts'
import { processAt } from '../pellwick.ts'

export interface PastVisit {
  id: string
  at: number
  procedure: string
  operator: string
  settings: VisitSettings
  entries: RecordLine[]
  calibration: {
    characteristic: CalibrationParameters
    uncertainty: CalibrationParameters
    adopted: boolean
    baseline: boolean
  } | null
  observation: Observation | null
  findings: readonly FindingCode[] | null
  setup: Setup
  progress: Progress
}

const MINUTE = 60_000
const ROOM = 22.4
/** A reading is settled when what is left of the way is this share of the wanted resolution. */
const SETTLED_SHARE = 0.5
const SURE_SECONDS = 25
/** Visits whose traces are kept as a prior for the judge. */
const WITH_SIGNATURES = 4
/** Of a kept trace, and the seconds between two of them at least. */
const TRACE_POINTS = 40
const LEAST_APART = 2

/**
 * Plays a sensor's past visits from its story, by the very procedures of the Bench: what was read is simulated, what
 * was concluded is what the procedure concludes.
 */
export function playHistory(
  sensor: FleetSensor,
  now: number,
  operators: readonly string[],
  random: RandomStream,
): PastVisit[] {
  const days = visitDays(sensor, random)
  const past: PastVisit[] = []
  let activeCalibration: CalibrationParameters = modelOf(sensor.kind).ideal
  let previous: Setup['previous'] = null
  days.forEach((day, i) => {
    const player = new Player(sensor, now, day, random, days.length - i <= WITH_SIGNATURES)
    const setup = setupAt(sensor, activeCalibration, previous)
    const checks = i > 0 && i % 3 === 1
    const visit = player.play(procedureOf(checks ? sensor.check : sensor.procedure), setup, i === 0, {
      operator: operators[i % operators.length] as string,
    })
    if (visit.calibration) {
      previous = { characteristic: visit.calibration.characteristic, at: visit.at }
      if (visit.calibration.adopted) activeCalibration = visit.calibration.characteristic
    }
    past.push(visit)
  })
  return past
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

function setupAt(sensor: FleetSensor, activeCalibration: CalibrationParameters, previous: Setup['previous']): Setup {
  return {
    kind: sensor.kind,
    position: sensor.code,
    processValue: sensor.process.value,
    processTemperature: sensor.process.temperature,
    tolerance: sensor.tolerance,
    device: sensor.device,
    shows: sensor.shows,
    linked: sensor.unit !== null,
    writable: sensor.writable,
    adjustsBy: sensor.ownKey ? 'key' : 'numbers',
    calibrationKey: sensor.ownKey ?? 'CAL',
    activeCalibration,
    previous,
    standards: Object.fromEntries(Object.entries(sensor.standards).map(([role, code]) => [role, { code, lot: null }])),
    practices: USUAL_PRACTICES,
    settlingHistory: [],
    authorityRule: sensor.authority?.rule ?? null,
    twins: [],
  }
}

/** Goes through one past visit, step by step, as the operator of the day would have. */
class Player {
  private readonly entries: RecordLine[] = []
  private clock: number
  private readonly start: number
  private clean = false

  constructor(
    private readonly sensor: FleetSensor,
    now: number,
    private readonly day: number,
    private readonly random: RandomStream,
    private readonly keepsSignature: boolean,
  ) {
    this.start = Math.floor((now + day * DAY_MS) / DAY_MS) * DAY_MS + (8 + random.between(0, 6)) * 60 * MINUTE
    this.clock = this.start
  }

  play(procedure: Procedure, setup: Setup, first: boolean, who: { operator: string }): PastVisit {
    let progress = reduceVisit(procedure, setup, this.start, this.entries)
    for (let n = 0; progress.current && n < 60; n++) {
      this.doStep(procedure, progress, progress.current, first)
      progress = reduceVisit(procedure, setup, this.start, this.entries)
    }
    const { evidence } = progress
    const judged = nullIfOutOfRange(() => procedure.judge(evidence, 'result'))
    const observation = nullIfOutOfRange(() => procedure.observe(evidence))
    const decided = evidence.decisions.result?.decision
    return {
      id: randomUUID(),
      at: this.start,
      procedure: procedure.id,
      operator: who.operator,
      settings: { standards: { ...this.sensor.standards }, opening: {} },
      entries: this.entries,
      calibration:
        judged?.found && decided
          ? {
              characteristic: evidence.applied?.characteristic ?? judged.found.characteristic,
              uncertainty: judged.found.uncertainty,
              adopted: evidence.applied !== null,
              baseline: first,
            }
          : null,
      findings: resultFindings(procedure, evidence),
      setup,
      progress,
      observation: observation && first ? { ...observation, asFound: null } : observation,
    }
  }

  private add(entry: VisitEntry, minutes: number): void {
    this.clock += Math.round(minutes * MINUTE)
    this.entries.push({ at: this.clock, entry })
  }

  private doStep(procedure: Procedure, progress: Progress, step: Step, first: boolean): void {
    const { random } = this
    switch (step.kind) {
      case 'confirm':
        if (step.key.startsWith('clean')) this.clean = true
        this.add({ type: 'done', step: step.key }, 1 + random.between(0, 2))
        break
      case 'wait':
        this.add({ type: 'waiting', step: step.key, minutes: step.minutes ?? 60, shared: false }, 1)
        this.add({ type: 'done', step: step.key }, step.minutes ?? 60)
        break
      case 'capture':
        this.add({ type: 'captured', step: step.key, reading: this.read(progress, step) }, 2 + random.between(0, 2))
        break
      case 'form':
        this.add({ type: 'filled', step: step.key, values: this.fill(progress, step) }, 4)
        if (step.calibrates) this.calibratesItself(procedure, progress.evidence.setup)
        break
      case 'verdict':
      case 'result':
        this.decide(procedure, progress, step, first)
        break
      case 'apply':
        this.apply(procedure, progress)
    }
  }

  /** Past operators followed the proposal, gave every new sensor its numbers, and did not test more than twice. */
  private decide(procedure: Procedure, progress: Progress, step: Step, first: boolean): void {
    const judged = nullIfOutOfRange(() => procedure.judge(progress.evidence, step.key))
    const proposed = judged?.proposal.decision ?? 'leave-alone'
    const possible = judged?.choices ?? ['leave-alone']
    const stays = ['repeat', 'replace', 'condition'].includes(proposed) || (progress.evidence.asked[proposed] ?? 0) > 0
    const thirsty = proposed === 'condition' && judged?.found
    const wanted =
      (first || thirsty) && possible.includes('adjust') && judged?.found ? 'adjust' : stays ? 'leave-alone' : proposed
    const decision = possible.includes(wanted) ? wanted : 'leave-alone'
    this.add(
      { type: 'decided', step: step.key, decision, proposed, note: decision === proposed ? null : 'As usual here' },
      1,
    )
  }

  private apply(procedure: Procedure, progress: Progress): void {
    const judged = nullIfOutOfRange(() => procedure.judge(progress.evidence, 'result'))
    const { parameters } = progress.evidence.model
    const characteristic = Object.fromEntries(
      parameters.flatMap(({ key, scale, decimals }) => {
        const value = judged?.found?.characteristic[key]
        return value === undefined ? [] : [[key, Number((value * scale).toFixed(decimals)) / scale]]
      }),
    )
    const way = this.sensor.writable ? 'link' : 'keyed'
    this.add(
      { type: 'applied', way, characteristic, readBack: way === 'link' ? characteristic : null, shownAfter: null },
      1,
    )
  }

  /** Once its key was pressed in every cup the device computes with what it saw there. */
  private calibratesItself(procedure: Procedure, setup: Setup): void {
    const { evidence } = reduceVisit(procedure, setup, this.start, this.entries)
    const found = nullIfOutOfRange(() => procedure.judge(evidence, 'result'))?.found
    if (!found) return
    const given = { way: 'key' as const, characteristic: found.characteristic, readBack: null, shownAfter: null }
    this.add({ type: 'applied', ...given }, 0)
  }

  private truth(): SensorTruth {
    const state = this.sensor.truth(this.day)
    if (!this.clean) return state
    if (state.kind === 'ph') return { ...state, truth: { ...state.truth, coating: 0 } }
    return state.kind === 'conductivity' ? { ...state, truth: { ...state.truth, coating: 0 } } : state
  }

  /** A settled reading: what the simulated sensor rests at, with the scatter of a reading. */
  private read(progress: Progress, step: Step): CapturedReading {
    const { evidence } = progress
    const { model, setup } = evidence
    const code = step.role ? setup.standards[step.role]?.code : undefined
    const room = Math.round((ROOM + 0.12 * this.random.normal()) * 100) / 100
    const value = code ? model.standardValue(code, room, { ...setup.device, expects: 'activity' }) : 0
    const bath =
      step.medium === 'process'
        ? processAt(this.sensor, this.clock)
        : { value: step.medium === 'standard' ? value : 0, temperature: room }
    const read =
      step.medium === 'plug'
        ? { signal: 0.4, temperature: room }
        : simulateSensor(this.truth(), bath, this.random.fork(), 0).read(0)
    const activeCalibration = evidence.applied?.characteristic ?? setup.activeCalibration
    const level = Math.abs(read.signal)
    const preset = model.preset(level, 'signal', setup.device)
    const shown =
      nullIfOutOfRange(() => model.toShown(read.signal, read.temperature, activeCalibration, setup.device)) ?? 0
    const { decimals } = model.shownScale(setup.device)
    const seconds = this.secondsToSettle(bath, preset.resolution, this.random.between(0.8, 1.2))
    const typed = setup.shows === 'value' ? 'display-typed' : 'signal-typed'
    const source = setup.linked ? 'line' : typed
    const display = Number(shown.toFixed(decimals))
    // Of a device that shows nothing else the signal is what its display is worth.
    const signal =
      source === 'display-typed'
        ? (nullIfOutOfRange(() => model.fromShown(display, read.temperature, activeCalibration, setup.device)) ??
          read.signal)
        : read.signal
    return {
      source,
      signal,
      signalUncertainty: 0.5 * preset.resolution,
      noise: this.truth().truth.noise,
      ...this.resistances(step, read.temperature),
      temperature: read.temperature,
      shown: source === 'signal-typed' ? null : display,
      stability: {
        state: 'stable',
        reason: 'known',
        seconds,
        confidence: 97,
      },
      ...this.settling(step.medium === 'standard' ? bath : null, seconds),
      ...(code
        ? {
            standard: {
              code,
              value: model.standardValue(code, read.temperature, setup.device),
              lot: null,
              expired: false,
              openTooLong: false,
              daysOver: 0,
            },
          }
        : {}),
    }
  }

  private resistances(step: Step, temperature: number): Pick<CapturedReading, 'resistances'> {
    if (!this.sensor.reportsResistances || step.medium === 'plug') return {}
    const known = simulatedResistances(this.truth(), temperature, false)
    return known ? { resistances: known } : {}
  }

  /**
   * How long it took to come from its water within the wanted resolution, by the tail of its response, with the seconds
   * that a judge needs to be sure.
   */
  private secondsToSettle(bath: { value: number; temperature: number }, resolution: number, stray: number): number {
    const { truth } = this.truth()
    const sim = simulateSensor(this.truth(), processAt(this.sensor, this.clock), randomStream(1), 0)
    const from = sim.read(0).signal
    sim.follow(bath)
    const to = sim.read(0).signal
    const { factor } = modelOf(this.sensor.kind).signalScale(Math.abs(to))
    const way = Math.abs(to - from) * factor
    const tail = Math.max(1, (truth.slowShare * way) / (SETTLED_SHARE * resolution))
    return Math.round(stray * (SURE_SECONDS + truth.slowTime * (Math.sqrt(tail) - 1)))
  }

  /** How it settled from its water into this standard: the trace, and what it tells the next visit. */
  private settling(
    bath: { value: number; temperature: number } | null,
    seconds: number,
  ): Pick<CapturedReading, 'trace' | 'signature'> {
    if (!bath) return { trace: [], signature: null }
    const sim = simulateSensor(this.truth(), processAt(this.sensor, this.clock), this.random.fork(), 0)
    sim.dip(bath, 0)
    const apart = Math.max(LEAST_APART, seconds / TRACE_POINTS)
    const samples = Array.from({ length: TRACE_POINTS }, (_, i): [number, number] => {
      const t = Math.round(10 * apart * i) / 10
      return [t, sim.read(t).signal]
    })
    const { factor } = modelOf(this.sensor.kind).signalScale(Math.abs(samples.at(-1)?.[1] ?? 1))
    const trace = samples.map(([t, v]): [number, number] => [t, v * factor])
    return { trace, signature: this.keepsSignature ? this.signature(bath) : null }
  }

  private signature(bath: { value: number; temperature: number }): SettlingSignature | null {
    const quiet = this.truth()
    const still = { ...quiet, truth: { ...quiet.truth, noise: 1e-9, step: 1e-6 } } as SensorTruth
    const sim = simulateSensor(still, processAt(this.sensor, this.clock), this.random.fork(), 0)
    const before = sim.read(0).signal
    sim.dip(bath, 0)
    const { device } = this.sensor
    const { pace = 1 } = modelOf(this.sensor.kind).preset(Math.abs(bath.value), 'signal', device)
    // A signature is on the clock of its kind.
    const values = SIGNATURE_TIMES.map((t) => sim.read(pace * t).signal)
    const end = sim.read(1e7).signal
    if (Math.abs(before - end) < 1e-6) return null
    const { factor } = modelOf(this.sensor.kind).signalScale(Math.abs(end))
    const stray = 1 + 0.08 * this.random.normal()
    return {
      shares: values.map((v) => ((v - end) / (before - end)) * stray),
      jump: (before - end) * factor,
      rested: true,
    }
  }

  /** What was typed on the day: the true value, as a laboratory or a second thermometer had it. */
  private fill(progress: Progress, step: Step): Record<string, number | string | boolean> {
    const { evidence } = progress
    const { setup, model } = evidence
    const there = processAt(this.sensor, this.clock)
    const ideal = model.signalOf(there.value, there.temperature, model.ideal, setup.device)
    const right = model.toShown(ideal, there.temperature, model.ideal, setup.device)
    const { decimals } = model.shownScale(setup.device)
    const code = step.role ? setup.standards[step.role]?.code : undefined
    if (code) {
      const value = model.standardValue(code, ROOM, setup.device)
      const shown = model.toShown(
        model.signalOf(value, ROOM, model.ideal, setup.device),
        ROOM,
        model.ideal,
        setup.device,
      )
      return { shown: Number(shown.toFixed(decimals)), said: 'good' }
    }
    const near = (spread: number) => Number((right * (1 + spread * this.random.normal())).toFixed(decimals))
    switch (step.key) {
      case 'lab':
        return {
          result: near(0.008),
          uncertainty: Number((0.03 * right).toPrecision(2)),
          ageMinutes: 5,
          method: 'Hand kit',
        }
      case 'others':
        return { value0: near(0.006), uncertainty0: Number((0.02 * right).toPrecision(2)) }
      case 'thermometers':
        return {
          reading1: Number((there.value + 0.03 * this.random.normal()).toFixed(2)),
          uncertainty1: 0.2,
          reading2: Number((there.value + 0.03 * this.random.normal()).toFixed(2)),
          uncertainty2: 0.2,
        }
      default:
        return {}
    }
  }
}
