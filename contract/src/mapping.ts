/**
 * How what comes over a connection becomes the reading of a sensor: one mapping a sensor, written once, kept as a file
 * that others can read (docs/formats.md has its schema).
 */

/** The four tables of the Modbus application protocol, read by functions 3, 4, 1 and 2. */
export const REGISTER_TABLES = ['holding', 'input', 'coil', 'discrete'] as const
export type RegisterTable = (typeof REGISTER_TABLES)[number]

export const REGISTER_TYPES = [
  'int16',
  'uint16',
  'int32',
  'uint32',
  'float32',
  'float64',
  'bcd16',
  'bcd32',
  'bit',
] as const
export type RegisterType = (typeof REGISTER_TYPES)[number]

/**
 * In which order the bytes of a number come, A being its highest: ABCD as the protocol has it, CDAB with the low word
 * first, BADC with the bytes of each word swapped, DCBA with both. Longer and shorter numbers alike.
 */
export const BYTE_ORDERS = ['ABCD', 'CDAB', 'BADC', 'DCBA'] as const
export type ByteOrder = (typeof BYTE_ORDERS)[number]

/** Where a number stands in a Modbus device. */
export interface RegisterPlace {
  table: RegisterTable
  /** As the manual prints it: counted from 0 or from 1, as the mapping says. */
  address: number
  type: RegisterType
  order: ByteOrder
  /** Which bit of the register, 0 the lowest; of type bit in a table of registers alone. */
  bit?: number | undefined
}

/** What messages are written in; the last two only come from devices that send by themselves. */
export const MESSAGE_FORMATS = ['number', 'json', 'senml', 'xml', 'csv', 'line'] as const
export type MessageFormat = (typeof MESSAGE_FORMATS)[number]

/** Where a number stands in a message: one field of it, and the topic it comes under where there are several. */
export interface FieldPlace {
  /** Of a broker: the topic, below or equal to the filter of the device. */
  topic?: string | undefined
  /**
   * A JSON pointer (RFC 6901), in XML as well, empty for a payload that is the bare number; the name of a SenML record;
   * the heading of a column; measurement with its tags, a slash, and the field of a line.
   */
  field: string
}

export type Place = RegisterPlace | FieldPlace

/** One number of a device, and what makes a value of it. */
export interface Channel {
  at: Place
  /** Of the number once scale and offset are applied. */
  unit: string
  /** The raw number times scale, plus offset. */
  scale: number
  offset: number
  /** Outside of these, in the unit, it is no reading. */
  low?: number | undefined
  high?: number | undefined
  /** Raw numbers that say that there is no reading: 9999, -32768, or a pattern of bits as 0x8000. */
  none?: readonly string[] | undefined
  /** Of a current: what 4 and 20 mA stand for, in a unit of their own. */
  span?: { at4: number; at20: number; unit: string } | undefined
}

/** A temperature that another position of the site measures, by its code. */
export interface TemperatureElsewhere {
  position: string
}

/** What the device says of itself: a fault while one of the bits is set, or while it reads one of the values. */
export interface StatusChannel {
  at: Place
  bits?: readonly number[] | undefined
  values?: readonly string[] | undefined
}

/** A number that may be written, within limits. */
export interface WritableChannel extends Channel {
  /** Written by the function for several, 16 or 15, where the device has that alone; else by 6 or 5 where it is one. */
  many?: boolean | undefined
}

/** Where the outputs of a device are held, and what is written for it. */
export interface HoldChannel {
  at: RegisterPlace
  on: number
  off: number
  /** As of a number that may be written. */
  many?: boolean | undefined
}

export interface Mapping {
  /** From which number the manual counts addresses. */
  countsFrom: 0 | 1
  /** Of messages: what they are written in. */
  format?: MessageFormat | undefined
  /** Of messages: where their time stands, if they carry one that their format does not name by itself. */
  time?: FieldPlace | undefined
  value?: Channel | undefined
  signal?: Channel | undefined
  temperature?: Channel | TemperatureElsewhere | undefined
  /** Resistances that some devices measure: of the glass, and of the junction. */
  glass?: Channel | undefined
  junction?: Channel | undefined
  status?: StatusChannel | undefined
  /** The parameters of its calibration by their names, where the device lets them be read and written. */
  calibration?: Readonly<Record<string, WritableChannel>> | undefined
  /** Whether they may be written; read they are in any case. */
  writes?: boolean | undefined
  hold?: HoldChannel | undefined
}

export const isRegister = (at: Place): at is RegisterPlace => 'table' in at

export const isElsewhere = (t: Channel | TemperatureElsewhere): t is TemperatureElsewhere => 'position' in t

/** What a mapping reads, by what it is to the sensor. */
export const CHANNELS = ['value', 'signal', 'temperature', 'glass', 'junction'] as const
export type ChannelName = (typeof CHANNELS)[number]

/** The channel of a name, as far as the device itself gives it. */
export function channelOf(mapping: Mapping, name: ChannelName): Channel | null {
  const channel = mapping[name]
  return channel && !isElsewhere(channel) ? channel : null
}

/** What comes of the sensor itself: what the device makes of it, the bare signal, or both; null for neither. */
export const givesOf = (mapping: Mapping): 'value' | 'signal' | 'both' | null =>
  mapping.value && mapping.signal ? 'both' : mapping.value ? 'value' : mapping.signal ? 'signal' : null

/** How many registers a number takes. */
export const wordsOfType = (type: RegisterType): number =>
  type === 'float64' ? 4 : ['int32', 'uint32', 'float32', 'bcd32'].includes(type) ? 2 : 1
