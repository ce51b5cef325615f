import { type CalibrationParameters, modelOf } from '@frustum/core'
import type ModbusRTU from 'modbus-serial'
import { LineProblem } from '../../lineProblem.ts'
import type { CalibrationAccess, FollowedSensor, Link } from '../../link.ts'
import { rawFor, readChannel } from '../../mapping/channel.ts'
import { blockOf, together } from './blocks.ts'
import type { ModbusLine } from './modbusLine.ts'
import { isBits, type RegisterParameter, registerMapping, registerText } from './place.ts'
import { encodeRegisters } from './registers.ts'
import { dataIn, readBlock, wordsFor } from './stretches.ts'

interface Over {
  line: ModbusLine
  unit: number
  sensor: FollowedSensor
}

const parametersOf = ({ mapping }: FollowedSensor): [key: string, channel: RegisterParameter][] =>
  Object.entries(registerMapping(mapping).calibration ?? {})

/** The numbers by which a device computes; null where its mapping does not say where they stand. */
export function calibrationOver(over: Over): CalibrationAccess | null {
  const { mapping } = over.sensor
  if (parametersOf(over.sensor).length === 0) return null
  const read = () => readParameters(over)
  return {
    read,
    write: mapping.writes
      ? async (calibration) => {
          await writeParameters(over, calibration)
          return read()
        }
      : null,
  }
}

const specsOf = ({ kind }: FollowedSensor) => new Map(modelOf(kind).parameters.map((p) => [p.key, p]))

async function readParameters({ line, unit, sensor }: Over): Promise<CalibrationParameters> {
  const mapping = registerMapping(sensor.mapping)
  const parameters = parametersOf(sensor)
  const stretches = []
  for (const block of together(parameters.map(([, c]) => blockOf(c.at, mapping.countsFrom)))) {
    const ask = (client: ModbusRTU) => readBlock(client, block)
    stretches.push({ ...block, bytes: await line.inTurn({ unit, words: wordsFor(unit, block), ask, again: true }) })
  }
  const data = dataIn(stretches, mapping)
  const specs = specsOf(sensor)
  return Object.fromEntries(
    parameters.flatMap(([key, channel]): [string, number][] => {
      const spec = specs.get(key)
      const found = data.find(channel.at)
      // A parameter that the device does not use holds no number.
      const parameter = found && spec ? readChannel(found, channel, spec.unit) : { missing: '' }
      return spec && 'value' in parameter ? [[key, parameter.value / spec.scale]] : []
    }),
  )
}

/** What is written in one request: registers that stand side by side, a whole number at least, or one coil. */
interface Writing {
  address: number
  bytes: Buffer
  one: boolean
  /** Of a coil: what it is set to. */
  bit?: boolean
}

/** One request for a whole number, by the function for one where it is one and the device has that. */
function request({ address, bytes, one, bit }: Writing): (client: ModbusRTU) => Promise<unknown> {
  if (bit !== undefined) return (client) => (one ? client.writeCoil(address, bit) : client.writeCoils(address, [bit]))
  return (client) =>
    one ? client.writeRegister(address, bytes.readUInt16BE(0)) : client.writeRegisters(address, bytes)
}

async function writeParameters({ line, unit, sensor }: Over, calibration: CalibrationParameters): Promise<void> {
  const { countsFrom } = registerMapping(sensor.mapping)
  const specs = specsOf(sensor)
  const writings = parametersOf(sensor).flatMap(([key, channel]): Writing[] => {
    const spec = specs.get(key)
    const value = calibration[key]
    const { type, order } = channel.at
    const float = type === 'float32' || type === 'float64'
    if (!spec || (value === undefined && !float)) return []
    const { address } = blockOf(channel.at, countsFrom)
    try {
      // A parameter that is not used holds no number.
      const raw = value === undefined ? Number.NaN : rawFor(value * spec.scale, channel, spec.unit)
      if (isBits(channel.at.table)) return [coil(address, raw, channel.many)]
      const bytes = encodeRegisters(raw, { type, order })
      return [{ address, bytes, one: bytes.length === 2 && !channel.many }]
    } catch (error) {
      throw new LineProblem('exception', `${spec.label}: ${(error as Error).message} Nothing was written.`)
    }
  })
  for (const writing of sideBySide(writings)) {
    const what = writing.bit === undefined ? `${writing.bytes.length / 2} holding registers` : '1 coil'
    const words = `Unit ${unit}: write ${what} from ${writing.address}`
    await line.inTurn<unknown>({ unit, words, ask: request(writing), again: true })
  }
}

const coil = (address: number, value: number, many = false): Writing => ({
  address,
  bytes: Buffer.alloc(0),
  one: !many,
  bit: value !== 0,
})

const isCoil = ({ bit }: Writing) => bit !== undefined

/** Numbers that stand side by side go in one request, so that the device never computes with half of them. */
function sideBySide(writings: readonly Writing[]): Writing[] {
  const joined: Writing[] = []
  for (const writing of [...writings].sort((a, b) => a.address - b.address)) {
    const last = joined.at(-1)
    if (
      last &&
      !last.one &&
      !writing.one &&
      !isCoil(last) &&
      !isCoil(writing) &&
      last.address + last.bytes.length / 2 === writing.address
    ) {
      last.bytes = Buffer.concat([last.bytes, writing.bytes])
    } else joined.push({ ...writing })
  }
  return joined
}

/** Holds the outputs of a device, and looks whether it does; null where its mapping does not say how. */
export function holdOver({ line, unit, sensor }: Over): Link['hold'] {
  const { hold, countsFrom } = registerMapping(sensor.mapping)
  if (!hold) return null
  return async (held) => {
    const block = blockOf(hold.at, countsFrom)
    const wanted = held ? hold.on : hold.off
    const bits = isBits(hold.at.table)
    const bytes = bits ? Buffer.alloc(0) : encodeRegisters(wanted, hold.at)
    const writing = bits
      ? coil(block.address, wanted, hold.many)
      : { address: block.address, bytes, one: bytes.length === 2 && !hold.many }
    const words = `Unit ${unit}: ${held ? 'hold' : 'release'} outputs, ${registerText(hold.at)}`
    await line.inTurn<unknown>({ unit, words, ask: request(writing), again: true })
    const back = await line.inTurn({ unit, words: wordsFor(unit, block), ask: (c) => readBlock(c, block), again: true })
    const found = dataIn([{ ...block, bytes: back }], { countsFrom }).find(hold.at)
    if (found?.value !== (bits ? Number(wanted !== 0) : wanted)) {
      throw new LineProblem('exception', `The device does not ${held ? 'hold its outputs' : 'let its outputs go'}.`)
    }
  }
}
