import { nernstSlope } from '../electrode/nernst.ts'
import { ISOTHERMAL_PH } from '../electrode/phElectrode.ts'
import type { RandomStream } from '../statistics/random.ts'

/** What a solution is to an electrode. */
export interface SolutionTruth {
  ph: number
  temperature: number
}

/** The state of a simulated electrode: what only the simulator knows. */
export interface ElectrodeTruth {
  /** mV at pH 7. */
  zero: number
  /** 1 for an ideal electrode. */
  slopeEfficiency: number
  /** First stage of the response, s. */
  fastTime: number
  /** Second stage: its share of a jump and its time, s. It falls off as 1 / (1 + t/time)^2. */
  slowShare: number
  slowTime: number
  /** Quick scatter, mV. */
  noise: number
  /** Last digit of the transmitter, mV. */
  step: number
  /** Offset by a dirt layer, mV; cleaning removes it. */
  coating: number
}

export interface ElectrodeFaults {
  bubble: boolean
  cableNoise: boolean
  /** The bulb is cracked or the plug is out: the signal says nothing of the solution. */
  dead: boolean
}

export const NO_FAULTS: ElectrodeFaults = { bubble: false, cableNoise: false, dead: false }

export interface SimulatedReading {
  millivolts: number
  temperature: number
}

/** A sensor body follows the temperature of its solution with this lag, s. */
const TEMPERATURE_LAG = 18
/** Share of the solution before that comes along on an unrinsed electrode. */
const CARRY_OVER = 0.004

/**
 * A pH electrode that can be dipped into solutions and read at any later moment. Two-stage response from the signal it
 * had at the moment of dipping, lagging temperature, carry-over, noise, quantisation, faults.
 * Time is the caller's, in seconds; it must not run backwards.
 */
export class PhElectrodeSimulation {
  faults: ElectrodeFaults = { ...NO_FAULTS }
  private dippedAt: number
  private signalAtDip: number
  private temperatureAtDip: number
  private effectivePh: number
  private bubbleAt = Number.NaN
  private mains = 0

  constructor(
    public truth: ElectrodeTruth,
    private solution: SolutionTruth,
    private readonly random: RandomStream,
    now = 0,
  ) {
    this.dippedAt = now - 3600
    this.effectivePh = solution.ph
    this.temperatureAtDip = solution.temperature
    this.signalAtDip = this.restingSignal(solution.temperature)
  }

  /** Moves the electrode into another solution. Rinsed on the way or not decides what is carried over. */
  dip(solution: SolutionTruth, now: number, rinsed = true): void {
    const before = this.clean(now)
    this.signalAtDip = before.millivolts
    this.temperatureAtDip = before.temperature
    const carried = rinsed ? 0 : CARRY_OVER * (this.solution.ph - solution.ph)
    this.solution = solution
    this.effectivePh = solution.ph + carried
    this.dippedAt = now
  }

  /** The process itself moves on, with the electrode in it: no new dip. */
  follow(solution: SolutionTruth): void {
    this.solution = solution
    this.effectivePh = solution.ph
  }

  /** Wipes the coating off. */
  wipe(): void {
    this.truth = { ...this.truth, coating: 0 }
  }

  /** What the transmitter shows at `now`, noise and faults included. */
  read(now: number): SimulatedReading {
    const { truth, faults, random } = this
    const { millivolts, temperature } = this.clean(now)
    let signal = millivolts
    if (faults.dead) signal = -3 + 0.4 * Math.sin(now / 40)
    if (faults.bubble) {
      if (Number.isNaN(this.bubbleAt)) this.bubbleAt = now
      signal += 9 + 3 * random.normal()
    } else this.bubbleAt = Number.NaN
    this.mains = 0.8 * this.mains + random.normal()
    const noise = faults.cableNoise ? 4 * truth.noise + 2.5 * this.mains : truth.noise * random.normal()
    const shown = Math.round((signal + noise) / truth.step) * truth.step
    return { millivolts: shown, temperature: Math.round((temperature + 0.02 * random.normal()) * 100) / 100 }
  }

  private restingSignal(temperature: number): number {
    const { zero, slopeEfficiency, coating } = this.truth
    return zero + coating + slopeEfficiency * nernstSlope(temperature) * (ISOTHERMAL_PH - this.effectivePh)
  }

  private clean(now: number): SimulatedReading {
    const { fastTime, slowShare, slowTime } = this.truth
    const t = Math.max(0, now - this.dippedAt)
    const temperature =
      this.solution.temperature + (this.temperatureAtDip - this.solution.temperature) * Math.exp(-t / TEMPERATURE_LAG)
    const target = this.restingSignal(temperature)
    const left = (1 - slowShare) * Math.exp(-t / fastTime) + slowShare / (1 + t / slowTime) ** 2
    return { millivolts: target + (this.signalAtDip - target) * left, temperature }
  }
}
