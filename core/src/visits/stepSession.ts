import type { Finding } from '../calibration/finding.ts'
import type { CapturedReading } from '../measurement/capturedReading.ts'
import type { MeasurementModel, Scale } from '../measurement/measurementModel.ts'
import type { SensorReading } from '../measurement/sensorReading.ts'
import type { TemperatureSource } from '../measurement/temperatureSource.ts'
import type { ArithmeticLine, Kind, LiveReading, Procedure, VisitState } from '../procedures/procedure.ts'
import { seesSignal } from '../procedures/setup.ts'
import type { Step } from '../procedures/step.ts'
import { gradeOf, stopwatchOf } from '../procedures/workingPractices.ts'
import { nullIfOutOfRange } from '../quantities/outOfRange.ts'
import { render } from '../quantities/render.ts'
import { difference, figures, type Quantity } from '../quantities/sentence.ts'
import { isTaken, type SettlingGrade } from '../stability/grade.ts'
import { stabilityJudge } from '../stability/judge.ts'
import type { StabilityJudge, StabilityOpinion } from '../stability/opinion.ts'
import { harmlessCreep, roundedPreset, type StabilityPreset } from '../stability/presets.ts'
import type { SettlingSignature } from '../stability/settlingSignature.ts'
import { SPARSE_APART, sparseOpinion } from '../stability/sparseOpinion.ts'
import type { Stopwatch } from '../stability/stopwatch.ts'
import { type TypedSample, typedOpinion } from '../stability/typedOpinion.ts'
import { median } from '../statistics/median.ts'
import { arithmeticOf } from './arithmetic.ts'
import { knownAs, liveFinding } from './liveFindings.ts'
import { VisitRefusal } from './refusal.ts'
import { assumedTemperature, ROOM_TEMPERATURE } from './typing.ts'
import type { Progress } from './visitReducer.ts'

/** What the step at hand shows of the reading now. */
export interface VisitLive {
  step: string | null
  at: number
  blindSince: number | null
  /** The number to read at two metres, in `unit`. */
  value: number | null
  unit: string
  decimals: number
  /** What the device shows, where that is another number. */
  shown: number | null
  shownUnit: string
  shownDecimals: number
  temperature: number | null
  /** How closely the end is wanted. */
  wanted: Quantity
  opinion: StabilityOpinion | null
  /** Whether the reading may be kept as it is, without a reason. */
  taken: boolean
  /** Seconds into the step and value: all points with the first message of a step, then only the new ones. */
  trace: [number, number][]
  fresh: boolean
  /** How far readings of the line are apart, s, where that is too far to see it settle; null where it is not. */
  everySeconds: number | null
  /** The line does not say how warm it is, and it has to be typed. */
  needsTemperature: boolean
  finding: Finding | null
  /** False as long as the sensor has not moved since the step asked for another solution. */
  arrived: boolean
  arithmetic: ArithmeticLine[]
  /** How many lines the record has: a view of fewer is out of date. */
  revision: number
}

/** What a step is judged with. */
export interface StepSetting {
  step: Step | null
  procedure: Procedure
  evidence: VisitState
  past: readonly SettlingSignature[]
}

/** As read over a line or typed, with what was worked out of the rest; the display is null where nobody read it. */
interface StepReading {
  at: number
  signal: number
  temperature: number
  temperatureFrom?: TemperatureSource
  shown: number | null
  resistances?: SensorReading['resistances']
  /** Nobody measured the temperature, and nothing says what it is: taken is that of a room, to look at. */
  guessed?: boolean
  /** What of it came over the line. */
  source?: CapturedReading['source']
}

/** Points of the trace kept for the screen; older ones are thinned out. */
const TRACE_LIMIT = 1200
/** Over how many gaps the pace of a line is seen. */
const GAPS_SEEN = 5
/** The expected standard is accepted within this share of the distance at which another would be named. */
const THERE_SHARE = 0.6

interface Asked {
  /** Epoch ms. */
  now: number
  /** Since when the device has not answered, epoch ms; null where it does. */
  blindSince: number | null
  /** Lines of the record. */
  revision: number
  /** All points of the trace, or those that are new since the last message. */
  wholeTrace: boolean
}

interface Capturing {
  /** Epoch ms. */
  now: number
  /** Why it is captured although it is not stable. */
  earlyReason?: string | undefined
  /** The connection is late, so that its last reading is of another moment. */
  stale?: boolean
}

/** The live side of one visit's step: the trace, the judge, and what they say now. Nothing in here is a record. */
export class StepSession {
  private startedAt: number
  private judge: StabilityJudge | null
  private readonly preset: StabilityPreset
  /** The half-width that is wanted, whatever the display can tell. */
  private readonly resolution: number
  private stopwatch: Stopwatch | null
  /** The last digit of what is typed, on the scale that is judged; 0 of a line. */
  private readonly rounding: number
  private readonly kind: Kind
  private readonly model: MeasurementModel
  /** What the judge looks at, on the screen's scale. */
  private readonly scale: Scale
  private trace: [number, number][] = []
  /** Time of the last point that was told, s. */
  private toldUntil = Number.NEGATIVE_INFINITY
  private latest: StepReading | null = null
  private opinion: StabilityOpinion | null = null
  /** What was typed so far, on the scale that is judged. */
  private readonly typed: TypedSample[] = []
  private stopped = false
  private firstSignal = Number.NaN
  private arrived: boolean
  /** When the last readings of the line were, epoch ms. */
  private times: number[] = []

  constructor(
    public setting: StepSetting,
    /** Epoch ms of the last event. */
    private now: number,
    /** Seconds of its time in one second of the device's, above 0: readings of a demo are farther apart. */
    private readonly rate = 1,
  ) {
    const { step, past, evidence } = setting
    const { setup, kind, model } = evidence
    this.startedAt = now
    this.kind = kind
    this.model = model
    const process = this.expectedSignal(setup.processTemperature) ?? this.processSignal()
    // A dry cell is judged by how near to nothing it is, not by the size of its water.
    const level = step?.medium === 'air' ? 0.1 * process : process
    this.scale = this.judgesShown ? model.shownScale(setup.device) : model.signalScale(Math.abs(level))
    const judgedLevel = this.toJudged(level, setup.processTemperature)
    const preset = model.preset(Math.abs(judgedLevel), this.judgesShown ? 'shown' : 'signal', setup.device)
    this.rounding = this.displayStep(level, setup.processTemperature)
    this.resolution = preset.resolution
    this.preset = roundedPreset(preset, setup.linked ? 0 : this.rounding)
    const watched = step?.kind === 'capture' && setup.linked
    this.judge = watched ? stabilityJudge(this.preset, past) : null
    this.stopwatch = watched ? stopwatchOf(setup.practices, kind.flatWaitSeconds, this.preset.repeatability) : null
    // Water that it never left it is in; typed readings are looked at by the one who types.
    const comes = step?.medium === 'standard' || step?.key === 'back'
    this.arrived = !setup.linked || step?.kind !== 'capture' || !comes
  }

  /** Only the finished value is known of a device without a line that shows nothing else. */
  private get judgesShown(): boolean {
    const { setup } = this.setting.evidence
    return !seesSignal(setup)
  }

  /** Millivolts are what is typed of this device. */
  private get showsSignal(): boolean {
    return this.setting.evidence.setup.shows === 'signal' && this.kind.signalDisplay !== null
  }

  /** What one step of the display's last digit is worth at this signal, on the scale that is judged. */
  private displayStep(signal: number, temperature: number): number {
    const { device } = this.setting.evidence.setup
    const step = 10 ** -this.model.shownScale(device).decimals
    if (this.showsSignal) return 10 ** -(this.kind.signalDisplay?.decimals ?? 1) * this.scale.factor
    if (this.judgesShown) return step
    const side = (digits: number) =>
      nullIfOutOfRange(() => {
        const shown = this.model.toShown(signal, temperature, this.activeCalibration, device)
        return this.toJudged(
          this.model.fromShown(shown + digits * step, temperature, this.activeCalibration, device),
          temperature,
        )
      })
    const [low, high] = [side(-0.5), side(0.5)]
    return low === null || high === null ? 0 : Math.abs(high - low)
  }

  /** A reading from the line, in the order of their times. */
  take(read: SensorReading, now: number): void {
    this.now = now
    // Who reads by eye although there is a line has a reason; the line is not mixed into it.
    if (this.typed.length > 0) return
    const reading = this.whole(read)
    if (!reading) return
    this.latest = reading
    if (Number.isNaN(this.firstSignal)) this.firstSignal = reading.signal
    if (!this.arrived && this.hasArrived(reading)) {
      this.arrived = true
      // What it did in the cup before, or while nobody was there, is no part of how it settles here.
      this.restart(now)
    }
    if (this.times.at(-1) !== reading.at) this.times = [...this.times.slice(-GAPS_SEEN), reading.at]
    this.push((reading.at - this.startedAt) / 1000, this.judged(reading), reading.temperature)
  }

  /** What a device does not give is worked out from what it gives; null where that is not enough. */
  private whole({ signal, temperature, temperatureFrom, ...read }: SensorReading): StepReading | null {
    const { step, evidence } = this.setting
    const { setup } = evidence
    const fixed = setup.device.fixedTemperature
    const assumed =
      fixed !== undefined
        ? ({ value: fixed, from: 'fixed' } as const)
        : (this.typedTemperature ?? (step && assumedTemperature(evidence, step)))
    const at = temperature ?? assumed?.value ?? ROOM_TEMPERATURE
    const { shown } = read
    const bare =
      signal ??
      (shown === null
        ? null
        : nullIfOutOfRange(() => this.model.fromShown(shown, at, this.activeCalibration, setup.device)))
    if (bare === null || !Number.isFinite(bare)) return null
    const from = temperatureFrom ?? (temperature === null && assumed ? { from: assumed.from } : null)
    return {
      ...read,
      signal: bare,
      temperature: at,
      source: signal === null ? 'line-display' : shown === null ? 'line-signal' : 'line',
      ...(from ? { temperatureFrom: from } : {}),
      ...(temperature === null && !assumed ? { guessed: true } : {}),
    }
  }

  /** The temperature of what it stands in, where the line does not say it and somebody has read it. */
  private typedTemperature: { value: number; from: 'device' } | null = null

  private get lacksTemperature(): boolean {
    return this.latest?.guessed === true
  }

  /** Takes the temperature of this step, as it was read beside the line. */
  warmTo(value: number): void {
    this.typedTemperature = { value, from: 'device' }
    if (!this.latest?.guessed) return
    const { guessed: _, ...reading } = this.latest
    const { shown } = reading
    // What was worked out from the display is worked out anew.
    const signal =
      reading.source === 'line-display' && shown !== null
        ? nullIfOutOfRange(() =>
            this.model.fromShown(shown, value, this.activeCalibration, this.setting.evidence.setup.device),
          )
        : reading.signal
    this.latest = {
      ...reading,
      signal: signal ?? reading.signal,
      temperature: value,
      temperatureFrom: { from: 'device' },
    }
  }

  /** A reading typed by hand, as the device shows it. */
  takeTyped(
    { at, value: typed, shown: beside, temperature, temperatureFrom, still }: Progress['typed'][number],
    now: number,
  ): void {
    this.now = now
    const { setup } = this.setting.evidence
    const activeCalibration = this.activeCalibration
    const { showsSignal } = this
    const signal = showsSignal
      ? typed
      : (nullIfOutOfRange(() => this.model.fromShown(typed, temperature, activeCalibration, setup.device)) ??
        Number.NaN)
    if (!Number.isFinite(signal)) return
    const shown = showsSignal ? (beside ?? null) : typed
    this.latest = { at, signal, temperature, shown, ...(temperatureFrom ? { temperatureFrom } : {}) }
    const value = this.judged(this.latest)
    this.typed.push({ t: at / 1000, value, still: still === true })
    const first = this.typed[0] as TypedSample
    this.trace.push([Math.round(at / 10 - 100 * first.t) / 100, value])
  }

  /** In place of a sample the bare signal counts: the zero is found from it. */
  private get judgesSignal(): boolean {
    const medium = this.setting.step?.medium
    return this.kind.signalLeads || medium === 'air' || medium === 'plug'
  }

  /** What is judged and shown large: electrodes by their millivolts, the others by the value the device makes of them. */
  private judged(reading: StepReading): number {
    return this.judgesShown && reading.shown !== null
      ? reading.shown
      : this.toJudged(reading.signal, reading.temperature)
  }

  private toJudged(signal: number, temperature: number): number {
    const { setup } = this.setting.evidence
    if (this.judgesShown) {
      return (
        nullIfOutOfRange(() => this.model.toShown(signal, temperature, this.activeCalibration, setup.device)) ?? signal
      )
    }
    if (this.judgesSignal) return signal * this.scale.factor
    const value = nullIfOutOfRange(() => this.model.valueOf(signal, temperature, this.activeCalibration, setup.device))
    return (value ?? signal) * this.scale.factor
  }

  /** The inverse of toJudged; the fallback where a number leaves its range. */
  private fromJudged(judged: number, temperature: number, fallback: number): number {
    const { setup } = this.setting.evidence
    if (this.judgesShown) {
      return (
        nullIfOutOfRange(() => this.model.fromShown(judged, temperature, this.activeCalibration, setup.device)) ??
        fallback
      )
    }
    const value = judged / this.scale.factor
    if (this.judgesSignal) return value
    return (
      nullIfOutOfRange(() => this.model.signalOf(value, temperature, this.activeCalibration, setup.device)) ?? fallback
    )
  }

  private get activeCalibration() {
    const { evidence } = this.setting
    return evidence.applied?.characteristic ?? evidence.setup.activeCalibration
  }

  private push(t: number, value: number, temperature: number): void {
    if (!this.judge) return
    const sample = { t, value, temperature }
    this.opinion = this.judge.push(sample)
    if (this.stopwatch?.push(sample)) this.stopped = true
    this.trace.push([Math.round(t * 100) / 100, value])
    if (this.trace.length > TRACE_LIMIT) {
      const half = this.trace.length / 2
      this.trace = this.trace.filter((_, i) => i > half || i % 2 === 0)
    }
  }

  private valueOf(signal: number, temperature: number): number | null {
    const { evidence } = this.setting
    return nullIfOutOfRange(() => this.model.valueOf(signal, temperature, knownAs(evidence), evidence.setup.device))
  }

  /** Judges from now on as if the step began now: after a pause, or once the sensor is in. */
  restart(now: number): void {
    this.now = now
    if (!this.judge) return
    const { setup } = this.setting.evidence
    this.judge = stabilityJudge(this.preset, this.setting.past)
    this.stopwatch = stopwatchOf(setup.practices, this.kind.flatWaitSeconds, this.preset.repeatability)
    this.stopped = false
    this.opinion = null
    this.times = []
    this.trace = []
    this.toldUntil = Number.NEGATIVE_INFINITY
    this.startedAt = now
  }

  /** Reads by another line from now on: nothing of the one before says anything of it. */
  changeLine(now: number): void {
    if (this.typed.length > 0) return
    this.latest = null
    this.firstSignal = Number.NaN
    this.restart(now)
  }

  /** Not known in time: a person who comes back finds the clock started anew. */
  get gaveUp(): boolean {
    return this.opinion?.state === 'unsettled'
  }

  private hasArrived(reading: StepReading): boolean {
    const now = this.valueOf(reading.signal, reading.temperature)
    const first = this.valueOf(this.firstSignal, reading.temperature)
    if (now === null || first === null) return Math.abs(reading.signal - this.firstSignal) > 0
    if (this.model.distance(now, first) > this.model.moved) return true
    const { step, evidence } = this.setting
    const inProcess = step?.medium === 'process'
    const cup = inProcess ? Object.values(evidence.readings).findLast((r) => r.standard) : undefined
    const before = cup && this.valueOf(cup.signal, reading.temperature)
    // Far from what it last showed in a cup it is out of it, whatever the water is.
    if (before != null && this.model.distance(now, before) > this.model.moved) return true
    const found = evidence.readings['found-process']
    const water = (found && this.valueOf(found.signal, found.temperature)) ?? evidence.setup.processValue
    const value = inProcess ? water : this.standardValue(reading.temperature)
    return value !== null && this.model.distance(now, value) < THERE_SHARE * this.model.wrongCup.near
  }

  /** Another bottle of the same standards; what was read so far stands, since only what is worked out from it changes. */
  pour(standards: VisitState['setup']['standards']): void {
    const { evidence } = this.setting
    this.setting = { ...this.setting, evidence: { ...evidence, setup: { ...evidence.setup, standards } } }
  }

  private expectedSignal(temperature: number): number | null {
    const { evidence, step } = this.setting
    const room = step?.medium === 'standard' ? ROOM_TEMPERATURE : temperature
    const value = this.standardValue(room)
    if (value === null) return null
    return nullIfOutOfRange(() => this.model.signalOf(value, room, knownAs(evidence), evidence.setup.device))
  }

  private processSignal(): number {
    const { setup } = this.setting.evidence
    return (
      nullIfOutOfRange(() =>
        this.model.signalOf(setup.processValue, setup.processTemperature, setup.activeCalibration, setup.device),
      ) ?? setup.processValue
    )
  }

  private get chosen() {
    const { step, evidence } = this.setting
    return step?.medium === 'standard' && step.role ? evidence.setup.standards[step.role] : undefined
  }

  private standardValue(temperature: number): number | null {
    const chosen = this.chosen
    if (!chosen) return null
    return nullIfOutOfRange(() =>
      this.model.standardValue(chosen.code, temperature, this.setting.evidence.setup.device, chosen.lotTable),
    )
  }

  /** How far readings of the line are apart, s, where that is too far to see it settle; null where it is not. */
  private get everySeconds(): number | null {
    const times = this.times.slice(-GAPS_SEEN - 1)
    if (times.length < 2) return null
    const gaps = times.slice(1).map((t, i) => (t - (times[i] as number)) / 1000)
    const apart = median(gaps)
    return apart > SPARSE_APART * this.rate ? apart : null
  }

  private get byEye(): boolean {
    return !this.setting.evidence.setup.linked || this.typed.length > 0
  }

  /** What the judge says of a line, or what was typed says of a display. */
  private get judgement(): StabilityOpinion | null {
    if (this.everySeconds !== null && !this.byEye && this.judge) {
      return sparseOpinion(
        this.trace,
        this.preset.resolution,
        harmlessCreep(this.preset),
        (this.now - this.startedAt) / 1000,
      )
    }
    if (!this.byEye || this.setting.step?.kind !== 'capture') return this.opinion
    const { medium, key } = this.setting.step
    const display = {
      digit: Math.max(this.rounding, 1e-9),
      resolution: this.resolution,
      harmless: harmlessCreep(this.preset),
      // Water that it never left it is at rest in.
      goesOn: medium === 'process' && key !== 'back' ? 0 : this.kind.flatWaitSeconds,
    }
    return typedOpinion(this.typed, display, this.now / 1000)
  }

  /** Where it will end, as far as known, in core units. */
  private reading(): (LiveReading & { uncertainty: number; known: boolean }) | null {
    const { latest } = this
    const opinion = this.judgement
    if (!latest) return null
    const known = opinion !== null && opinion.confidence > 20
    // By eye nothing is known of where it goes: what was read last is the reading.
    const signal =
      known && !this.byEye
        ? this.atTemperature(
            this.fromJudged(opinion.predictedEnd, latest.temperature, latest.signal),
            opinion.predictedTemperature ?? latest.temperature,
            latest.temperature,
          )
        : latest.signal
    return {
      signal,
      temperature: latest.temperature,
      shown: latest.shown,
      noise: this.signalWidth(opinion?.noise ?? 0, signal, latest.temperature),
      uncertainty: this.signalWidth(opinion?.predictedEndUncertainty ?? 0, signal, latest.temperature),
      known,
    }
  }

  /** The signal that the same solution gives at another temperature: an end is foreseen for the end of both. */
  private atTemperature(signal: number, from: number, to: number): number {
    if (!this.judgesSignal || from === to) return signal
    const { device } = this.setting.evidence.setup
    return (
      nullIfOutOfRange(() => {
        const value = this.model.valueOf(signal, from, this.activeCalibration, device)
        return this.model.signalOf(value, to, this.activeCalibration, device)
      }) ?? signal
    )
  }

  /** A width of what is judged as one of the signal. */
  private signalWidth(width: number, signal: number, temperature: number): number {
    const centre = this.toJudged(signal, temperature)
    return Math.abs(this.fromJudged(centre + width, temperature, signal * 1.02) - signal)
  }

  private get source(): CapturedReading['source'] {
    if (this.byEye) return this.showsSignal ? 'signal-typed' : 'display-typed'
    return this.latest?.source ?? 'line'
  }

  private finding(): Finding | null {
    const { step, evidence } = this.setting
    const reading = this.reading()
    if (step?.kind !== 'capture' || !reading) return null
    // Nothing is said of the water before the sensor is back in it.
    if (step.key === 'back' && !this.arrived) return null
    // A frozen moment and moving water are looked at as they are; a standard and air once they are half known.
    if ((step.medium === 'standard' || step.medium === 'air') && (this.judgement?.confidence ?? 0) < 30) return null
    return liveFinding(evidence, step, reading)
  }

  /** The opinion with what the step knows besides: the site's school, and whether the sensor is in its new cup. */
  private stepOpinion(): StabilityOpinion | null {
    const opinion = this.judgement
    if (!opinion || this.byEye) return opinion
    if (!this.arrived && opinion.state !== 'settling' && opinion.state !== 'disturbed') {
      return { ...opinion, state: 'settling', reason: 'starting', secondsToGo: null, confidence: 0 }
    }
    if (opinion.state === 'disturbed') return opinion
    if (!this.stopwatch) return this.waitsOn(opinion)
    return this.stopped && this.arrived
      ? { ...opinion, state: 'stable', reason: 'known', secondsToGo: 0 }
      : { ...opinion, state: 'settling', reason: 'value-moving', secondsToGo: null }
  }

  /** Known, but not what is waited for: it goes on to be watched, up to the time at which it is given up. */
  private waitsOn(opinion: StabilityOpinion): StabilityOpinion {
    if (opinion.state !== 'known' || isTaken(this.grade, opinion.state)) return opinion
    return opinion.elapsed > this.preset.limitSeconds
      ? { ...opinion, state: 'unsettled', reason: 'time-limit', secondsToGo: null }
      : opinion
  }

  /** By eye, and where readings come seldom, nobody waits for minutes unless the site says so: the record says what was seen. */
  private get grade(): SettlingGrade {
    const { step, evidence } = this.setting
    const asked = this.byEye || this.everySeconds !== null ? 'known' : step?.waitsFor
    return gradeOf(evidence.setup.practices, asked)
  }

  /** Whether the reading may be kept as it is, without a reason. */
  private isTaken(opinion: StabilityOpinion | null): boolean {
    if (this.setting.step?.freezes) return true
    return opinion !== null && isTaken(this.grade, opinion.state)
  }

  message({ now, blindSince, revision, wholeTrace }: Asked): VisitLive {
    this.now = now
    const { latest, setting, scale } = this
    const { setup } = setting.evidence
    const shownScale = this.model.shownScale(setup.device)
    const sameNumber = this.judgesShown || (shownScale.unit === scale.unit && scale.factor === 1)
    const value = latest === null ? null : this.judged(latest)
    const opinion = this.stepOpinion()
    return {
      step: setting.step?.key ?? null,
      at: latest?.at ?? now,
      blindSince,
      value,
      unit: scale.unit,
      decimals: scale.decimals,
      shown: sameNumber ? null : (latest?.shown ?? null),
      shownUnit: shownScale.unit,
      shownDecimals: shownScale.decimals,
      temperature: latest?.temperature ?? null,
      wanted: this.wanted(),
      opinion,
      taken: this.isTaken(opinion),
      trace: wholeTrace ? this.trace : this.untold(),
      fresh: wholeTrace,
      everySeconds: this.everySeconds,
      needsTemperature: !this.byEye && latest !== null && this.lacksTemperature,
      finding: this.finding(),
      arrived: this.arrived,
      arithmetic: arithmeticOf(setting.procedure, setting.evidence, setting.step, this.reading()),
      revision,
    }
  }

  /** Points of the trace that came since they were asked for last. */
  private untold(): [number, number][] {
    const fresh = this.trace.filter(([t]) => t > this.toldUntil)
    this.toldUntil = fresh.at(-1)?.[0] ?? this.toldUntil
    return fresh
  }

  private wanted(): Quantity {
    const { resolution } = this.preset
    // By eye it is known to the last digit.
    if (this.byEye) {
      return difference(this.rounding, this.scale.unit, figures(this.rounding, 1))
    }
    return this.kind.settledWithin ?? difference(resolution, this.scale.unit, figures(resolution, 2))
  }

  /**
   * The reading to keep now.
   * @throws VisitRefusal when there is none, when it is stale, or when it is not stable and no reason is given
   */
  capture({ now, earlyReason, stale = false }: Capturing): CapturedReading {
    this.now = now
    const { latest, setting } = this
    const { setup } = setting.evidence
    const opinion = this.stepOpinion()
    const reading = this.reading()
    if (!latest || !opinion || !reading || !setting.step) {
      throw new VisitRefusal('There is no reading yet.', {
        because: 'state',
        code: 'no-reading',
        hint: setup.linked ? 'Wait for the device to answer.' : 'Type what the device shows.',
      })
    }
    if (!this.byEye && stale) {
      throw new VisitRefusal('The device has not answered for a while; its last value is too old to keep.', {
        because: 'state',
        code: 'blind',
        detail: 'All points taken so far are kept.',
        hint: 'Check the connection. The step continues when the device answers.',
      })
    }
    const finding = this.finding()
    const stopped = finding?.severity === 'stop'
    const freezes = setting.step.freezes === true
    if ((!this.isTaken(opinion) || stopped) && !earlyReason) {
      const waits =
        opinion.state === 'known' ? 'Its end is known, but not yet that it rests.' : 'The reading is not stable yet.'
      throw new VisitRefusal(stopped ? render(finding.sentence) : waits, {
        because: 'state',
        code: 'not-stable',
        hint: stopped ? render(finding.advice) : 'Wait, or take it now with a reason.',
      })
    }
    if (this.lacksTemperature && !this.byEye) {
      throw new VisitRefusal('Nobody has said yet how warm it is.', {
        because: 'state',
        code: 'temperature-needed',
        hint: 'Type the temperature beside the reading, then capture it.',
        fields: { temperature: 'Type the temperature of what it stands in.' },
      })
    }
    const standardValue = this.standardValue(latest.temperature)
    if (this.chosen && standardValue === null) {
      throw new VisitRefusal(`At ${latest.temperature.toFixed(1)} °C this standard has no known value.`, {
        because: 'state',
        code: 'temperature-outside',
        hint: 'Bring it to room temperature, or check the temperature input.',
      })
    }
    const signal = freezes ? latest.signal : reading.signal
    const unknown = freezes && !this.byEye ? Math.max(3 * reading.noise, Math.abs(signal) * 1e-4) : reading.uncertainty
    const limit = 0.8 * this.signalWidth(this.preset.span, signal, latest.temperature)
    return {
      source: this.source,
      signal,
      signalUncertainty: Math.min(limit, unknown),
      // What is typed comes too seldom to tell its scatter.
      ...(this.byEye ? {} : { noise: reading.noise }),
      ...(latest.resistances ? { resistances: latest.resistances } : {}),
      temperature: latest.temperature,
      temperatureFrom: latest.temperatureFrom ?? { from: 'device' },
      shown: latest.shown,
      stability: {
        state: opinion.state,
        reason: opinion.reason,
        seconds: Math.round(opinion.elapsed),
        ...(opinion.knownAfter === undefined ? {} : { knownAfter: Math.round(opinion.knownAfter) }),
        confidence: Math.round(opinion.confidence),
      },
      ...(earlyReason ? { earlyReason } : {}),
      trace: thinned(this.trace, 80),
      signature: this.judge?.signature() ?? null,
      ...(this.chosen && standardValue !== null
        ? {
            standard: {
              code: this.chosen.code,
              value: standardValue,
              lot: this.chosen.lot?.lot ?? null,
              expired: this.chosen.lot?.expired ?? false,
              openTooLong: this.chosen.lot?.openTooLong ?? false,
              daysOver: this.chosen.lot?.daysOver ?? 0,
              ...(this.chosen.lotTable ? { lotTable: this.chosen.lotTable } : {}),
            },
          }
        : {}),
    }
  }
}

function thinned(trace: readonly [number, number][], most: number): [number, number][] {
  if (trace.length <= most) return [...trace]
  return Array.from(
    { length: most },
    (_, i) => trace[Math.round((i * (trace.length - 1)) / (most - 1))] as [number, number],
  )
}
