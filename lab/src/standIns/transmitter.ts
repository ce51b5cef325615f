import type { Clock } from '@frustum/contract/clock'
import {
  type CalibrationParameters,
  type DeviceSetting,
  type MeasurementModel,
  modelOf,
  OutOfRange,
  randomStream,
  standardOf,
  standards,
} from '@frustum/core'
import {
  type Bath,
  type SensorTruth,
  type SimulatedSensor,
  simulatedResistances,
  simulateSensor,
} from '../simulation/index.ts'
import { BATHS, FAULT_BITS } from './controlRegisters.ts'

const ROOM_TEMPERATURE = 22.4
const WARM_BY = 7
const WRONG_BY = 6
/** Known standards of sensors that have none in a bottle, in their core unit. */
const KNOWN_SAMPLES: Partial<Record<string, number>> = { chlorine: 1, 'nitrate-optical': 10 }

export interface TransmitterSetting {
  truth: SensorTruth
  device: DeviceSetting
  /** Standards of this sensor by role, among which cups are swapped. */
  standards: Readonly<Record<string, string>>
  /** The water at an instant, epoch ms. */
  process: (at: number) => Bath
  /** Whether it measures the resistances of glass and junction. */
  reportsResistances?: boolean
  seed: number
  clock: Clock
}

/** A transmitter with its sensor, of any kind, played in real time. */
export class StandInTransmitter {
  calibration: CalibrationParameters
  outputsHeld = false
  simulated: Bath = { value: 0, temperature: 25 }
  private bath = 'process'
  private faultBits = 0
  private refreshes = 0
  private held: { signal: number; temperature: number } | null = null
  private readonly model: MeasurementModel
  private readonly sensor: SimulatedSensor

  constructor(private readonly setting: TransmitterSetting) {
    const { truth, seed } = setting
    this.model = modelOf(truth.kind)
    this.calibration = this.model.ideal
    this.sensor = simulateSensor(truth, this.water(), randomStream(seed), this.seconds())
  }

  get parameters() {
    return this.model.parameters
  }

  get immersion(): number {
    return BATHS.indexOf(this.bath)
  }

  get faults(): number {
    return this.faultBits
  }

  /** A device whose line is cut does not answer at all. */
  get silent(): boolean {
    return this.has('silent')
  }

  putInto(immersion: number): void {
    const bath = BATHS[immersion]
    if (!bath || bath === this.bath) return
    this.held = this.has('leftOver') ? this.measure() : null
    this.bath = bath
    this.sensor.setWet(bath === 'air' && this.has('notDry'))
    this.dip()
  }

  setFaults(bits: number): void {
    const before = this.faultBits
    this.faultBits = bits
    this.sensor.faults = { bubble: this.has('bubble'), cableNoise: this.has('cableNoise'), dead: this.has('dead') }
    if (!this.has('leftOver')) this.held = null
    const inWhichLiquid = FAULT_BITS.swapped | FAULT_BITS.warm
    if ((before & inWhichLiquid) !== (bits & inWhichLiquid)) this.dip()
  }

  wipe(): void {
    this.sensor.wipe()
  }

  read(): { signal: number; temperature: number; shown: number; refresh: number } {
    this.refreshes = (this.refreshes + 1) % 65536
    const { signal, temperature } = this.held ?? this.measure()
    return { signal, temperature, shown: this.display(signal, temperature), refresh: this.refreshes }
  }

  /** Nothing where it does not measure them, or where another thing is plugged in. */
  resistances(): { glass?: number; junction?: number } {
    if (!this.setting.reportsResistances || this.bath === 'plug' || this.bath === 'simulator') return {}
    return simulatedResistances(this.setting.truth, this.measure().temperature, this.has('dead')) ?? {}
  }

  private seconds(): number {
    return this.setting.clock.now() / 1000
  }

  private water(): Bath {
    return this.setting.process(this.setting.clock.now())
  }

  private has(fault: keyof typeof FAULT_BITS): boolean {
    return (this.faultBits & FAULT_BITS[fault]) !== 0
  }

  private dip(): void {
    // A plug or a simulator stands in place of the sensor: nothing happens to the sensor itself.
    if (this.bath === 'plug' || this.bath === 'simulator') return
    if (this.setting.truth.kind !== 'temperature' || this.bath === 'process') {
      // A film stays on a bulb that is lifted out; a cell in air was dried.
      const film = this.bath === 'air' && this.setting.truth.kind !== 'conductivity'
      this.sensor.dip(this.liquid(), this.seconds(), !film && !this.has('unrinsed'))
    }
  }

  private measure(): { signal: number; temperature: number } {
    const now = this.seconds()
    if (this.bath === 'simulator') return { signal: this.simulated.value, temperature: this.simulated.temperature }
    if (this.bath === 'plug') return { signal: 0.4, temperature: ROOM_TEMPERATURE }
    if (this.bath === 'process') this.sensor.follow(this.water())
    else if (this.has('unsteady')) this.sensor.follow(this.liquid())
    const read = this.sensor.read(now)
    // Stray voltage is in the tank, not in the beaker.
    const stray = this.has('stray') && this.bath === 'process' ? 0.5 * Math.max(60, Math.abs(read.signal)) : 0
    return {
      signal: read.signal + stray,
      temperature: read.temperature + (this.has('wrongTemperature') ? WRONG_BY : 0),
    }
  }

  private display(signal: number, temperature: number): number {
    const { device } = this.setting
    const other: DeviceSetting = this.has('compensation')
      ? {
          ...device,
          compensation:
            device.compensation?.law === 'none' ? { law: 'linear', alpha: 2, reference: 25 } : { law: 'none' },
        }
      : device
    try {
      const shown = this.model.toShown(signal, temperature, this.calibration, other)
      return this.has('unitSlip') ? 1000 * shown : shown
    } catch (error) {
      // A real display has nothing sensible to show either; it stays at the end of its range.
      if (error instanceof OutOfRange) return 0
      throw error
    }
  }

  private liquid(): Bath {
    const wander = this.has('unsteady') ? 4 * Math.sin(this.seconds() / 25) : 0
    const temperature = ROOM_TEMPERATURE + (this.has('warm') ? WARM_BY : 0) + wander
    switch (this.bath) {
      case 'process':
        return this.water()
      case 'rinse':
        return {
          value: this.setting.truth.kind === 'ph' ? 6.6 : this.setting.truth.kind === 'orp' ? 240 : 3,
          temperature,
        }
      case 'air':
        // A film of the last water stays on a glass bulb and takes up carbon dioxide.
        return {
          value: this.setting.truth.kind === 'ph' ? 5.6 : this.setting.truth.kind === 'orp' ? 200 : 0,
          temperature,
        }
      case 'sample':
        return { value: KNOWN_SAMPLES[this.setting.truth.kind] ?? this.water().value, temperature }
      default:
        return {
          value: this.model.standardValue(this.poured(), temperature, {
            ...this.setting.device,
            expects: 'activity',
          }),
          temperature,
        }
    }
  }

  /** What is really in the cup: with swapped cups not what its label says. */
  private poured(): string {
    if (!this.has('swapped')) return this.bath
    const own = [...new Set(Object.values(this.setting.standards))]
    const others = own.length > 1 ? own : own.concat(this.sameKind(own[0] ?? this.bath))
    return others.find((code) => code !== this.bath) ?? this.bath
  }

  private sameKind(code: string): string[] {
    const { kind } = standardOf(code)
    return standards()
      .filter((s) => s.kind === kind && s.code !== code)
      .map((s) => s.code)
  }
}
