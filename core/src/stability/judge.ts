import { requireWithin } from '../quantities/outOfRange.ts'
import { normalCdf, Z95 } from '../statistics/normalDistribution.ts'
import { historyHypotheses, openHypotheses } from './hypotheses.ts'
import { HypothesisSet } from './hypothesisSet.ts'
import { PredictionTrend, TurningBack } from './movement.ts'
import { NoiseEstimate } from './noise.ts'
import type { Sample, StabilityJudge, StabilityOpinion, StabilityReason, StabilityState } from './opinion.ts'
import { onOwnClock, PacedJudge } from './pacedJudge.ts'
import type { StabilityPreset } from './presets.ts'
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
}

/** Probability that a normal error with this 95 % half-width stays within the target. */
function probabilityOf(target: number, halfWidth: number): number {
  return 2 * normalCdf((Z95 * target) / Math.max(halfWidth, 1e-12)) - 1
}

/** Quick scatter before any was seen, in units of the repeatability. */
const SCATTER_GUESS = 0.3
/** Bins out of line before a disturbance is believed to be a new state of affairs rather than a glitch. */
const BINS_TO_RESTART = 3
/** A bin this many standard deviations from every expectation is out of line. */
const OUT_OF_LINE = 5
/** Variance by which the end may wander per second, in repeatabilities squared. */
const END_WANDER = 0.0002
/** Share of the time so far for which the end must stay known before it is believed. */
const PERSISTENCE = 0.06
/** Slower creep than this does no harm, repeatabilities per minute. */
const HARMLESS_CREEP = 1
/** The end is not known while the chance of creeping is above this. */
const CREEP_RISK = 0.035
/**
 * What was known is given up only when half-width or chance of creeping rise above their limits by these factors, or
 * when it turns back by more than so many standard deviations: a verdict that comes and goes with every reading is gone
 * before a wet hand has pressed.
 */
const KEPT_WIDTH = 1.25
const KEPT_RISK = 3
const KEPT_TURNING = 2
/** A reading that turns back may go on for this long, s. */
const TURNED_FOR = 160
/** No shape is the electrode's own: stated half-widths are widened by this. Set by simulation. */
const MODEL_ERROR = 1.15
/** Bins of history for the pace at which the uncertainty shrinks. */
const PACE_MEMORY = 0.12

/**
 * A streaming judge of settling. It infers the end value from all shapes at once (see relaxation.ts), weighs them by
 * how well each foresaw the readings so far, and says `stable` when 95 % of what is believed about the end lies within
 * the wanted resolution of the prediction; never by a fixed time, and never because digits stand still.
 *
 * Example: const judge = stabilityJudge(PH_MILLIVOLTS); judge.push({ t: 0, value: -12.3 }).state
 *
 * @param past how this electrode settled at its earlier visits, oldest first
 */
export function stabilityJudge(preset: StabilityPreset, past: readonly SettlingSignature[] = []): StabilityJudge {
  const { pace = 1 } = preset
  return pace === 1
    ? new RelaxationJudge(preset, past)
    : new PacedJudge(new RelaxationJudge(onOwnClock(preset), past), pace)
}

class RelaxationJudge implements StabilityJudge {
  private readonly hypotheses: RelaxationHypothesis[]
  private beliefs: HypothesisSet | null = null
  private readonly noise: NoiseEstimate
  private readonly temperature: TemperatureWatch

  private startedAt = 0
  private firstAt = 0
  private lastAt = Number.NaN
  private lastBin: Bin | null = null
  private firstBinValue = 0
  private bins = 0
  private outOfLine: Bin[] = []
  private calmFrom = 0
  private restarts = 0
  private surprise = 1
  private pace = 1.3
  private lastHalfWidth = Number.NaN
  private stableNow = false
  private knownSince = Number.NaN
  private trend = new PredictionTrend()
  private turning = new TurningBack()

  private openedAt = 0
  private openTimes = 0
  private openValues = 0
  private openCount = 0

  private passed: number[] = []
  private belief: Belief | null = null
  private opinion: StabilityOpinion

  constructor(
    private readonly preset: StabilityPreset,
    past: readonly SettlingSignature[],
  ) {
    const own = historyHypotheses(preset, past)
    const openShare = own.length > 0 ? 0.35 : 1
    this.hypotheses = [
      ...openHypotheses(preset).map((h) => ({ ...h, weight: h.weight * openShare })),
      ...own.map((h) => ({ ...h, weight: h.weight * (1 - openShare) })),
    ]
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
      this.startedAt = t
      this.firstAt = t
      this.openedAt = t
      this.opinion = { ...this.opinion, predictedEnd: value }
    }
    this.lastAt = t
    if (sample.temperature !== undefined && Number.isFinite(sample.temperature))
      this.temperature.push(t, sample.temperature)
    if (this.noise.push(t, value)) this.collect(t, value)
    this.opinion = this.judge(t)
    return this.opinion
  }

  signature(): SettlingSignature | null {
    const elapsed = (this.lastBin?.t ?? 0) - this.startedAt
    const { belief, beliefs } = this
    if (!belief || !beliefs || this.restarts > 0 || this.bins < 12 || elapsed < 15) return null
    // A trace whose end was never known must not teach the next visit that creeping is how it settles.
    if (belief.halfWidth > 1.25 * belief.target) return null
    // The past part is as it was seen (kept when each time came by); what was not waited for is as now foreseen.
    const remaining = SIGNATURE_TIMES.map((t, i) => {
      const seen = this.passed[i]
      return seen !== undefined ? seen - belief.end : beliefs.remaining(t)
    })
    const jump = this.firstBinValue - belief.end
    if (Math.abs(jump) < this.preset.repeatability) return null
    return { shares: remaining.map((r) => r / jump), jump }
  }

  private loseSignal(t: number): StabilityOpinion {
    this.calmFrom = t + 3
    this.stableNow = false
    this.opinion = { ...this.opinion, state: 'disturbed', reason: 'signal-lost', secondsToGo: null }
    return this.opinion
  }

  /** Averages readings over bins that grow with time: the tail changes slowly, and the work stays small. */
  private collect(t: number, value: number): void {
    if (this.openCount === 0) this.openedAt = t
    this.openTimes += t - this.openedAt
    this.openValues += value
    this.openCount++
    const length = Math.min(8, Math.max(1, (t - this.startedAt) / 40))
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
    const { beliefs, lastBin: previous } = this
    if (!beliefs || !previous) {
      this.restart(bin)
      return
    }
    const seconds = bin.t - previous.t
    beliefs.advance(bin.t - this.startedAt, seconds, END_WANDER * this.preset.repeatability ** 2 * seconds)

    // Within a bin, and between a reading and its time stamp, the value moves on by an unknown part of its pace.
    const movement = (bin.value - previous.value) / seconds
    const variance = bin.noiseVariance + (0.06 * movement) ** 2
    const expected = beliefs.predict()
    const surprise = (bin.value - expected.mean) ** 2 / (expected.variance + variance)
    const glitch =
      this.bins >= 6 &&
      surprise > OUT_OF_LINE ** 2 &&
      Math.abs(bin.value - expected.mean) > 2 * this.preset.repeatability
    this.lastBin = { ...previous, t: bin.t }
    if (glitch) {
      this.outOfLine.push(bin)
      this.calmFrom = bin.t + 6
      if (this.outOfLine.length >= BINS_TO_RESTART) {
        const pending = this.outOfLine
        this.restarts++
        this.restart(pending[0] as Bin)
        for (const later of pending.slice(1)) this.take(later)
      }
      return
    }
    this.outOfLine = []
    this.lastBin = bin
    this.bins++
    this.surprise += 0.15 * (Math.min(surprise, 16) - this.surprise)
    beliefs.update(bin.value, expected.each, variance)
    this.keepPassed(previous, bin)
    // The first seconds say nothing of the tail.
    if (this.bins >= 8) beliefs.prune()
    this.belief = this.believe(beliefs, bin)
  }

  private restart(bin: Bin): void {
    this.startedAt = bin.t
    this.lastBin = bin
    this.firstBinValue = bin.value
    this.bins = 1
    this.outOfLine = []
    this.surprise = 1
    this.lastHalfWidth = Number.NaN
    this.stableNow = false
    this.knownSince = Number.NaN
    this.trend = new PredictionTrend()
    this.turning = new TurningBack()
    this.passed = []
    this.beliefs = new HypothesisSet(this.hypotheses, bin.value, this.preset.span, bin.noiseVariance)
    this.belief = this.believe(this.beliefs, bin)
  }

  /** Keeps the value at each signature time that lies between two bins. */
  private keepPassed(from: Bin, to: Bin): void {
    for (;;) {
      const at = SIGNATURE_TIMES[this.passed.length]
      const elapsed = to.t - this.startedAt
      if (at === undefined || at > elapsed) return
      const share = (at - (from.t - this.startedAt)) / (to.t - from.t)
      this.passed.push(from.value + Math.max(0, share) * (to.value - from.value))
    }
  }

  /** What is held about the end after this bin. */
  private believe(beliefs: HypothesisSet, bin: Bin): Belief {
    const { repeatability, resolution } = this.preset
    const display = this.noise.displayVariance()
    const elapsed = bin.t - this.startedAt
    const target = Math.max(resolution, 1.2 * Math.sqrt(3 * display))
    const {
      end,
      halfWidth: spread,
      creepRisk,
    } = beliefs.believe(display, (HARMLESS_CREEP * repeatability) / 60, target)
    const halfWidth = Math.hypot(
      MODEL_ERROR * spread,
      this.trend.push(elapsed, end, this.bins >= 6),
      TURNED_FOR * this.turning.push(bin, elapsed, this.firstBinValue, end, this.stableNow ? KEPT_TURNING : 0),
    )
    const rate = beliefs.remaining(elapsed + 0.5) - beliefs.remaining(Math.max(0, elapsed - 0.5))
    return { end, halfWidth, target, rate, creepRisk, confidence: 100 * probabilityOf(target, halfWidth) }
  }

  private judge(t: number): StabilityOpinion {
    const { belief } = this
    if (!belief) return this.opinion
    const elapsed = t - this.startedAt
    const { end, halfWidth, target, rate, confidence } = belief
    this.learnPace(elapsed, halfWidth)

    const [width, risk] = this.stableNow ? [KEPT_WIDTH * target, KEPT_RISK * CREEP_RISK] : [target, CREEP_RISK]
    if (halfWidth > width || belief.creepRisk > risk) this.knownSince = Number.NaN
    else if (Number.isNaN(this.knownSince)) this.knownSince = t
    // One lucky moment is not knowledge: it has to last a little.
    const known = t - this.knownSince >= Math.max(2, PERSISTENCE * elapsed)
    const { state, reason } = this.verdict(t, elapsed, known, rate)
    this.stableNow = state === 'stable'
    const secondsToGo = this.secondsToGo(elapsed, halfWidth / target, state)
    return {
      state,
      reason,
      elapsed,
      driftPerMinute: rate * 60,
      noise: this.noise.scatter,
      predictedEnd: end,
      predictedEndUncertainty: halfWidth,
      secondsToGo,
      confidence,
      nextReadingIn: Math.min(60, Math.max(5, Math.min(elapsed * 0.35, secondsToGo ?? 60))),
    }
  }

  private verdict(
    t: number,
    elapsed: number,
    known: boolean,
    rate: number,
  ): { state: StabilityState; reason: StabilityReason } {
    const { preset } = this
    if (t - this.firstAt > 2 * preset.limitSeconds || (elapsed > preset.limitSeconds && !this.stableNow)) {
      return { state: 'unsettled', reason: 'time-limit' }
    }
    if (this.outOfLine.length > 0 || t < this.calmFrom) return { state: 'disturbed', reason: 'jump' }
    if (this.surprise > 4.5 && this.bins > 8) return { state: 'disturbed', reason: 'noise' }
    if (elapsed < preset.minimumSeconds || this.bins < Math.min(8, 3 + preset.minimumSeconds / this.noise.interval)) {
      return { state: 'settling', reason: 'starting' }
    }
    if (!known) {
      const moving = Math.abs(rate) * 20 > preset.resolution
      return { state: 'settling', reason: moving ? 'value-moving' : 'end-uncertain' }
    }
    if (!this.temperature.settled) return { state: 'settling', reason: 'temperature-moving' }
    return { state: 'stable', reason: 'known' }
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
    if (state === 'stable') return 0
    if (state === 'unsettled' || state === 'disturbed' || elapsed < 5) return null
    const byValue = ratio > 1 ? elapsed * (ratio ** (1 / Math.max(0.4, this.pace)) - 1) : 0
    const left = Math.max(byValue, this.preset.minimumSeconds - elapsed, this.temperature.secondsToGo, 1)
    return elapsed + left > this.preset.limitSeconds ? null : left
  }
}
