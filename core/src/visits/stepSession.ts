import type { Finding } from '../calibration/finding.ts'
import type { CapturedReading } from '../measurement/capturedReading.ts'
import type { SensorReading } from '../measurement/sensorReading.ts'
import type { Kind, LiveReading, VisitState } from '../procedures/procedure.ts'
import { gradeOf, stopwatchOf } from '../procedures/workingPractices.ts'
import { difference, figures, type Quantity } from '../quantities/sentence.ts'
import { isTaken, type SettlingGrade } from '../stability/grade.ts'
import { stabilityJudge } from '../stability/judge.ts'
import type { StabilityJudge, StabilityOpinion } from '../stability/opinion.ts'
import { harmlessCreep, roundedPreset, type StabilityPreset } from '../stability/presets.ts'
import { SPARSE_APART, sparseOpinion } from '../stability/sparseOpinion.ts'
import type { Stopwatch } from '../stability/stopwatch.ts'
import { type TypedSample, typedOpinion } from '../stability/typedOpinion.ts'
import { median } from '../statistics/median.ts'
import { arithmeticOf } from './arithmetic.ts'
import { captureReading } from './captureReading.ts'
import { JudgedScale } from './judgedScale.ts'
import { liveFinding } from './liveFindings.ts'
import {
  completeReading,
  type EnteredTemperature,
  manualReading,
  type StepReading,
  withTemperature,
} from './stepReading.ts'
import { hasArrived, type StepSetting } from './stepSetting.ts'
import { Trace } from './trace.ts'
import type { LiveRequest, VisitLive } from './visitLive.ts'
import type { Progress } from './visitReducer.ts'

/** Over how many gaps the pace of a line is seen. */
const GAPS_SEEN = 5

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
  private readonly kind: Kind
  private readonly judged: JudgedScale
  private trace = new Trace()
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
    this.judged = new JudgedScale(setting)
    const { level, isDisplay, rounding } = this.judged
    const preset = model.preset(Math.abs(level), isDisplay ? 'shown' : 'signal', setup.device)
    this.resolution = preset.resolution
    this.preset = roundedPreset(preset, setup.linked ? 0 : rounding)
    const watched = step?.kind === 'capture' && setup.linked
    this.judge = watched ? stabilityJudge(this.preset, past) : null
    this.stopwatch = watched ? stopwatchOf(setup.practices, kind.flatWaitSeconds, this.preset.repeatability) : null
    // Water that it never left it is in; typed readings are looked at by the one who types.
    const comes = step?.medium === 'standard' || step?.key === 'back'
    this.arrived = !setup.linked || step?.kind !== 'capture' || !comes
  }

  /** A reading from the line, in the order of their times. */
  take(read: SensorReading, now: number): void {
    this.now = now
    // Who reads by eye although there is a line has a reason; the line is not mixed into it.
    if (this.typed.length > 0) return
    const reading = completeReading(read, this.setting, this.judged, this.entered)
    if (!reading) return
    this.latest = reading
    if (Number.isNaN(this.firstSignal)) this.firstSignal = reading.signal
    if (!this.arrived && hasArrived(this.setting, reading.signal, this.firstSignal, reading.temperature)) {
      this.arrived = true
      // What it did in the cup before, or while nobody was there, is no part of how it settles here.
      this.restart(now)
    }
    if (this.times.at(-1) !== reading.at) this.times = [...this.times.slice(-GAPS_SEEN), reading.at]
    this.push((reading.at - this.startedAt) / 1000, this.judged.ofReading(reading), reading.temperature)
  }

  private entered: EnteredTemperature | null = null

  private get lacksTemperature(): boolean {
    return this.latest?.guessed === true
  }

  /** Takes the temperature of this step, as it was read beside the line. */
  warmTo(value: number): void {
    this.entered = { value, from: 'device' }
    if (this.latest?.guessed) this.latest = withTemperature(this.latest, this.entered, this.judged)
  }

  /** A reading typed by hand, as the device shows it. */
  takeTyped(sample: Progress['typed'][number], now: number): void {
    this.now = now
    const reading = manualReading(sample, this.judged)
    if (!reading) return
    this.latest = reading
    const value = this.judged.ofReading(reading)
    this.typed.push({ t: reading.at / 1000, value, still: sample.still === true })
    const first = this.typed[0] as TypedSample
    this.trace.push(reading.at / 1000 - first.t, value)
  }

  private push(t: number, value: number, temperature: number): void {
    if (!this.judge) return
    const sample = { t, value, temperature }
    this.opinion = this.judge.push(sample)
    if (this.stopwatch?.push(sample)) this.stopped = true
    this.trace.push(t, value)
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
    this.trace = new Trace()
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

  /** Another bottle of the same standards; what was read so far stands, since only what is worked out from it changes. */
  pour(standards: VisitState['setup']['standards']): void {
    const { evidence } = this.setting
    this.setting = { ...this.setting, evidence: { ...evidence, setup: { ...evidence.setup, standards } } }
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
        this.trace.points,
        this.preset.resolution,
        harmlessCreep(this.preset),
        (this.now - this.startedAt) / 1000,
      )
    }
    if (!this.byEye || this.setting.step?.kind !== 'capture') return this.opinion
    const { medium, key } = this.setting.step
    const display = {
      digit: Math.max(this.judged.rounding, 1e-9),
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
        ? this.judged.atTemperature(
            this.judged.toSignal(opinion.predictedEnd, latest.temperature, latest.signal),
            opinion.predictedTemperature ?? latest.temperature,
            latest.temperature,
          )
        : latest.signal
    return {
      signal,
      temperature: latest.temperature,
      shown: latest.shown,
      noise: this.judged.signalWidth(opinion?.noise ?? 0, signal, latest.temperature),
      uncertainty: this.judged.signalWidth(opinion?.predictedEndUncertainty ?? 0, signal, latest.temperature),
      known,
    }
  }

  private get source(): CapturedReading['source'] {
    if (this.byEye) return this.judged.showsSignal ? 'signal-typed' : 'display-typed'
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

  message({ now, blindSince, revision, wholeTrace }: LiveRequest): VisitLive {
    this.now = now
    const { latest, setting } = this
    const { scale, isDisplay } = this.judged
    const { setup, model } = setting.evidence
    const shownScale = model.shownScale(setup.device)
    const sameNumber = isDisplay || (shownScale.unit === scale.unit && scale.factor === 1)
    const value = latest === null ? null : this.judged.ofReading(latest)
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
      trace: wholeTrace ? this.trace.points : this.trace.fresh(),
      fresh: wholeTrace,
      everySeconds: this.everySeconds,
      needsTemperature: !this.byEye && latest !== null && this.lacksTemperature,
      finding: this.finding(),
      arrived: this.arrived,
      arithmetic: arithmeticOf(setting.procedure, setting.evidence, setting.step, this.reading()),
      revision,
    }
  }

  private wanted(): Quantity {
    const { resolution } = this.preset
    const { rounding, scale } = this.judged
    // By eye it is known to the last digit.
    if (this.byEye) {
      return difference(rounding, scale.unit, figures(rounding, 1))
    }
    return this.kind.settledWithin ?? difference(resolution, scale.unit, figures(resolution, 2))
  }

  /**
   * The reading to keep now.
   * @throws VisitRefusal when there is none, when it is stale, or when it is not stable and no reason is given
   */
  capture({ now, earlyReason, stale = false }: Capturing): CapturedReading {
    this.now = now
    const opinion = this.stepOpinion()
    return captureReading({
      setting: this.setting,
      latest: this.latest,
      opinion,
      end: this.reading(),
      finding: this.finding(),
      isManual: this.byEye,
      isTaken: this.isTaken(opinion),
      lacksTemperature: this.lacksTemperature,
      isStale: stale,
      earlyReason,
      mostUncertain: (signal, temperature) => 0.8 * this.judged.signalWidth(this.preset.span, signal, temperature),
      source: this.source,
      trace: this.trace.points,
      signature: this.judge?.signature() ?? null,
    })
  }
}
