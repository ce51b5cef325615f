import { requireWithin } from '../quantities/outOfRange.ts'
import { normalCdf, Z95 } from '../statistics/normalDistribution.ts'
import { historyHypotheses, openHypotheses } from './hypotheses.ts'
import { type CreepBelief, HypothesisSet } from './hypothesisSet.ts'
import { PredictionTrend, PresentPace, TurningBack } from './movement.ts'
import { NoiseEstimate } from './noise.ts'
import type { Sample, StabilityJudge, StabilityOpinion, StabilityReason, StabilityState } from './opinion.ts'
import { onOwnClock, PacedJudge } from './pacedJudge.ts'
import { harmlessCreep, type StabilityPreset, spanningFrom } from './presets.ts'
import type { RelaxationHypothesis } from './relaxation.ts'
import { type SettlingSignature, SIGNATURE_TIMES } from './settlingSignature.ts'
import { TemperatureWatch } from './temperatureWatch.ts'

interface Bin {
  t: number
  value: number
  noiseVariance: number
}

interface Belief {
  end: number
  halfWidth: number
  /** The half-width wanted, or what the display's last digit allows. */
  target: number
  rate: number
  confidence: number
  /** Probability that the reading never comes to rest. */
  creepRisk: number
  /** Whether it does not visibly move now. */
  atRest: boolean
  /** What is held if it does not, where that is far the likelier. */
  creep: CreepBelief | null
}

/** What is known since one change of solution. */
interface Stretch {
  startedAt: number
  firstValue: number
  lastBin: Bin
  bins: number
  surprise: number
  beliefs: HypothesisSet
  trend: PredictionTrend
  turning: TurningBack
  moving: PresentPace
  /** The value at each signature time that came by. */
  passed: number[]
  belief: Belief
}

/** Belief that an electrode with a past may settle like any other today. */
const OPEN_SHARE = 0.6
/** s, by which a stretch that is taken up again stands before the bin that it takes next. */
const RESUMED_BEFORE = 0.1

/** Probability that a normal error with this 95 % half-width stays within the target. */
function probabilityOf(target: number, halfWidth: number): number {
  return 2 * normalCdf((Z95 * target) / Math.max(halfWidth, 1e-12)) - 1
}

/** Quick scatter before any was seen, in units of the repeatability. */
const SCATTER_GUESS = 0.3
/** s; shorter at first. */
const LONGEST_BIN = 15
/** Bins out of line before a disturbance is believed to be a new state of affairs rather than a glitch. */
const BINS_TO_RESTART = 3
/** A bin this many standard deviations from every expectation is out of line. */
const OUT_OF_LINE = 5
/** So many bins in line with what was foreseen before a disturbance take up again what was known then, within so long, s. */
const BINS_TO_RESUME = 3
const IN_LINE = 3
const RESUME_WITHIN = 90
/** Variance by which the end may wander per second, in repeatabilities squared. */
const END_WANDER = 0.0002
/** Share of the time so far for which the end must stay known before it is believed. */
const PERSISTENCE = 0.06
/** Creep is not excluded while its chance is above this. Set by simulation: see docs/decisions/001. */
const CREEP_RISK = 0.06
/** From this chance on it is taken to creep. */
const CREEPS = 0.5
/** From this chance on it is said to creep, however slowly. */
const SURELY_CREEPS = 0.75
/** What creeps is offered for so long, s, in which it changes by less than what is wanted. */
const CREEP_AHEAD = 120
/**
 * What was known is given up only when half-width or chance of creeping rise above their limits by these factors, or
 * when it turns back by more than so many standard deviations: a verdict that comes and goes with every reading is gone
 * before a wet hand has pressed.
 */
const KEPT_WIDTH = 1.25
const KEPT_RISK = 2
const KEPT_TURNING = 2
/** A reading that turns back may go on for this long, s. */
const TURNED_FOR = 160
/** No spectrum is the electrode's own: stated half-widths are widened by this. Set by simulation. */
const MODEL_ERROR = 1.2
/** Bins of history for the pace at which the uncertainty shrinks. */
const PACE_MEMORY = 0.12
/** Within a bin, and between a reading and its time stamp, the value moves on by an unknown part of its pace, s. */
const MOVED_WITHIN = 0.06
/** When the solution was exchanged is not known to the second: no spectrum foresees the fall closer than that, s. */
const START_UNKNOWN = 0.5

/**
 * A streaming judge of settling. It infers the end value from many spectra at once (see relaxation.ts), weighs them by
 * how well each foresaw the readings so far, and says `known` when 95 % of what is believed about the end lies within
 * the wanted resolution of the prediction, `stable` when it is also known to come to rest; never by a fixed time, and
 * never because digits stand still.
 *
 * Example: const judge = stabilityJudge(PH_MILLIVOLTS); judge.push({ t: 0, value: -12.3 }).state
 *
 * @param past how this electrode settled at its earlier visits, oldest first
 */
export function stabilityJudge(preset: StabilityPreset, past: readonly SettlingSignature[] = []): StabilityJudge {
  const { pace = 1 } = preset
  return pace === 1
    ? new RelaxationJudge(preset, past)
    : new PacedJudge(new RelaxationJudge(onOwnClock(preset), past, CREEP_AHEAD / pace), pace)
}

class RelaxationJudge implements StabilityJudge {
  private readonly noise: NoiseEstimate
  private readonly temperature: TemperatureWatch

  private firstAt = 0
  private lastAt = Number.NaN
  private now: Stretch | null = null
  /** What was known before a disturbance, and since when it lies aside. */
  private before: { stretch: Stretch; since: number; inLine: number } | null = null
  private outOfLine: Bin[] = []
  private calmFrom = 0
  private pace = 1.3
  private lastHalfWidth = Number.NaN
  /** Since when the end, rest and a slow creep are known without a break; NaN while they are not. */
  private knownSince = Number.NaN
  private restSince = Number.NaN
  private creepSince = Number.NaN

  private openedAt = 0
  private openTimes = 0
  private openValues = 0
  private openCount = 0

  private opinion: StabilityOpinion

  constructor(
    private readonly preset: StabilityPreset,
    private readonly past: readonly SettlingSignature[],
    /** CREEP_AHEAD on its own clock. */
    private readonly ahead = CREEP_AHEAD,
  ) {
    this.noise = new NoiseEstimate(SCATTER_GUESS * preset.repeatability)
    this.temperature = new TemperatureWatch(preset.temperatureTolerance)
    this.opinion = {
      state: 'settling',
      reason: 'starting',
      elapsed: 0,
      driftPerMinute: 0,
      noise: 0,
      predictedEnd: 0,
      predictedEndUncertainty: preset.span,
      predictedTemperature: null,
      secondsToGo: null,
      confidence: 0,
      nextReadingIn: 5,
    }
  }

  push(sample: Sample): StabilityOpinion {
    const { t, value } = sample
    requireWithin('Time of a reading', t, -1e15, 1e15, 's')
    if (t <= this.lastAt) return this.opinion
    if (value === null || !Number.isFinite(value)) return this.loseSignal(t)
    if (Number.isNaN(this.lastAt)) {
      this.firstAt = t
      this.openedAt = t
      this.opinion = { ...this.opinion, predictedEnd: value }
    }
    this.lastAt = t
    if (sample.temperature !== undefined && Number.isFinite(sample.temperature))
      this.temperature.push(t, sample.temperature)
    if (this.noise.push(t, value)) this.collect(t, value)
    if (this.now) this.opinion = this.judge(t, this.now)
    return this.opinion
  }

  signature(): SettlingSignature | null {
    const { now } = this
    if (!now || now.bins < 12 || now.lastBin.t - now.startedAt < 15) return null
    const { belief, beliefs, passed, firstValue } = now
    // A trace whose end was never known must not teach the next visit that creeping is how it settles.
    if (belief.halfWidth > 1.25 * belief.target || belief.creep !== null) return null
    // The past part is as it was seen (kept when each time came by); what was not waited for is as now foreseen.
    const remaining = SIGNATURE_TIMES.map((t, i) => {
      const seen = passed[i]
      return seen !== undefined ? seen - belief.end : beliefs.remaining(t)
    })
    const jump = firstValue - belief.end
    if (Math.abs(jump) < this.preset.repeatability) return null
    return { shares: remaining.map((r) => r / jump), jump, rested: isOn(this.restSince) }
  }

  private loseSignal(t: number): StabilityOpinion {
    this.calmFrom = t + 3
    // Nobody saw what happened meanwhile: what was known has to last anew.
    this.knownSince = this.restSince = this.creepSince = Number.NaN
    this.opinion = { ...this.opinion, state: 'disturbed', reason: 'signal-lost', secondsToGo: null }
    return this.opinion
  }

  /** Averages readings over bins that grow with time: the tail changes slowly, and the work stays small. */
  private collect(t: number, value: number): void {
    if (this.openCount === 0) this.openedAt = t
    this.openTimes += t - this.openedAt
    this.openValues += value
    this.openCount++
    const length = Math.min(LONGEST_BIN, Math.max(1, (t - (this.now?.startedAt ?? this.firstAt)) / 40))
    if (t - this.openedAt < length - 1.01 * this.noise.interval) return
    const n = this.openCount
    const bin = {
      t: this.openedAt + this.openTimes / n,
      value: this.openValues / n,
      noiseVariance: this.noise.varianceOfMean(n),
    }
    this.openTimes = this.openValues = this.openCount = 0
    this.take(bin)
  }

  private take(bin: Bin): void {
    if (this.before) this.lookBack(bin, this.before)
    const { now } = this
    if (!now) {
      this.restart(bin)
      return
    }
    const previous = now.lastBin
    const expected = this.foresee(now, bin)
    const movement = (bin.value - previous.value) / (bin.t - previous.t)
    const off = bin.value - expected.mean
    const surprise = off ** 2 / (expected.variance + bin.noiseVariance + (MOVED_WITHIN * movement) ** 2)
    const glitch = now.bins >= 6 && surprise > OUT_OF_LINE ** 2 && Math.abs(off) > 2 * this.preset.repeatability
    if (glitch) {
      this.outOfLine.push(bin)
      this.calmFrom = bin.t + 6
      if (this.outOfLine.length >= BINS_TO_RESTART) {
        const [first, ...later] = this.outOfLine as [Bin, ...Bin[]]
        // What a bubble shows while it is there is not what one comes back to.
        this.before ??= { stretch: now, since: bin.t, inLine: 0 }
        this.restart(first)
        for (const next of later) this.take(next)
      }
      return
    }
    this.outOfLine = []
    now.bins++
    now.surprise += 0.15 * (Math.min(surprise, 16) - now.surprise)
    now.beliefs.update(bin.value, expected.each, bin.noiseVariance + (START_UNKNOWN * movement) ** 2)
    now.lastBin = bin
    keepPassed(now, previous, bin)
    // The first seconds say nothing of the tail.
    if (now.bins >= 8) now.beliefs.prune()
    now.belief = this.believe(now)
  }

  /** Lets time pass to the bin; its value is not looked at. */
  private foresee(stretch: Stretch, bin: Bin) {
    const seconds = bin.t - stretch.lastBin.t
    stretch.lastBin = { ...stretch.lastBin, t: bin.t }
    stretch.beliefs.advance(bin.t - stretch.startedAt, seconds, END_WANDER * this.preset.repeatability ** 2 * seconds)
    return stretch.beliefs.predict()
  }

  /** After a bubble the reading is where it would have been without: then what was known is taken up again. */
  private lookBack(bin: Bin, before: NonNullable<typeof this.before>): void {
    const expected = this.foresee(before.stretch, bin)
    const inLine = (bin.value - expected.mean) ** 2 <= IN_LINE ** 2 * (expected.variance + bin.noiseVariance)
    before.inLine = inLine ? before.inLine + 1 : 0
    if (before.inLine < BINS_TO_RESUME && bin.t - before.since < RESUME_WITHIN) return
    this.before = null
    if (before.inLine < BINS_TO_RESUME) return
    const { stretch } = before
    // The bin is taken next: time has come to just before it.
    stretch.lastBin = { ...stretch.lastBin, value: bin.value, t: bin.t - RESUMED_BEFORE }
    this.now = stretch
    this.outOfLine = []
  }

  private hypothesesOf(preset: StabilityPreset): RelaxationHypothesis[] {
    const own = historyHypotheses(preset, this.past)
    const openShare = own.length > 0 ? OPEN_SHARE : 1
    return [
      ...openHypotheses(preset).map((h) => ({ ...h, weight: h.weight * openShare })),
      ...own.map((h) => ({ ...h, weight: h.weight * (1 - openShare) })),
    ]
  }

  private restart(bin: Bin): void {
    const preset = spanningFrom(this.preset, bin.value)
    const beliefs = new HypothesisSet(this.hypothesesOf(preset), bin.value, preset.span, bin.noiseVariance)
    const begun = {
      startedAt: bin.t,
      firstValue: bin.value,
      lastBin: bin,
      bins: 1,
      surprise: 1,
      beliefs,
      trend: new PredictionTrend(),
      turning: new TurningBack(),
      moving: new PresentPace(),
      passed: [],
    }
    this.now = { ...begun, belief: this.believe(begun) }
    this.outOfLine = []
    this.lastHalfWidth = Number.NaN
    this.knownSince = this.restSince = this.creepSince = Number.NaN
  }

  /** What is held about the end after the last bin. */
  private believe(stretch: Omit<Stretch, 'belief'>): Belief {
    const { beliefs, lastBin, startedAt, firstValue, bins } = stretch
    const { resolution } = this.preset
    const display = this.noise.displayVariance()
    const elapsed = lastBin.t - startedAt
    const target = Math.max(resolution, 1.2 * Math.sqrt(3 * display))
    const harmless = harmlessCreep(this.preset)
    const held = beliefs.believe(elapsed, display, harmless, target)
    const { end, creepRisk, creeps } = held
    const doubt = Number.isNaN(this.knownSince) ? 0 : KEPT_TURNING
    const halfWidth = Math.hypot(
      MODEL_ERROR * held.halfWidth,
      stretch.trend.push(elapsed, end, bins >= 6),
      TURNED_FOR * stretch.turning.push(lastBin, elapsed, firstValue, end, doubt),
    )
    const rate = beliefs.remaining(elapsed + 0.5) - beliefs.remaining(Math.max(0, elapsed - 0.5))
    const atRest = stretch.moving.push(lastBin, elapsed, harmless)
    const creep = creeps > SURELY_CREEPS ? beliefs.creep(elapsed, display, target) : null
    return {
      end,
      halfWidth,
      target,
      rate,
      creepRisk,
      atRest,
      creep,
      confidence: 100 * probabilityOf(target, halfWidth),
    }
  }

  private judge(t: number, now: Stretch): StabilityOpinion {
    const { belief, startedAt } = now
    const elapsed = t - startedAt
    const { end, halfWidth, target, rate, confidence, creep } = belief
    this.learnPace(elapsed, halfWidth)
    this.keepTime(t, belief)
    const { state, reason } = this.verdict(t, elapsed, now)
    const offered =
      state === 'creeping' && creep
        ? {
            predictedEnd: creep.level + (creep.pace * this.ahead) / 2,
            predictedEndUncertainty: aheadOf(creep, this.ahead),
          }
        : { predictedEnd: end, predictedEndUncertainty: halfWidth }
    const secondsToGo = this.secondsToGo(elapsed, halfWidth / target, state)
    return {
      state,
      reason,
      elapsed,
      ...(isOn(this.knownSince) ? { knownAfter: this.knownSince - startedAt } : {}),
      driftPerMinute: (state === 'creeping' && creep ? creep.pace : rate) * 60,
      noise: this.noise.scatter,
      ...offered,
      predictedTemperature: this.temperature.end,
      secondsToGo,
      confidence,
      nextReadingIn: Math.min(60, Math.max(5, Math.min(elapsed * 0.35, secondsToGo ?? 60))),
    }
  }

  /** Since when each of them holds. */
  private keepTime(t: number, { halfWidth, target, creepRisk, creep, atRest }: Belief): void {
    const known = halfWidth <= (isOn(this.knownSince) ? KEPT_WIDTH : 1) * target
    const rests = creepRisk <= (isOn(this.restSince) ? KEPT_RISK : 1) * CREEP_RISK
    const kept = isOn(this.creepSince) ? KEPT_WIDTH : 1
    const slow =
      creep !== null &&
      Math.abs(creep.pace) * this.ahead <= kept * this.preset.resolution &&
      aheadOf(creep, this.ahead) <= kept * target
    this.knownSince = heldSince(t, this.knownSince, known && creepRisk <= CREEPS)
    this.restSince = heldSince(t, this.restSince, known && rests && atRest && creep === null)
    this.creepSince = heldSince(t, this.creepSince, slow)
  }

  private verdict(t: number, elapsed: number, now: Stretch): { state: StabilityState; reason: StabilityReason } {
    const { preset } = this
    // One lucky moment is not knowledge: it has to last a little.
    const until = t - Math.max(2, PERSISTENCE * elapsed)
    const taken = this.knownSince <= until || this.creepSince <= until
    if (t - this.firstAt > 2 * preset.limitSeconds || (elapsed > preset.limitSeconds && !taken)) {
      return { state: 'unsettled', reason: 'time-limit' }
    }
    if (this.outOfLine.length > 0 || t < this.calmFrom) return { state: 'disturbed', reason: 'jump' }
    if (now.surprise > 4.5 && now.bins > 8) return { state: 'disturbed', reason: 'noise' }
    if (elapsed < preset.minimumSeconds || now.bins < Math.min(8, 3 + preset.minimumSeconds / this.noise.interval)) {
      return { state: 'settling', reason: 'starting' }
    }
    if (!taken) {
      const moving = Math.abs(now.belief.rate) * 20 > preset.resolution
      return { state: 'settling', reason: moving ? 'value-moving' : 'end-uncertain' }
    }
    if (!this.temperature.foreseen) return { state: 'settling', reason: 'temperature-moving' }
    if (this.restSince <= until) return { state: 'stable', reason: 'known' }
    return this.creepSince <= until
      ? { state: 'creeping', reason: 'slow-creep' }
      : { state: 'known', reason: 'rest-open' }
  }

  /** The uncertainty shrinks about as a power of time; the exponent is learnt as it goes. */
  private learnPace(elapsed: number, halfWidth: number): void {
    if (elapsed > 4 && this.lastHalfWidth > 0 && halfWidth > 0) {
      const step = Math.log(elapsed / (elapsed - Math.min(1, elapsed / 2)))
      const exponent = Math.log(this.lastHalfWidth / halfWidth) / step
      if (exponent !== 0) this.pace += PACE_MEMORY * (Math.min(4, Math.max(0, exponent)) - this.pace)
    }
    this.lastHalfWidth = halfWidth
  }

  private secondsToGo(elapsed: number, ratio: number, state: StabilityState): number | null {
    if (state === 'stable' || state === 'creeping' || state === 'known') return 0
    if (state === 'unsettled' || state === 'disturbed' || elapsed < 5) return null
    const byValue = ratio > 1 ? elapsed * (ratio ** (1 / Math.max(0.4, this.pace)) - 1) : 0
    const left = Math.max(byValue, this.preset.minimumSeconds - elapsed, this.temperature.secondsToGo, 1)
    return elapsed + left > this.preset.limitSeconds ? null : left
  }
}

const isOn = (since: number): boolean => !Number.isNaN(since)

/** Since when something holds that held since `before`, or not. */
const heldSince = (t: number, before: number, holds: boolean): number =>
  holds ? (isOn(before) ? before : t) : Number.NaN

/** Half-width that holds for so many seconds, around where it will be in the middle of them. */
const aheadOf = (creep: CreepBelief, seconds: number): number =>
  MODEL_ERROR * creep.halfWidth + (creep.fastest * seconds) / 2

/** Keeps the value at each signature time that lies between two bins. */
function keepPassed({ startedAt, passed }: Stretch, from: Bin, to: Bin): void {
  for (;;) {
    const at = SIGNATURE_TIMES[passed.length]
    if (at === undefined || at > to.t - startedAt) return
    const share = (at - (from.t - startedAt)) / (to.t - from.t)
    passed.push(from.value + Math.max(0, share) * (to.value - from.value))
  }
}
