/**
 * How what comes over a connection becomes the reading of a sensor: one mapping per sensor, which can be saved as a file
 * (docs/formats.md has its schema).
 */

/** One value of a connection, an address or a place. */
export type Scalar = string | number | boolean

/** Where a number is in a device. Its keys belong to the protocol: table and address of a register, topic and field of a message. */
export type Place = Readonly<Record<string, Scalar | undefined>>

/** One number of a device, and how a value is made of it. */
export interface Channel<P = Place> {
  at: P
  /** Of the number after scale and offset. */
  unit: string
  /** The raw number times scale, plus offset. */
  scale: number
  offset: number
  /** Limits in the unit; a number outside them isn't a reading. */
  low?: number | undefined
  high?: number | undefined
  /** Raw numbers that mean no reading: 9999, -32768, or a bit pattern such as 0x8000. */
  none?: readonly string[] | undefined
  /** Of a current: the values at 4 and 20 mA, in a unit of their own. */
  span?: { at4: number; at20: number; unit: string } | undefined
}

/** A temperature measured at another position of the site, by its code. */
export interface TemperatureElsewhere {
  position: string
}

/** What the device reports of itself: a fault while one of the bits is set, or while it reads one of the values. */
export interface StatusChannel<P = Place> {
  at: P
  bits?: readonly number[] | undefined
  values?: readonly string[] | undefined
}

/** Outputs of a device that can be put on hold, and the numbers to write for it. Further keys belong to the protocol. */
export interface HoldChannel<P = Place> {
  at: P
  on: number
  off: number
}

/** What a mapping reads, by what it is to the sensor. */
export const CHANNELS = ['value', 'signal', 'temperature', 'glass', 'junction'] as const
export type ChannelName = (typeof CHANNELS)[number]

/** Further keys are options of the protocol: the first address of a register map, the format of a message. */
export interface Mapping {
  value?: Channel | undefined
  signal?: Channel | undefined
  temperature?: Channel | TemperatureElsewhere | undefined
  /** Resistances that some devices measure: of the glass, and of the junction. */
  glass?: Channel | undefined
  junction?: Channel | undefined
  status?: StatusChannel | undefined
  /** The parameters of its calibration by name, where the device lets them be read. */
  calibration?: Readonly<Record<string, Channel>> | undefined
  /** Whether the parameters may be written. */
  writes?: boolean | undefined
  hold?: HoldChannel | undefined
  [option: string]: unknown
}

export const isElsewhere = (t: Channel | TemperatureElsewhere): t is TemperatureElsewhere => 'position' in t

/** The channel of a name, as far as the device itself measures it. */
export function channelOf(mapping: Mapping, name: ChannelName): Channel | null {
  const channel = mapping[name]
  return channel && !isElsewhere(channel) ? channel : null
}

/** What is read of the sensor itself: the device's value, the bare signal, or both; null for neither. */
export const givesOf = (mapping: Mapping): 'value' | 'signal' | 'both' | null =>
  mapping.value && mapping.signal ? 'both' : mapping.value ? 'value' : mapping.signal ? 'signal' : null
