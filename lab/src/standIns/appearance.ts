import { type Channel, isElsewhere, type Mapping } from '@frustum/contract'
import {
  decodeRegisters,
  encodeRegisters,
  isRegister,
  type RegisterPlace,
  type RegisterTable,
  registerMapping,
  wordsOfType,
} from '@frustum/server/protocols'
import type { StandInTransmitter } from './transmitter.ts'

/** Another device that a stand-in's sensor is read by: with registers of its own, or one that speaks by itself. */
export type Appearance = { mapping: Mapping } & (
  | { by: 'registers'; unit: number }
  | { by: 'broker'; topic: string }
  | { by: 'page'; path: string }
  | { by: 'logger' }
)

/** One number of such a device. */
interface Cell {
  table: RegisterTable
  /** As it goes over the wire. */
  address: number
  place: RegisterPlace
  read: () => number
  write?: (raw: number) => void
}

/** 4 mA stand for the low end of a span, 20 mA for the high one. */
const MILLIAMPERES = { low: 4, span: 16 } as const

/** The raw number of a channel that stands for a value. */
export function rawOf(value: number, { scale, offset, span }: Pick<Channel, 'scale' | 'offset' | 'span'>): number {
  const meant = span ? MILLIAMPERES.low + (MILLIAMPERES.span * (value - span.at4)) / (span.at20 - span.at4) : value
  return (meant - offset) / scale
}

function cellsOf(transmitter: StandInTransmitter, mapping: Mapping): Cell[] {
  const { countsFrom, calibration = {}, hold } = registerMapping(mapping)
  const at = (place: RegisterPlace, read: () => number, write?: (raw: number) => void): Cell => ({
    table: place.table,
    address: place.address - countsFrom,
    place,
    read,
    ...(write ? { write } : {}),
  })
  const measured = (['value', 'signal', 'temperature'] as const).flatMap((name) => {
    const channel = mapping[name]
    if (!channel || isElsewhere(channel) || !isRegister(channel.at)) return []
    const of = { value: 'shown', signal: 'signal', temperature: 'temperature' } as const
    return [at(channel.at, () => rawOf(transmitter.read()[of[name]], channel))]
  })
  const parameters = Object.entries(calibration).flatMap(([key, channel]) => {
    const spec = transmitter.parameters.find((p) => p.key === key)
    if (!spec) return []
    return [
      at(
        channel.at,
        () => rawOf((transmitter.calibration[key] ?? Number.NaN) * spec.scale, channel),
        (raw) => {
          const value = (raw * channel.scale + channel.offset) / spec.scale
          transmitter.calibration = { ...transmitter.calibration, [key]: value }
        },
      ),
    ]
  })
  const held = hold
    ? [
        at(
          hold.at,
          () => (transmitter.outputsHeld ? hold.on : hold.off),
          (raw) => {
            transmitter.outputsHeld = raw === hold.on
          },
        ),
      ]
    : []
  return [...measured, ...parameters, ...held]
}

/** A device with registers of its own, made of what stand-ins measure. It knows no address but those. */
export class OtherDevice {
  private readonly cells: Cell[] = []
  private readonly transmitters: StandInTransmitter[] = []

  add(transmitter: StandInTransmitter, mapping: Mapping): void {
    this.transmitters.push(transmitter)
    this.cells.push(...cellsOf(transmitter, mapping))
  }

  /** Cut off its line it does not answer, whichever of its channels was asked for. */
  get silent(): boolean {
    return this.transmitters.some((t) => t.silent)
  }

  /** The words of a stretch; null where one of them is not there. */
  read(table: RegisterTable, address: number, length: number): number[] | null {
    const words = new Map<number, number>()
    for (const cell of this.cells) {
      const size = wordsOfType(cell.place.type)
      if (cell.table !== table || cell.address + size <= address || cell.address >= address + length) continue
      const bytes = encodeRegisters(limited(cell.read(), cell.place), cell.place)
      for (let i = 0; i < size; i++) words.set(cell.address + i, bytes.readUInt16BE(2 * i))
    }
    const asked = Array.from({ length }, (_, i) => words.get(address + i))
    return asked.every((word): word is number => word !== undefined) ? asked : null
  }

  /** Takes whole numbers only: half of one would be another. Returns whether it did. */
  write(address: number, values: readonly number[]): boolean {
    let taken = 0
    const writes: (() => void)[] = []
    for (const { table, address: from, place, write } of this.cells) {
      const size = wordsOfType(place.type)
      if (table !== 'holding' || !write || from < address || from + size > address + values.length) continue
      const bytes = Buffer.alloc(2 * size)
      for (let i = 0; i < size; i++) bytes.writeUInt16BE(values[from - address + i] as number, 2 * i)
      const raw = decodeRegisters(bytes, place)
      if (raw !== null) writes.push(() => write(raw))
      taken += size
    }
    if (taken !== values.length) return false
    for (const write of writes) write()
    return true
  }
}

/** What does not fit into a register stands at its end, as devices have it. */
function limited(raw: number, { type }: RegisterPlace): number {
  if (type === 'int16') return Math.max(-32768, Math.min(32767, raw))
  return type === 'uint16' ? Math.max(0, Math.min(65535, raw)) : raw
}
