import { nernstSlope } from '../../../core/src/electrode/nernst.ts'
import { ISOTHERMAL_PH } from '../../../core/src/electrode/phElectrode.ts'
import { CARRY_OVER, type ResponseTruth, SensorSimulation } from './sensorSimulation.ts'

/** What a solution is to an electrode. */
export interface SolutionTruth {
  ph: number
  temperature: number
}

/** The state of a simulated electrode: what only the simulator knows. Potentials in mV. */
export interface ElectrodeTruth extends ResponseTruth {
  /** mV at pH 7. */
  zero: number
  /** 1 for an ideal electrode. */
  slopeEfficiency: number
  /** Offset by a dirt layer, mV; cleaning removes it. */
  coating: number
}

export interface SimulatedReading {
  millivolts: number
  temperature: number
}

/** A pH electrode with its transmitter. */
export class PhElectrodeSimulation extends SensorSimulation<ElectrodeTruth, SolutionTruth> {
  /** Wipes the coating off. */
  wipe(): void {
    this.truth = { ...this.truth, coating: 0 }
  }

  /** What the transmitter shows at `now`, noise and faults included. */
  read(now: number): SimulatedReading {
    const { signal, temperature } = this.show(now)
    return { millivolts: signal, temperature }
  }

  protected resting(solution: SolutionTruth, temperature: number): number {
    const { zero, slopeEfficiency, coating } = this.truth
    return zero + coating + slopeEfficiency * nernstSlope(temperature) * (ISOTHERMAL_PH - solution.ph)
  }

  protected carriedOver(from: SolutionTruth, to: SolutionTruth): SolutionTruth {
    return { ...to, ph: to.ph + CARRY_OVER * (from.ph - to.ph) }
  }

  protected withBubble(signal: number): number {
    return signal + 9 + 3 * this.random.normal()
  }

  protected deadSignal(now: number): number {
    return -3 + 0.4 * Math.sin(now / 40)
  }

  protected override pickUp(mains: number): number {
    return 4 * this.truth.noise + 2.5 * mains
  }
}
