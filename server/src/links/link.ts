import type { Clock, LinkSettings } from '@frustum/contract'
import type { Characteristic, SensorKind } from '@frustum/core'
import { ModbusLink } from './modbus/modbusLink.ts'

export interface LinkReading {
  /** Epoch ms when it was asked for. */
  at: number
  /** In the unit of the kind's signal: mV, uS/cm, mg/L, degC. */
  signal: number
  temperature: number
  /** What the device makes of it, in its own unit. */
  shown: number
  /** Where the device measures them: glass MOhm, junction kOhm. */
  resistances?: { glass?: number; junction?: number }
}

/** A line to one device. A further protocol is one more class like ModbusLink and one more case below. */
export interface Link {
  /** Rejects when the device does not answer in time. */
  read(): Promise<LinkReading>
  readCalibration(): Promise<Characteristic>
  /** Writes and reads back; resolves with what the device then holds. */
  writeCalibration(calibration: Characteristic): Promise<Characteristic>
  close(): void
}

export function openLink(settings: LinkSettings, kind: SensorKind, clock: Clock): Link {
  switch (settings.kind) {
    case 'modbus-tcp':
      return new ModbusLink(settings, kind, clock)
  }
}
