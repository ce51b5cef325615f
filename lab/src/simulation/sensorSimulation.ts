import type { RandomStream } from '../../../core/src/statistics/random.ts'

/** What every simulated sensor has: how it answers, and how it scatters, in the unit of its signal. */
export interface ResponseTruth {
  /** First stage of the response, s. */
  fastTime: number
  /** Second stage: its share of a jump and its time, s. It falls off as 1 / (1 + t/time)^2. */
  slowShare: number
  slowTime: number
  /** Quick scatter. */
  noise: number
  /** Last digit of the transmitter. */
  step: number
}

export interface SensorFaults {
  bubble: boolean
  cableNoise: boolean
  /** Cracked, unplugged or dry: the signal says nothing of the solution. */
  dead: boolean
}

export const NO_FAULTS: SensorFaults = { bubble: false, cableNoise: false, dead: false }

/** A sensor body follows the temperature of its solution with this lag, s. */
const TEMPERATURE_LAG = 18
/** Share of the solution before that comes along on an unrinsed sensor. */
export const CARRY_OVER = 0.004

/**
 * A sensor that can be dipped into solutions and read at any later moment. Two-stage response from the signal it had at
 * the moment of dipping, lagging temperature, carry-over, noise, quantisation, faults.
 * Time is the caller's, in seconds; it must not run backwards.
 */
export abstract class SensorSimulation<Truth extends ResponseTruth, Solution extends { temperature: number }> {
  faults: SensorFaults = { ...NO_FAULTS }
  private dippedAt: number
  private signalAtDip: number
  private temperatureAtDip: number
  private effective: Solution
  private mains = 0

  constructor(
    public truth: Truth,
    private solution: Solution,
    protected readonly random: RandomStream,
    now = 0,
  ) {
    this.dippedAt = now - 3600
    this.effective = solution
    this.temperatureAtDip = solution.temperature
    this.signalAtDip = this.resting(solution, solution.temperature)
  }

  /** Signal at rest in a solution, the sensor itself being at `temperature`. */
  protected abstract resting(solution: Solution, temperature: number): number

  /** The solution that an unrinsed sensor makes of `to` when it comes from `from`. */
  protected abstract carriedOver(from: Solution, to: Solution): Solution

  /** What a bubble on the tip makes of a signal. */
  protected abstract withBubble(signal: number): number

  /** The signal of a sensor that says nothing of the solution. */
  protected abstract deadSignal(now: number): number

  /** What a bad cable adds: several times the sensor's own scatter, in waves. */
  protected pickUp(mains: number): number {
    return this.truth.noise * (4 + 20 * mains)
  }

  /** Moves the sensor into another solution. Rinsed on the way or not decides what is carried over. */
  dip(solution: Solution, now: number, rinsed = true): void {
    const before = this.undisturbed(now)
    this.signalAtDip = before.signal
    this.temperatureAtDip = before.temperature
    this.effective = rinsed ? solution : this.carriedOver(this.solution, solution)
    this.solution = solution
    this.dippedAt = now
  }

  /** The process itself moves on, with the sensor in it: no new dip. */
  follow(solution: Solution): void {
    this.solution = solution
    this.effective = solution
  }

  /** What the transmitter shows at `now`, noise and faults included. */
  protected show(now: number): { signal: number; temperature: number } {
    const { truth, faults, random } = this
    const { signal: right, temperature } = this.undisturbed(now)
    let signal = faults.dead ? this.deadSignal(now) : right
    if (faults.bubble) signal = this.withBubble(signal)
    this.mains = 0.8 * this.mains + random.normal()
    const noise = faults.cableNoise ? this.pickUp(this.mains) : truth.noise * random.normal()
    return {
      signal: Math.round((signal + noise) / truth.step) * truth.step,
      temperature: Math.round((temperature + 0.02 * random.normal()) * 100) / 100,
    }
  }

  private undisturbed(now: number): { signal: number; temperature: number } {
    const { fastTime, slowShare, slowTime } = this.truth
    const t = Math.max(0, now - this.dippedAt)
    const temperature =
      this.solution.temperature + (this.temperatureAtDip - this.solution.temperature) * Math.exp(-t / TEMPERATURE_LAG)
    const target = this.resting(this.effective, temperature)
    const left = (1 - slowShare) * Math.exp(-t / fastTime) + slowShare / (1 + t / slowTime) ** 2
    return { signal: target + (this.signalAtDip - target) * left, temperature }
  }
}
