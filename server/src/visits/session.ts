import type { CapturedReading, VisitLive } from '@frustum/contract'
import {
  CAPTURE_STEPS,
  type Finding,
  findWrongStandard,
  millivoltsBehindDisplay,
  millivoltsToPh,
  nernstSlope,
  OutOfRange,
  type PhCharacteristic,
  type PhStepKey,
  type PhTable,
  phBufferValue,
  phToMillivolts,
  type SettlingSignature,
  STABILITY_PRESETS,
  type StabilityJudge,
  type StabilityOpinion,
  stabilityJudge,
} from '@frustum/core'
import type { LinkReading } from '../links/link.ts'
import { STALE_AFTER_MS } from '../links/liveValues.ts'
import { Problem } from '../problem.ts'

export interface StepSetting {
  step: PhStepKey | null
  /** The standard in the cup, when the step has one. */
  standard: NonNullable<CapturedReading['standard']> | null
  lotTable: PhTable | undefined
  /** Other standards on the table, among which a wrong cup may be. */
  others: readonly string[]
  /** What the device reckons with. */
  device: PhCharacteristic
  lastFound: PhCharacteristic | null
  past: readonly SettlingSignature[]
  shows: 'millivolt' | 'value'
  linked: boolean
}

/** A sensor that moved by this much, mV, since the step began has been put somewhere else. */
const MOVED_MV = 9
/** One that is this near to what the step expects, mV (about 0.3 pH), was there already. */
const THERE_MV = 18
/** Points of the trace kept for the screen; older ones are thinned out. */
const TRACE_LIMIT = 1200
/** Steps into which the sensor is moved from somewhere else. */
const MOVES: readonly PhStepKey[] = ['found-buffer', 'first-buffer', 'second-buffer', 'verify', 'back']

/** The live side of one visit's step: the trace, the judge, and what they say now. Nothing in here is a record. */
export class StepSession {
  readonly startedAt = Date.now()
  private readonly judge: StabilityJudge | null
  private trace: [number, number][] = []
  private latest: LinkReading | null = null
  private opinion: StabilityOpinion | null = null
  private firstMillivolts = Number.NaN
  private arrived: boolean

  constructor(readonly setting: StepSetting) {
    const { step, past } = setting
    const captures = step !== null && CAPTURE_STEPS.includes(step)
    const inPh = this.unit === 'pH'
    this.judge = captures
      ? stabilityJudge(inPh ? STABILITY_PRESETS.phValue : STABILITY_PRESETS.phMillivolts, past)
      : null
    // The process moves by itself, and typed readings are looked at by the one who types: both are there already.
    this.arrived = !setting.linked || step === null || !MOVES.includes(step) || step === 'back'
  }

  get unit(): 'mV' | 'pH' {
    return !this.setting.linked && this.setting.shows === 'value' ? 'pH' : 'mV'
  }

  /** A reading from the line, in the order of their times. */
  take(reading: LinkReading): void {
    this.latest = reading
    if (Number.isNaN(this.firstMillivolts)) this.firstMillivolts = reading.millivolts
    if (!this.arrived) this.arrived = this.hasArrived(reading)
    this.push((reading.at - this.startedAt) / 1000, reading.millivolts, reading.temperature)
  }

  /** A reading typed by hand, in the unit that the device shows. */
  takeTyped(at: number, value: number, temperature: number, firstAt: number): void {
    const { device, shows } = this.setting
    const millivolts = shows === 'value' ? millivoltsBehindDisplay(value, temperature, device) : value
    const shown = shows === 'value' ? value : millivoltsToPh(value, temperature, device)
    this.latest = { at, millivolts, temperature, shown }
    this.push((at - firstAt) / 1000, value, temperature)
  }

  private push(t: number, value: number, temperature: number): void {
    if (!this.judge) return
    this.opinion = this.judge.push({ t, value, temperature })
    this.trace.push([Math.round(t * 100) / 100, value])
    if (this.trace.length > TRACE_LIMIT) {
      const half = this.trace.length / 2
      this.trace = this.trace.filter((_, i) => i > half || i % 2 === 0)
    }
  }

  private hasArrived(reading: LinkReading): boolean {
    if (Math.abs(reading.millivolts - this.firstMillivolts) > MOVED_MV) return true
    const expected = this.expectedMillivolts(reading.temperature)
    return expected !== null && Math.abs(reading.millivolts - expected) < THERE_MV
  }

  private expectedMillivolts(temperature: number): number | null {
    const value = this.bufferValue(temperature)
    return value === null ? null : phToMillivolts(value, temperature, this.setting.lastFound ?? this.setting.device)
  }

  private bufferValue(temperature: number): number | null {
    const { standard, lotTable } = this.setting
    if (!standard) return null
    try {
      return phBufferValue(standard.code, temperature, lotTable)
    } catch (error) {
      if (error instanceof OutOfRange) return null
      throw error
    }
  }

  /** A cup that holds another standard than the step says. */
  private finding(): Finding | null {
    const { setting, latest, opinion } = this
    if (!setting.standard || !latest || !opinion || opinion.confidence < 30) return null
    const millivolts = this.unit === 'mV' ? opinion.predictedEnd : latest.millivolts
    return findWrongStandard(
      { bufferCode: setting.standard.code, millivolts, millivoltsUncertainty: 1, temperature: latest.temperature },
      setting.others,
      setting.lastFound ?? setting.device,
    )
  }

  /** The opinion with what the step knows besides: a sensor that has not moved is not settled in its new cup. */
  private stepOpinion(): StabilityOpinion | null {
    const { opinion } = this
    if (!opinion || this.arrived || opinion.state !== 'stable') return opinion
    return { ...opinion, state: 'settling', reason: 'starting', secondsToGo: null, confidence: 0 }
  }

  message(blindSince: number | null, revision: number, standIn: VisitLive['standIn'], wholeTrace: boolean): VisitLive {
    const { latest, setting } = this
    const last = this.trace.at(-1)
    return {
      step: setting.step,
      at: latest?.at ?? Date.now(),
      blindSince,
      millivolts: latest?.millivolts ?? null,
      ph: latest?.shown ?? null,
      temperature: latest?.temperature ?? null,
      unit: this.unit,
      opinion: this.stepOpinion(),
      trace: wholeTrace ? this.trace : last ? [last] : [],
      fresh: wholeTrace,
      finding: this.finding(),
      arrived: this.arrived,
      bufferValue: latest ? this.bufferValue(latest.temperature) : null,
      revision,
      standIn,
    }
  }

  /**
   * The reading to keep now.
   * @throws Problem when there is none, when it is stale, or when it is not stable and no reason is given
   */
  capture(earlyReason: string | undefined, now = Date.now()): CapturedReading {
    const { latest, setting } = this
    const opinion = this.stepOpinion()
    if (!latest || !opinion) {
      throw new Problem(409, 'no-reading', 'There is no reading yet.', {
        hint: setting.linked ? 'Wait for the device to answer.' : 'Type what the device shows.',
      })
    }
    if (setting.linked && now - latest.at > STALE_AFTER_MS) {
      throw new Problem(409, 'blind', 'The device has not answered for a while; its last value is too old to keep.', {
        detail: 'All points taken so far are kept.',
        hint: 'Check the line. The step goes on by itself when the device answers.',
      })
    }
    const finding = this.finding()
    if ((opinion.state !== 'stable' || finding?.severity === 'stop') && !earlyReason) {
      throw new Problem(409, 'not-stable', finding?.sentence ?? 'The reading is not stable yet.', {
        hint: finding?.advice ?? 'Wait, or take it now with a reason.',
      })
    }
    const settled = opinion.confidence > 20
    const value = settled ? opinion.predictedEnd : (this.trace.at(-1)?.[1] ?? opinion.predictedEnd)
    const inPh = this.unit === 'pH'
    const millivolts = inPh ? millivoltsBehindDisplay(value, latest.temperature, setting.device) : value
    const shown = inPh ? value : millivoltsToPh(value, latest.temperature, setting.device)
    const scale = inPh ? setting.device.slopeEfficiency * nernstSlope(latest.temperature) : 1
    const bufferValue = this.bufferValue(latest.temperature)
    if (setting.standard && bufferValue === null) {
      throw new Problem(
        409,
        'temperature-outside',
        `At ${latest.temperature.toFixed(1)} °C this buffer has no known value.`,
        {
          hint: 'Bring the buffer to between 0 and 50 °C, or check the temperature input.',
        },
      )
    }
    return {
      millivolts,
      millivoltsUncertainty: Math.min(200, opinion.predictedEndUncertainty * scale),
      temperature: latest.temperature,
      shown,
      stability: {
        state: opinion.state,
        reason: opinion.reason,
        seconds: Math.round(opinion.elapsed),
        confidence: Math.round(opinion.confidence),
      },
      ...(earlyReason ? { earlyReason } : {}),
      trace: thinned(this.trace, 80),
      signature: this.judge?.signature() ?? null,
      ...(setting.standard && bufferValue !== null ? { standard: { ...setting.standard, value: bufferValue } } : {}),
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
