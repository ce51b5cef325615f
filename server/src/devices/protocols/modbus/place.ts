import type { Channel, HoldChannel, Mapping, Place } from '@frustum/contract'

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
 * The order of a number's bytes, A being the highest: ABCD as in the protocol, CDAB with the low word first, BADC with the
 * bytes of each word swapped, DCBA with both. The same for longer and shorter numbers.
 */
export const BYTE_ORDERS = ['ABCD', 'CDAB', 'BADC', 'DCBA'] as const
export type ByteOrder = (typeof BYTE_ORDERS)[number]

/** Where a number is in a Modbus device. */
export type RegisterPlace = {
  table: RegisterTable
  /** As the manual prints it: counted from 0 or from 1, as the mapping says. */
  address: number
  type: RegisterType
  order: ByteOrder
  /** Which bit of the register, 0 the lowest; only for type bit in a table of registers. */
  bit?: number | undefined
}

/** Some devices only take function 16 or 15, for several, even where one is written. */
interface ManyOnly {
  many?: boolean | undefined
}
export type RegisterParameter = Channel<RegisterPlace> & ManyOnly
export type RegisterHold = HoldChannel<RegisterPlace> & ManyOnly

/** A mapping whose places are registers. */
export interface RegisterMapping extends Mapping {
  /** The first address in the manual. */
  countsFrom: 0 | 1
  calibration?: Readonly<Record<string, RegisterParameter>> | undefined
  hold?: RegisterHold | undefined
}

/** The mapping of a sensor on a Modbus connection, which takes no other. */
export const registerMapping = (mapping: Mapping): RegisterMapping => mapping as RegisterMapping

export const isRegister = (at: Place): at is RegisterPlace => 'table' in at

/** How many registers a number takes. */
export const wordsOfType = (type: RegisterType): number =>
  type === 'float64' ? 4 : ['int32', 'uint32', 'float32', 'bcd32'].includes(type) ? 2 : 1

/** A place as the manual prints it. */
export const registerText = ({ table, address, bit }: RegisterPlace): string =>
  `${table} ${address}${bit === undefined ? '' : `, bit ${bit}`}`

export const isBits = (table: RegisterTable): boolean => table === 'coil' || table === 'discrete'
