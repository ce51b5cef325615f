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
  type Setup,
  type Step,
  stepsToRepeat,
  USUAL_PRACTICES,
  type VisitCommand,
  type VisitEntry,
  VisitRun,
} from '@frustum/core'
import { type FleetSensor, fleet, standInUnits } from '@frustum/demo'
import { BATHS, FAULT_BITS, StandInTransmitter } from '@frustum/lab/stand-ins'
import { plain } from '../../lab/src/fixtures/plain.ts'

/** A bench for tests: a procedure, a stand-in and the live side of its steps, on a clock that runs as fast as it can. */

export const NOON = Date.UTC(2026, 5, 1, 12)

export class Bench {
  private now = NOON
  private readonly clock = { now: () => this.now, rate: 1 }
  readonly device: StandInTransmitter
  readonly sensor: FleetSensor
  private readonly procedure: Procedure
  readonly setup: Setup
  readonly run: VisitRun

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
    this.run = new VisitRun({ procedure: this.procedure, setup: this.setup, startedAt: NOON }, {}, NOON)
  }

  get progress() {
    return this.run.progress
  }

  get lines() {
    return this.run.lines
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
      this.run.read({ at: this.now, ...this.device.read() }, this.now)
    }
    return this.run.liveAt(this.now)
  }

  private add(entry: VisitEntry): this {
    this.run.append(entry, this.now)
    return this
  }

  private act(command: VisitCommand): this {
    this.run.act(command, this.now)
    return this
  }

  done(): this {
    return this.act({ type: 'done', step: this.progress.current?.key ?? '' })
  }

  skip(): this {
    return this.act({ type: 'skip', step: this.progress.current?.key ?? '', reason: 'Testing' })
  }

  /** Decides as told, also what the visit wouldn't offer. */
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
    const step = this.progress.current?.key ?? ''
    const entry = this.run.capture(step, this.now, early ? { earlyReason: early } : {})
    if (entry.type !== 'captured') throw new Error(entry.type)
    return entry.reading
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
    return this.act({ type: 'fill', step: this.progress.current?.key ?? '', values })
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
    const { applied } = this.progress.evidence
    if (step.calibrates && applied) this.device.calibration = applied.characteristic
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
    const seconds = this.run.liveAt(this.now).opinion?.nextReadingIn ?? 5
    this.now += 1000 * Math.ceil(seconds)
    const { signal, shown, temperature } = this.device.read()
    const model = modelOf(this.setup.kind)
    const showsSignal = this.setup.shows === 'signal' && ['ph', 'ion', 'orp'].includes(this.setup.kind)
    const typed = showsSignal
      ? Number(signal.toFixed(1))
      : Number(shown.toFixed(model.shownScale(this.setup.device).decimals))
    return this.typed(typed, Number(temperature.toFixed(1)))
  }

  /** A number that was read by eye, as displayed, with a temperature in degC. */
  typed(value: number, temperature: number, still = false) {
    this.add({ type: 'typed', step: this.progress.current?.key ?? '', value, temperature, ...(still ? { still } : {}) })
    return this.run.liveAt(this.now)
  }

  result(step = 'result') {
    const { evidence } = this.progress
    return judgeStep(this.procedure, evidence, step)
  }
}
