import type { Instrument } from '@frustum/core'

export interface InstrumentView extends Instrument {
  id: number
}
