import { createServer } from 'node:net'
import { ServerTCP } from 'modbus-serial'
import { type Appearance, OtherDevice } from './appearance.ts'
import { CONTROL_REGISTERS } from './controlRegisters.ts'
import { portOf } from './freePort.ts'
import { REGISTERS } from './registerMap.ts'
import type { StandInTransmitter } from './transmitter.ts'

const { input, holding } = REGISTERS
const control = CONTROL_REGISTERS

/** Illegal data address, by the Modbus application protocol. */
const illegalAddress = () => Object.assign(new Error('Illegal data address'), { modbusErrorCode: 2 })

/** Gateway target device failed to respond: what a gateway says of a unit that nobody has. */
const nobodyThere = () => Object.assign(new Error('No such unit'), { modbusErrorCode: 11 })

interface Unit {
  unit: number
  transmitter: StandInTransmitter
  as?: Appearance | undefined
}

/** One Modbus TCP server on loopback with all units on it; port 0 takes a free one. */
export async function startModbus(
  devices: readonly Unit[],
  wanted?: number,
): Promise<{ port: number; close(): Promise<void> }> {
  const units = new Map(devices.map(({ unit, transmitter }) => [unit, transmitter]))
  const others = new Map<number, OtherDevice>()
  for (const { transmitter, as } of devices) {
    if (as?.by !== 'registers') continue
    const device = others.get(as.unit) ?? new OtherDevice()
    others.set(as.unit, device)
    device.add(transmitter, as.mapping)
  }
  const port = wanted || (await freePort())
  const server = new ServerTCP(registersOf(units, others), { host: '127.0.0.1', port, unitID: 255, debug: false })
  await new Promise<void>((resolve, reject) => {
    server.on('initialized', () => resolve())
    server.on('serverError', (error: Error | null) => reject(error ?? new Error(`Port ${port} cannot be used`)))
  })
  return { port, close: () => new Promise((resolve) => server.close(() => resolve())) }
}

function registersOf(units: Map<number, StandInTransmitter>, others: ReadonlyMap<number, OtherDevice>) {
  const unit = (id: number): StandInTransmitter => {
    const found = units.get(id)
    if (!found) throw nobodyThere()
    return found
  }
  const readOther = (
    other: OtherDevice,
    block: { table: 'input' | 'holding'; address: number; length: number },
    answer: Answer,
  ) => {
    if (other.silent) return
    const words = other.read(block.table, block.address, block.length)
    answer(words ? null : illegalAddress(), words ?? [])
  }
  const readInput = (address: number, length: number, id: number, answer: Answer) => {
    const other = others.get(id)
    if (other) return readOther(other, { table: 'input', address, length }, answer)
    const transmitter = units.get(id)
    if (!transmitter) return answer(nobodyThere(), [])
    // A device that is off the line lets the caller wait.
    if (transmitter.silent) return
    reply(answer, () => {
      const reading = transmitter.read()
      const words = new Uint16Array(input.length)
      putFloat(words, input.signal, reading.signal)
      putFloat(words, input.temperature, reading.temperature)
      putFloat(words, input.shown, reading.shown)
      words[input.refresh] = reading.refresh
      const { glass = Number.NaN, junction = Number.NaN } = transmitter.resistances()
      putFloat(words, input.glass, glass)
      putFloat(words, input.junction, junction)
      return slice(words, address, length)
    })
  }
  const readHolding = (address: number, length: number, id: number, answer: Answer) => {
    const other = others.get(id)
    if (other) return readOther(other, { table: 'holding', address, length }, answer)
    const transmitter = units.get(id)
    if (!transmitter) return answer(nobodyThere(), [])
    const played = address >= control.immersion
    if (transmitter.silent && !played) return
    reply(answer, () =>
      played
        ? slice(standInWords(transmitter), address - control.immersion, length)
        : slice(holdingWords(transmitter), address, length),
    )
  }
  const put = (id: number, address: number, values: number[]): void => {
    const other = others.get(id)
    if (!other) write(unit(id), address, values)
    else if (!other.write(address, values)) throw illegalAddress()
  }
  type One = (error: Error | null, word: number) => void
  const one =
    (answer: One): Answer =>
    (error, words) =>
      answer(error, words[0] ?? 0)
  return {
    // The library asks for a single register by another name.
    getInputRegister: (address: number, id: number, answer: One) => readInput(address, 1, id, one(answer)),
    getHoldingRegister: (address: number, id: number, answer: One) => readHolding(address, 1, id, one(answer)),
    getMultipleInputRegisters: readInput,
    getMultipleHoldingRegisters: readHolding,
    setRegister: async (address: number, value: number, id: number) => put(id, address, [value]),
    setRegisterArray: async (address: number, values: number[], id: number) => put(id, address, values),
  }
}

type Answer = (error: Error | null, words: number[]) => void

function reply(answer: Answer, words: () => number[]): void {
  try {
    answer(null, words())
  } catch (error) {
    answer(error as Error, [])
  }
}

/** A parameter as it stands in its register: shares in percent. */
function holdingWords(transmitter: StandInTransmitter): Uint16Array {
  const words = new Uint16Array(holding.length)
  transmitter.parameters.forEach(({ key, scale }, i) => {
    putFloat(words, holding.parameters[i] as number, scale * (transmitter.calibration[key] ?? Number.NaN))
  })
  words[holding.outputsHeld] = transmitter.outputsHeld ? 1 : 0
  return words
}

function standInWords(transmitter: StandInTransmitter): Uint16Array {
  const words = new Uint16Array(control.length)
  words[0] = transmitter.immersion
  words[1] = transmitter.faults
  putFloat(words, control.simulatedSignal - control.immersion, transmitter.simulated.value)
  putFloat(words, control.simulatedTemperature - control.immersion, transmitter.simulated.temperature)
  return words
}

function write(transmitter: StandInTransmitter, address: number, values: number[]): void {
  if (address >= control.immersion) writeStandIn(transmitter, address, values)
  else writeHolding(transmitter, address, values)
}

function writeStandIn(transmitter: StandInTransmitter, address: number, values: number[]): void {
  if (address === control.simulatedSignal && values.length === 4) {
    const words = Uint16Array.from(values)
    transmitter.simulated = { value: getFloat(words, 0), temperature: getFloat(words, 2) }
    return
  }
  values.forEach((value, i) => {
    if (address + i === control.immersion) transmitter.putInto(value)
    else if (address + i === control.faults) transmitter.setFaults(value)
    else if (address + i === control.wipe && value === 1) transmitter.wipe()
  })
}

function writeHolding(transmitter: StandInTransmitter, address: number, values: number[]): void {
  const words = holdingWords(transmitter)
  if (address + values.length > holding.length) throw illegalAddress()
  words.set(values, address)
  // A parameter that the device does not use holds no number.
  const entries = transmitter.parameters.flatMap(({ key, scale }, i): [string, number][] => {
    const value = getFloat(words, holding.parameters[i] as number)
    return Number.isFinite(value) ? [[key, value / scale]] : []
  })
  transmitter.calibration = Object.fromEntries(entries)
  transmitter.outputsHeld = words[holding.outputsHeld] === 1
}

function slice(words: Uint16Array, address: number, length: number): number[] {
  if (address < 0 || address + length > words.length) throw illegalAddress()
  return Array.from(words.subarray(address, address + length))
}

function putFloat(words: Uint16Array, at: number, value: number): void {
  const view = new DataView(new ArrayBuffer(4))
  view.setFloat32(0, value)
  words[at] = view.getUint16(0)
  words[at + 1] = view.getUint16(2)
}

function getFloat(words: Uint16Array, at: number): number {
  const view = new DataView(new ArrayBuffer(4))
  view.setUint16(0, words[at] as number)
  view.setUint16(2, words[at + 1] as number)
  return view.getFloat32(0)
}

async function freePort(): Promise<number> {
  const probe = createServer()
  const port = await portOf(probe)
  await new Promise((resolve) => probe.close(resolve))
  return port
}
