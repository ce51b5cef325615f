import type { Channel } from '@frustum/contract'
import { modelOf, type SensorKind } from '@frustum/core'
import type { Appearance } from '@frustum/lab/stand-ins'
import type { MessageFormat, RegisterPlace } from '@frustum/server/protocols'

/** Invented devices that are read otherwise than the station's transmitters. */
export type OtherDevice = Appearance & { name: string }

/** Unit of the controller that has three channels. */
export const CONTROLLER_UNIT = 41

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
    by: 'registers',
    unit: CONTROLLER_UNIT,
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
  by: 'registers',
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
  by: 'registers',
  unit: 43,
  mapping: { countsFrom: 0, value: current(0, 5, 'mS/cm'), temperature: current(1, 50, '°C') },
}

const said = (format: MessageFormat, value: string, signal: string, temperature: string, unit = '') => {
  const field = (name: string, of = ''): Channel => ({ at: { field: name }, unit: of, scale: 1, offset: 0 })
  return {
    countsFrom: 0,
    format,
    value: field(value, unit),
    signal: field(signal),
    temperature: field(temperature),
  } as const
}

/** A monitor of a stream bed: publishes JSON, and the broker says when it is gone. */
export function monitorOf(bed: number): OtherDevice {
  const topic = `wasabi/bed-${bed}`
  return {
    name: `Monitor of stream bed ${bed}`,
    by: 'broker',
    topic,
    mapping: {
      ...said('json', '/ph', '/mv', '/water/temp_c'),
      status: { at: { topic: `${topic}/state`, field: '' }, values: ['offline'] },
    },
  }
}

/** A transmitter with a page of its own, in JSON. */
export const JSON_PAGE: OtherDevice = {
  name: 'Nitrate transmitter of the rinse line',
  by: 'page',
  path: 'status.json',
  mapping: said('json', '/channels/0/value', '/channels/0/mv', '/channels/0/temp'),
}

/** One that writes its page in XML. */
export const XML_PAGE: OtherDevice = {
  name: 'Resistivity transmitter',
  by: 'page',
  path: 'status.xml',
  mapping: said('xml', '/status/channel/resistivity', '/status/channel/conductivity', '/status/channel/temperature'),
}

/** A logger that sends what it notes as SenML, and what it could not send later. */
export const LOGGER: OtherDevice = {
  name: 'Logger of the mixing tank',
  by: 'logger',
  mapping: said('senml', 'nitrate', 'signal', 'temperature'),
}
