import type { Instrument } from '@frustum/core'

export interface InstrumentView extends Instrument {
  /** Of a sensor that is carried along to check others: below zero, it is no row of the instruments. */
  id: number
  /** The sensor that it is; missing of all others. */
  sensorId?: number
}
