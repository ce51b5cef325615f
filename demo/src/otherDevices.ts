import type { Channel, Mapping, RegisterPlace } from '@frustum/contract'
import { modelOf, type SensorKind } from '@frustum/core'

/** Invented devices whose registers are other than those of the station's transmitters. */
export interface OtherDevice {
  name: string
  unit: number
  mapping: Mapping
}

/** A controller with three channels: floats with the low word first, addresses printed from 1. */
export function controllerChannel(channel: 1 | 2 | 3, kind: SensorKind): OtherDevice {
  const at = (address: number): RegisterPlace => ({
    table: 'holding',
    address: 100 * channel + address,
    type: 'float32',
    order: 'CDAB',
  })
  const float = (address: number): Channel => ({ at: at(address), unit: '', scale: 1, offset: 0 })
  return {
    name: 'Controller of the hall',
    unit: 41,
    mapping: {
      countsFrom: 1,
      value: float(1),
      signal: float(3),
      temperature: float(5),
      calibration: Object.fromEntries(modelOf(kind).parameters.map(({ key }, i) => [key, float(21 + 2 * i)])),
      writes: true,
      hold: { at: { table: 'holding', address: 100 * channel + 41, type: 'uint16', order: 'ABCD' }, on: 1, off: 0 },
    },
  }
}

const whole = (address: number, scale: number, unit = ''): Channel => ({
  at: { table: 'input', address, type: 'int16', order: 'ABCD' },
  unit,
  scale,
  offset: 0,
  none: ['-32768'],
})

/** A transmitter that gives whole numbers: ppm, tenths of a degree, microsiemens. */
export const SCALED_TRANSMITTER: OtherDevice = {
  name: 'Transmitter of stream bed 2',
  unit: 42,
  mapping: { countsFrom: 0, value: whole(0, 1), temperature: whole(1, 0.1), signal: whole(2, 1, 'µS/cm') },
}

const current = (address: number, at20: number, unit: string): Channel => ({
  at: { table: 'input', address, type: 'uint16', order: 'ABCD' },
  unit: 'mA',
  scale: 0.001,
  offset: 0,
  span: { at4: 0, at20, unit },
})

/** An input card that counts microamperes, behind a transmitter of 0 to 5 mS/cm and one of 0 to 50 °C. */
export const CURRENT_CARD: OtherDevice = {
  name: 'Input card of the mixing tank',
  unit: 43,
  mapping: { countsFrom: 0, value: current(0, 5, 'mS/cm'), temperature: current(1, 50, '°C') },
}
