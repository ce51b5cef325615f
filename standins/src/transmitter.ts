import {
  type ElectrodeTruth,
  IDEAL_CHARACTERISTIC,
  millivoltsToPh,
  type PhCharacteristic,
  PhElectrodeSimulation,
  phBufferValue,
  randomStream,
  type SolutionTruth,
} from '@frustum/core'
import { BATHS, type Bath, FAULT_BITS } from '@frustum/demo'

const ROOM_TEMPERATURE = 22.4
const WARM_BY = 7

/** A pH transmitter with its electrode, played in real time. */
export class StandInTransmitter {
  calibration: PhCharacteristic = { ...IDEAL_CHARACTERISTIC }
  outputsHeld = false
  private bath: Bath = 'process'
  private faultBits = 0
  private refreshes = 0
  private readonly electrode: PhElectrodeSimulation

  constructor(
    truth: ElectrodeTruth,
    private readonly process: () => SolutionTruth,
    seed: number,
    private readonly clock: () => number = () => performance.now() / 1000,
  ) {
    this.electrode = new PhElectrodeSimulation(truth, process(), randomStream(seed), clock())
  }

  get immersion(): number {
    return BATHS.indexOf(this.bath)
  }

  get faults(): number {
    return this.faultBits
  }

  /** A device whose line is cut does not answer at all. */
  get silent(): boolean {
    return (this.faultBits & FAULT_BITS.silent) !== 0
  }

  putInto(immersion: number): void {
    const bath = BATHS[immersion]
    if (!bath || bath === this.bath) return
    this.bath = bath
    this.electrode.dip(this.solution(), this.clock(), bath !== 'air')
  }

  setFaults(bits: number): void {
    const before = this.faultBits
    this.faultBits = bits
    this.electrode.faults = {
      bubble: (bits & FAULT_BITS.bubble) !== 0,
      cableNoise: (bits & FAULT_BITS.cableNoise) !== 0,
      dead: (bits & FAULT_BITS.dead) !== 0,
    }
    const inWhichLiquid = FAULT_BITS.swapped | FAULT_BITS.warm
    if ((before & inWhichLiquid) !== (bits & inWhichLiquid)) this.electrode.dip(this.solution(), this.clock())
  }

  wipe(): void {
    this.electrode.wipe()
  }

  read(): { millivolts: number; temperature: number; shown: number; refresh: number } {
    if (this.bath === 'process') this.electrode.follow(this.process())
    const { millivolts, temperature } = this.electrode.read(this.clock())
    this.refreshes = (this.refreshes + 1) % 65536
    return {
      millivolts,
      temperature,
      shown: millivoltsToPh(millivolts, temperature, this.calibration),
      refresh: this.refreshes,
    }
  }

  private solution(): SolutionTruth {
    const temperature = ROOM_TEMPERATURE + (this.faultBits & FAULT_BITS.warm ? WARM_BY : 0)
    switch (this.bath) {
      case 'process':
        return this.process()
      case 'rinse':
        return { ph: 6.6, temperature: ROOM_TEMPERATURE }
      case 'air':
        // A film of the last water stays on the bulb and takes up carbon dioxide.
        return { ph: 5.6, temperature: ROOM_TEMPERATURE }
      default:
        return { ph: phBufferValue(this.poured(), temperature), temperature }
    }
  }

  /** What is really in the cup: with swapped buffers not what its label says. */
  private poured(): string {
    if (!(this.faultBits & FAULT_BITS.swapped)) return this.bath
    return this.bath === 'pH7.00' ? this.otherCup : 'pH7.00'
  }

  private get otherCup(): string {
    return this.process().ph >= 7 ? 'pH10.01' : 'pH4.01'
  }
}
