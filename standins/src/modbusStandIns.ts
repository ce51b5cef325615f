import { createServer } from 'node:net'
import type { ElectrodeTruth, SolutionTruth } from '@frustum/core'
import { type FleetSensor, REGISTERS } from '@frustum/demo'
import { ServerTCP } from 'modbus-serial'
import { StandInTransmitter } from './transmitter.ts'

interface StandInOptions {
  fleet: readonly FleetSensor[]
  truthAt: (sensor: FleetSensor, day: number) => ElectrodeTruth
  processAt: (sensor: FleetSensor, at: number) => SolutionTruth
  /** 0 takes a free one. */
  port: number
}

const { input, holding, standIn } = REGISTERS

/** Illegal data address, by the Modbus application protocol. */
const illegalAddress = () => Object.assign(new Error('Illegal data address'), { modbusErrorCode: 2 })

/** One Modbus TCP server on loopback; each linked sensor of the fleet is one unit on it. */
export async function startStandIns(options: StandInOptions): Promise<{ port: number; close(): Promise<void> }> {
  const units = new Map<number, StandInTransmitter>()
  for (const sensor of options.fleet) {
    if (sensor.unit === null) continue
    const process = () => options.processAt(sensor, Date.now())
    units.set(sensor.unit, new StandInTransmitter(options.truthAt(sensor, 0), process, 7919 * sensor.unit))
  }
  const port = options.port || (await freePort())
  const server = new ServerTCP(registersOf(units), { host: '127.0.0.1', port, unitID: 255, debug: false })
  await new Promise<void>((resolve, reject) => {
    server.on('initialized', () => resolve())
    server.on('serverError', (error: Error | null) => reject(error ?? new Error(`Port ${port} cannot be used`)))
  })
  return { port, close: () => new Promise((resolve) => server.close(() => resolve())) }
}

function registersOf(units: Map<number, StandInTransmitter>) {
  const unit = (id: number): StandInTransmitter => {
    const found = units.get(id)
    if (!found) throw illegalAddress()
    return found
  }
  const readInput = (address: number, length: number, id: number, answer: Answer) => {
    const transmitter = unit(id)
    // A device that is off the line lets the caller wait.
    if (transmitter.silent) return
    reply(answer, () => {
      const reading = transmitter.read()
      const words = new Uint16Array(input.length)
      putFloat(words, input.millivolts, reading.millivolts)
      putFloat(words, input.temperature, reading.temperature)
      putFloat(words, input.shown, reading.shown)
      words[input.refresh] = reading.refresh
      return slice(words, address, length)
    })
  }
  const readHolding = (address: number, length: number, id: number, answer: Answer) => {
    const transmitter = unit(id)
    const played = address >= standIn.immersion
    if (transmitter.silent && !played) return
    reply(answer, () =>
      played
        ? slice(Uint16Array.of(transmitter.immersion, transmitter.faults, 0), address - standIn.immersion, length)
        : slice(holdingWords(transmitter), address, length),
    )
  }
  return {
    getMultipleInputRegisters: readInput,
    getMultipleHoldingRegisters: readHolding,
    setRegister: async (address: number, value: number, id: number) => write(unit(id), address, [value]),
    setRegisterArray: async (address: number, values: number[], id: number) => write(unit(id), address, values),
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

function holdingWords(transmitter: StandInTransmitter): Uint16Array {
  const words = new Uint16Array(holding.length)
  putFloat(words, holding.slopePercent, 100 * transmitter.calibration.slopeEfficiency)
  putFloat(words, holding.zero, transmitter.calibration.zero)
  words[holding.outputsHeld] = transmitter.outputsHeld ? 1 : 0
  return words
}

function write(transmitter: StandInTransmitter, address: number, values: number[]): void {
  if (address >= standIn.immersion) {
    values.forEach((value, i) => {
      if (address + i === standIn.immersion) transmitter.putInto(value)
      else if (address + i === standIn.faults) transmitter.setFaults(value)
      else if (address + i === standIn.wipe && value === 1) transmitter.wipe()
    })
    return
  }
  const words = holdingWords(transmitter)
  if (address + values.length > holding.length) throw illegalAddress()
  words.set(values, address)
  transmitter.calibration = {
    slopeEfficiency: getFloat(words, holding.slopePercent) / 100,
    zero: getFloat(words, holding.zero),
  }
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

function freePort(): Promise<number> {
  return new Promise((resolve, reject) => {
    const probe = createServer()
    probe.on('error', reject)
    probe.listen(0, '127.0.0.1', () => {
      const address = probe.address()
      const port = typeof address === 'object' && address ? address.port : 0
      probe.close(() => resolve(port))
    })
  })
}
