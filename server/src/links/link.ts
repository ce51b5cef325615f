import type { LinkSettings } from '@frustum/contract'
import type { PhCharacteristic } from '@frustum/core'
import { ModbusLink } from './modbusLink.ts'

export interface LinkReading {
  /** Epoch ms when it was asked for. */
  at: number
  millivolts: number
  temperature: number
  /** What the device makes of it, pH. */
  shown: number
}

/** A line to one device. A further protocol is one more class like ModbusLink and one more case below. */
export interface Link {
  /** Rejects when the device does not answer in time. */
  read(): Promise<LinkReading>
  readCalibration(): Promise<PhCharacteristic>
  /** Writes and reads back; resolves with what the device then holds. */
  writeCalibration(calibration: PhCharacteristic): Promise<PhCharacteristic>
  close(): void
}

export function openLink(settings: LinkSettings): Link {
  switch (settings.kind) {
    case 'modbus-tcp':
      return new ModbusLink(settings)
  }
}
