import type { TemperatureSource } from './temperatureSource.ts'

/** What a device gives of its sensor at one moment. */
export interface SensorReading {
  /** Epoch ms when it was asked for, or the time that the device states. */
  at: number
  /** In the unit of the kind's signal: mV, uS/cm, mg/L, degC; null where the device doesn't give it. */
  signal: number | null
  /** degC; null where nobody measures it. */
  temperature: number | null
  /** Where the temperature comes from, if not from the device. */
  temperatureFrom?: TemperatureSource
  /** What the device displays, in its own unit; null where it gives the signal alone. */
  shown: number | null
  /** Where the device measures them: glass MOhm, junction kOhm. */
  resistances?: { glass?: number; junction?: number }
}
