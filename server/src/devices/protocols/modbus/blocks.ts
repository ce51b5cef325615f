import { CHANNELS, channelOf, type Mapping } from '@frustum/contract'
import { isBits, isRegister, type RegisterPlace, type RegisterTable, wordsOfType } from './place.ts'

/** A stretch of a table, as it goes over the wire: counted from 0. */
export interface Block {
  table: RegisterTable
  address: number
  length: number
}

/** Most that one request may ask for, by the Modbus application protocol. */
const MOST = { registers: 125, bits: 2000 } as const
/** What is not wanted between two places that are: read along, since a request costs more than a few registers. */
const GAP = 16

/** Where a place begins on the wire, and how much of its table it takes. */
export const blockOf = ({ table, address, type }: RegisterPlace, countsFrom: 0 | 1): Block => ({
  table,
  address: address - countsFrom,
  length: isBits(table) ? 1 : wordsOfType(type),
})

/** All places that a mapping reads at every turn. */
export function placesOf(mapping: Mapping): RegisterPlace[] {
  const channels = CHANNELS.flatMap((name) => channelOf(mapping, name) ?? [])
  return [...channels.map((c) => c.at), ...(mapping.status ? [mapping.status.at] : [])].filter(isRegister)
}

/**
 * Puts stretches together into as few requests as they need.
 * @param gap registers between two of them that may be read along
 */
export function together(blocks: readonly Block[], gap: number = GAP): Block[] {
  const sorted = [...blocks].sort((a, b) => a.table.localeCompare(b.table) || a.address - b.address)
  const joined: Block[] = []
  for (const block of sorted) {
    const last = joined.at(-1)
    const end = block.address + block.length
    const most = isBits(block.table) ? MOST.bits : MOST.registers
    if (
      last?.table === block.table &&
      block.address <= last.address + last.length + gap &&
      end - last.address <= most
    ) {
      last.length = Math.max(last.length, end - last.address)
    } else joined.push({ ...block })
  }
  return joined
}
