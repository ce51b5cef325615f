import {
  type Assessment,
  type CalibrationParameters,
  type CapturedReading,
  type Decision,
  type FormValues,
  judgeStep,
  modelOf,
  type Procedure,
  procedureOf,
  type RecordLine,
  reduceVisit,
  type Setup,
  type Step,
  stepsToRepeat,
  USUAL_PRACTICES,
  type VisitState,
} from '@frustum/core'
import { type FleetSensor, fleet, standInUnits } from '@frustum/demo'
import { BATHS, FAULT_BITS, StandInTransmitter } from '@frustum/standins'
import { plain } from '../../core/src/testing/plain.ts'
import { StepSession } from '../../server/src/visits/session.ts'

/** A bench for tests: a procedure, a stand-in and the live side of its steps, on a clock that runs as fast as it can. */

export const NOON = Date.UTC(2026, 5, 1, 12)

export class Bench {
  private now = NOON
  private readonly clock = { now: () => this.now, rate: 1 }
  private firstTyped: number | null = null
  readonly device: StandInTransmitter
  readonly sensor: FleetSensor
  readonly lines: RecordLine[] = []
  private readonly procedure: Procedure
  readonly setup: Setup
  session: StepSession

  constructor(code: string, procedure: string, change: Partial<Setup> = {}, seed = 11) {
    const sensor = fleet().find((s) => s.code === code)
    if (!sensor) throw new Error(code)
    this.sensor = sensor
    this.procedure = procedureOf(procedure)
    const [unit] = standInUnits([{ ...sensor, unit: 1 }])
    if (!unit) throw new Error(code)
    this.device = new StandInTransmitter({ ...unit, reportsResistances: false, seed, clock: this.clock })
    const model = modelOf(sensor.kind)
    this.setup = {
      kind: sensor.kind,
      position: code,
      processValue: sensor.process.value,
      processTemperature: sensor.process.temperature,
      tolerance: sensor.tolerance,
      device: sensor.device,
      shows: sensor.shows,
      linked: true,
      writable: sensor.writable,
      adjustsBy: 'numbers',
      calibrationKey: 'CAL',
      activeCalibration: model.ideal,
      previous: null,
      standards: Object.fromEntries(
        Object.entries(sensor.standards).map(([role, code]) => [role, { code, lot: null }]),
      ),
      practices: USUAL_PRACTICES,
      settlingHistory: [],
      authorityRule: null,
      twins: [],
      ...change,
    }
    this.session = this.newSession()
  }

  get progress() {
    return reduceVisit(this.procedure, this.setup, NOON, this.lines)
  }

  private newSession(): StepSession {
    const { current, evidence } = this.progress
    const setting = { step: current, procedure: this.procedure, evidence, past: [] }
    return new StepSession(setting, this.clock)
  }

  at(step: string): this {
    const now = this.progress.current?.key
    if (now !== step) throw new Error(`At ${now}, not at ${step}`)
    return this
  }

  fault(...names: (keyof typeof FAULT_BITS)[]): this {
    this.device.setFaults(names.reduce((bits, name) => bits | FAULT_BITS[name], 0))
    return this
  }

  dip(bath: string): this {
    this.device.putInto(BATHS.indexOf(bath))
    return this
  }

  /** Lets the reading run for some seconds, and gives what the step says then. */
  watch(seconds: number) {
    for (let i = 0; i < 2 * seconds; i++) {
      this.now += 500
      this.session.take({ at: this.now, ...this.device.read() })
    }
    return this.session.message(null, 1, false)
  }

  private add(entry: RecordLine['entry']): this {
    this.lines.push({ at: this.now, entry })
    this.session = this.newSession()
    this.firstTyped = null
    return this
  }

  done(): this {
    return this.add({ type: 'done', step: this.progress.current?.key ?? '' })
  }

  skip(): this {
    return this.add({ type: 'skipped', step: this.progress.current?.key ?? '', reason: 'Testing' })
  }

  decide(decision: Decision): this {
    const step = this.progress.current?.key ?? ''
    const reopens = decision === 'repeat' ? { reopens: stepsToRepeat(this.progress, step) } : {}
    return this.add({ type: 'decided', step, decision, proposed: decision, note: null, ...reopens })
  }

  apply(characteristic: CalibrationParameters): this {
    return this.add({ type: 'applied', way: 'link', characteristic, readBack: characteristic, shownAfter: null })
  }

  /** Types what the display shows until it stands still there, and takes it. */
  read(): CapturedReading {
    for (let n = 0; !this.look().taken; n++) if (n > 60) throw new Error('It does not stand still')
    return this.take()
  }

  take(early?: string): CapturedReading {
    const reading = this.session.capture(early, false)
    this.add({ type: 'captured', step: this.progress.current?.key ?? '', reading })
    return reading
  }

  /** Goes on to a step, skipping what can be skipped and ticking the rest. */
  to(step: string): this {
    for (let n = 0; this.progress.current?.key !== step; n++) {
      const current = this.progress.current
      if (!current || n > 20) throw new Error(`No way to ${step}`)
      if (current.usualSkips.length > 0) this.skip()
      else this.done()
    }
    return this
  }

  fill(values: FormValues): this {
    return this.add({ type: 'filled', step: this.progress.current?.key ?? '', values })
  }

  /** Walks the visit to its end as a careful operator would, with what the procedure proposes. */
  walk(answer: (step: Step, bench: Bench) => FormValues, decide: (proposed: Assessment, step: Step) => Decision): this {
    for (let n = 0; this.progress.current; n++) {
      const step = this.progress.current
      if (n > 60) throw new Error(`The visit does not end: ${step.key}`)
      if (step.kind === 'confirm' || step.kind === 'wait') {
        if (step.key.startsWith('clean')) this.device.wipe()
        if (/^(clean|rinse)/.test(step.key)) this.dip('rinse').watch(5)
        this.done()
      } else if (step.kind === 'capture') {
        this.settle(step)
        this.take()
      } else if (step.key.startsWith('key-')) this.pressKey(step)
      else if (step.kind === 'form') this.fill(answer(step, this))
      else if (step.kind === 'apply') this.applyResult()
      else {
        const result = this.result(step.key)
        if (!result) throw new Error(`${step.key} has nothing to say`)
        this.decide(decide(result, step))
      }
    }
    return this
  }

  /** A device that calibrates itself shows the standard's value once its key was pressed. */
  private pressKey(step: Step): void {
    if (!step.role) {
      this.fill({ shown: this.device.read().shown, said: 'good' })
      return
    }
    const { code = '' } = this.setup.standards[step.role ?? ''] ?? {}
    this.dip(code)
    const { temperature } = this.device.read()
    const model = modelOf(this.setup.kind)
    const value = model.standardValue(code, temperature, this.setup.device)
    const ideal = model.signalOf(value, temperature, model.ideal, this.setup.device)
    const shown = model.toShown(ideal, temperature, model.ideal, this.setup.device)
    const { decimals } = model.shownScale(this.setup.device)
    this.fill({ shown: Number(shown.toFixed(decimals)), said: 'good' })
    const found = step.calibrates ? this.result()?.found?.characteristic : null
    if (!found) return
    this.device.calibration = found
    this.add({ type: 'applied', way: 'key', characteristic: found, readBack: null, shownAfter: null })
  }

  private applyResult(): void {
    const found = this.result()?.found?.characteristic
    if (!found) throw new Error('Nothing to apply')
    this.device.calibration = found
    this.apply(found)
  }

  /** Dips where the step says, and waits until the reading may be taken. */
  private settle(step: Step): void {
    const code = step.role ? this.setup.standards[step.role]?.code : undefined
    const own = { process: 'process', air: 'air', plug: 'plug', sample: 'sample', standard: code ?? 'process' }
    this.dip(own[step.medium ?? 'process'])
    for (let waited = 0; waited < 900; waited += 2) {
      const { opinion, finding, taken } = this.setup.linked ? this.watch(2) : this.look()
      if (finding?.severity === 'stop') throw new Error(`${step.key}: ${plain(finding.sentence)}`)
      if (step.freezes ? waited >= 10 : taken) return
      if (opinion?.state === 'unsettled') throw new Error(`${step.key} does not settle`)
    }
    throw new Error(`${step.key} is not stable in 15 minutes`)
  }

  /** One reading typed by hand, as the display shows it, when the judge asks for it. */
  private look() {
    const seconds = this.session.message(null, 1, false).opinion?.nextReadingIn ?? 5
    this.now += 1000 * Math.ceil(seconds)
    this.firstTyped ??= this.now
    const { signal, shown, temperature } = this.device.read()
    const model = modelOf(this.setup.kind)
    const showsSignal = this.setup.shows === 'signal' && ['ph', 'ion', 'orp'].includes(this.setup.kind)
    const typed = showsSignal
      ? Number(signal.toFixed(1))
      : Number(shown.toFixed(model.shownScale(this.setup.device).decimals))
    this.session.takeTyped({ at: this.now, value: typed, temperature: Number(temperature.toFixed(1)) })
    return this.session.message(null, 1, false)
  }

  result(step = 'result') {
    const { evidence } = this.progress
    return judgeStep(this.procedure, evidence as VisitState, step)
  }
}
