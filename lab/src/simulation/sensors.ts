import { type Compensation, compensate } from '../../../core/src/conductivity/compensation.ts'
import { type Interference, type IonCharacteristic, ionToMillivolts } from '../../../core/src/electrode/ionSelective.ts'
import { type ReferenceCode, referencePotential } from '../../../core/src/electrode/referenceElectrodes.ts'
import { CARRY_OVER, type ResponseTruth, SensorSimulation } from './sensorSimulation.ts'

const mixed = (from: number, to: number) => to + CARRY_OVER * (from - to)

/** What a solution is to an ORP sensor. */
export interface RedoxSolution {
  /** mV against hydrogen. */
  eh: number
  temperature: number
}

export interface OrpTruth extends ResponseTruth {
  reference: ReferenceCode
  /** What the poisoned reference adds, mV. */
  offset: number
  /** Of the channel; 1 for a sound one. */
  gain: number
}

/** An ORP sensor with its transmitter; reads mV against its own reference electrode. */
export class OrpSensorSimulation extends SensorSimulation<OrpTruth, RedoxSolution> {
  read(now: number): { millivolts: number; temperature: number } {
    const { signal, temperature } = this.show(now)
    return { millivolts: signal, temperature }
  }

  protected resting(solution: RedoxSolution, temperature: number): number {
    const { reference, offset, gain } = this.truth
    return gain * (solution.eh - referencePotential(reference, temperature) + offset)
  }

  protected carriedOver(from: RedoxSolution, to: RedoxSolution): RedoxSolution {
    return { ...to, eh: mixed(from.eh, to.eh) }
  }

  protected withBubble(signal: number): number {
    return signal - 25 + 8 * this.random.normal()
  }

  protected deadSignal(now: number): number {
    return 12 + 2 * Math.sin(now / 30)
  }
}

/** What a solution is to a conductivity cell. */
export interface ConductiveSolution {
  /** At its own temperature, uS/cm; 0 for dry air. */
  conductivity: number
  temperature: number
}

export interface ConductivityTruth extends ResponseTruth {
  /** Right over shown for a clean cell. */
  factor: number
  /** Shown in dry air, uS/cm. */
  zero: number
  /** Share of the signal that a layer takes away, 0 to 1; cleaning removes it. */
  coating: number
  /** Is the face still wet when it is held in air? */
  wet: boolean
  compensation: Compensation
  /** What the built-in thermometer shows too much, degC. */
  temperatureError: number
}

/** A conductivity cell with its transmitter; reads uS/cm as displayed. */
export class ConductivitySensorSimulation extends SensorSimulation<ConductivityTruth, ConductiveSolution> {
  wipe(): void {
    this.truth = { ...this.truth, coating: 0 }
  }

  read(now: number): { conductivity: number; temperature: number } {
    const { signal, temperature } = this.show(now)
    return { conductivity: signal, temperature: temperature + this.truth.temperatureError }
  }

  protected resting(solution: ConductiveSolution): number {
    const { factor, zero, coating, wet, compensation, temperatureError } = this.truth
    if (solution.conductivity === 0) return zero + (wet ? 25 : 0)
    const raw = ((1 - coating) * solution.conductivity) / factor + zero
    return compensate(raw, solution.temperature + temperatureError, compensation)
  }

  protected carriedOver(from: ConductiveSolution, to: ConductiveSolution): ConductiveSolution {
    return { ...to, conductivity: mixed(from.conductivity, to.conductivity) }
  }

  protected withBubble(signal: number): number {
    return signal * (0.82 + 0.03 * this.random.normal())
  }

  protected deadSignal(): number {
    return 0
  }
}

/** What a solution is to an ion electrode. */
export interface IonSolution {
  /** mol/L */
  activity: number
  temperature: number
  others?: readonly Interference[]
}

export interface IonTruth extends ResponseTruth {
  electrode: IonCharacteristic
  /** How E0 moves with temperature, mV per degC, from 25 degC on. */
  zeroPerDegree: number
}

/** An ion-selective electrode with its transmitter; reads mV. */
export class IonElectrodeSimulation extends SensorSimulation<IonTruth, IonSolution> {
  read(now: number): { millivolts: number; temperature: number } {
    const { signal, temperature } = this.show(now)
    return { millivolts: signal, temperature }
  }

  protected resting({ activity, others }: IonSolution, temperature: number): number {
    const { electrode, zeroPerDegree } = this.truth
    return ionToMillivolts(activity, temperature, electrode, others) + zeroPerDegree * (temperature - 25)
  }

  protected carriedOver(from: IonSolution, to: IonSolution): IonSolution {
    return { ...to, activity: mixed(from.activity, to.activity) }
  }

  protected withBubble(signal: number): number {
    return signal + 12 + 4 * this.random.normal()
  }

  protected deadSignal(now: number): number {
    return 230 + 5 * Math.sin(now / 25)
  }
}

/** What a solution is to a sensor that reads a value straight: free chlorine, optical nitrate, a thermometer. */
export interface PlainSolution {
  value: number
  temperature: number
}

export interface PlainTruth extends ResponseTruth {
  /** Shown = factor value + offset. */
  factor: number
  offset: number
}

/** A sensor that reads its value straight, with a slope and an offset of its own. */
export class PlainSensorSimulation extends SensorSimulation<PlainTruth, PlainSolution> {
  read(now: number): { value: number; temperature: number } {
    const { signal, temperature } = this.show(now)
    return { value: signal, temperature }
  }

  protected resting({ value }: PlainSolution): number {
    return this.truth.factor * value + this.truth.offset
  }

  protected carriedOver(from: PlainSolution, to: PlainSolution): PlainSolution {
    return { ...to, value: mixed(from.value, to.value) }
  }

  protected withBubble(signal: number): number {
    return 0.6 * signal
  }

  protected deadSignal(): number {
    return 0
  }
}
