import type { Place } from '@frustum/contract'
import type ModbusRTU from 'modbus-serial'
import type { DeviceData, Found } from '../../mapping/readSensor.ts'
import { type Block, blockOf } from './blocks.ts'
import { isBits, isRegister, type RegisterMapping, type RegisterPlace } from './place.ts'
import { bitsOf, decodeRegisters } from './registers.ts'
import { REGISTER_SCHEME } from './scheme.ts'

/** What was read of a unit: a stretch with its bytes, or its bits. */
export interface Stretch extends Block {
  bytes: Buffer
}

/** Reads a stretch of a table; bits come packed, the lowest first. */
export async function readBlock(client: ModbusRTU, { table, address, length }: Block): Promise<Buffer> {
  switch (table) {
    case 'holding':
      return (await client.readHoldingRegisters(address, length)).buffer
    case 'input':
      return (await client.readInputRegisters(address, length)).buffer
    case 'coil':
      return (await client.readCoils(address, length)).buffer
    case 'discrete':
      return (await client.readDiscreteInputs(address, length)).buffer
  }
}

/** A request, as the list of exchanges says it. */
export const wordsFor = (unit: number, { table, address, length }: Block): string =>
  `Unit ${unit}: ${length} ${isBits(table) ? `${table === 'coil' ? 'coils' : 'discrete inputs'}` : `${table} registers`} from ${address}`

/** What came for each place, among the stretches that were read. */
export function dataIn(stretches: readonly Stretch[], { countsFrom }: Pick<RegisterMapping, 'countsFrom'>): DeviceData {
  const find = (at: Place): Found | undefined => {
    if (!isRegister(at)) return undefined
    const { table, address, length } = blockOf(at, countsFrom)
    const stretch = stretches.find(
      (s) => s.table === table && s.address <= address && address + length <= s.address + s.length,
    )
    if (!stretch) return undefined
    const from = address - stretch.address
    return isBits(table)
      ? bitAt(stretch.bytes, from)
      : numberAt(stretch.bytes.subarray(2 * from, 2 * (from + length)), at)
  }
  return { scheme: REGISTER_SCHEME, find }
}

function bitAt(bytes: Buffer, index: number): Found {
  const bit = ((bytes[index >> 3] ?? 0) >> (index & 7)) & 1
  return { value: bit, bits: BigInt(bit) }
}

function numberAt(bytes: Uint8Array, place: RegisterPlace): Found {
  return {
    value: decodeRegisters(bytes, place),
    // Only a manual's pattern of bits asks for them.
    get bits() {
      return bitsOf(bytes, place.order)
    },
    bytes,
  }
}
