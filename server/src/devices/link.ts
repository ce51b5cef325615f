import type { ConnectionSettings, DeviceAddress, Mapping, Protocol, RawView } from '@frustum/contract'
import type { CalibrationParameters, DeviceSetting, SensorKind, SensorReading } from '@frustum/core'
import type { Exchanges } from './exchanges.ts'
import type { LineProblem } from './lineProblem.ts'

/** A bus, gateway, broker or page that devices are reached by. */
export interface Bus {
  protocol: Protocol
  settings: ConnectionSettings
  /** Password or token, where one is needed. */
  secret: string | null
}

/** A sensor that is read over a connection, by the number of its position. */
export interface FollowedSensor {
  id: number
  code: string
  kind: SensorKind
  setting: DeviceSetting
  mapping: Mapping
}

export interface FollowedDevice {
  id: number
  name: string
  address: DeviceAddress
  sensors: readonly FollowedSensor[]
}

/** Who is told what comes of each sensor. */
export interface Told {
  reading(id: number, reading: SensorReading): void
  failed(id: number, problem: LineProblem): void
  /** The temperature that another position reads now; null where it does not. */
  temperatureAt(code: string): number | null
  /** Whether somebody waits for its readings at the Bench. */
  isWatched(id: number): boolean
  /** How far its readings are apart, ms; null where nobody knows yet. */
  everyMs(id: number): number | null
}

/** The numbers by which a device computes, where it lets them be read. */
export interface CalibrationAccess {
  read(): Promise<CalibrationParameters>
  /** Writes and reads back; resolves with what the device then holds. Null where it may not be written. */
  write: ((calibration: CalibrationParameters) => Promise<CalibrationParameters>) | null
}

/** The way to the device of one sensor. */
export interface Link {
  calibration: CalibrationAccess | null
  /** Holds the outputs of the device, or lets them go, and reads back; null where it cannot. */
  hold: ((on: boolean) => Promise<void>) | null
}

/** How a connection is now. */
export interface LineState {
  kind: 'waiting' | 'up' | 'down'
  /** Epoch ms. */
  since: number
  why: string | null
}

/** An open connection with all that is on it. Each protocol has a driver of its own. */
export interface Driver {
  readonly exchanges: Exchanges
  state(): LineState
  /** From now on it reads these. */
  follow(devices: readonly FollowedDevice[]): void
  link(sensorId: number): Link | null
  /** What came last for a sensor, number by number. */
  raw(sensorId: number): RawView[]
  /** Reads a device once, as a mapping that is not kept yet would. @throws LineProblem */
  tryOnce(device: FollowedDevice): Promise<Tried>
  close(): void
}

export interface Tried {
  raw: RawView[]
  reading: SensorReading | null
  why: string | null
}
