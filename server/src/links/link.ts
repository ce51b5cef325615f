import type { CalibrationParameters } from '@frustum/core'

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

/** A line to one device. A further protocol is one more class like ModbusLink and one more case in openLink. */
export interface Link {
  /** Rejects when the device does not answer in time. */
  read(): Promise<LinkReading>
  readCalibration(): Promise<CalibrationParameters>
  /** Writes and reads back; resolves with what the device then holds. */
  writeCalibration(calibration: CalibrationParameters): Promise<CalibrationParameters>
  close(): void
}
