import type { ModbusLinkSettings } from '@frustum/contract'
import { type Characteristic, channelOf, type SensorKind } from '@frustum/core'
import { BATHS, REGISTERS } from '@frustum/demo'
import ModbusRTU from 'modbus-serial'
import type { Link, LinkReading } from './link.ts'

const ANSWER_WITHIN_MS = 900
/** By the Modbus application protocol. */
const ILLEGAL_ADDRESS = 2
const { input, holding } = REGISTERS

/** A transmitter on Modbus TCP, with the register map of docs/formats.md. */
export class ModbusLink implements Link {
  private client: ModbusRTU | null = null
  private closed = false
  private queue: Promise<unknown> = Promise.resolve()
  private inputLength: number = input.length

  constructor(
    private readonly settings: ModbusLinkSettings,
    private readonly kind: SensorKind,
  ) {}

  read(): Promise<LinkReading> {
    return this.inTurn(async (client) => {
      const at = Date.now()
      const buffer = await this.inputRegisters(client)
      return {
        at,
        signal: finite(buffer.readFloatBE(2 * input.signal)),
        temperature: finite(buffer.readFloatBE(2 * input.temperature)),
        shown: finite(buffer.readFloatBE(2 * input.shown)),
        ...reported(buffer),
      }
    })
  }

  /** The resistances stand last: a device of the map without them refuses the longer block, and is asked for the shorter. */
  private async inputRegisters(client: ModbusRTU): Promise<Buffer> {
    try {
      return (await client.readInputRegisters(0, this.inputLength)).buffer
    } catch (error) {
      const refused = (error as { modbusCode?: number }).modbusCode === ILLEGAL_ADDRESS
      if (!refused || this.inputLength === input.glass) throw error
      this.inputLength = input.glass
      return (await client.readInputRegisters(0, this.inputLength)).buffer
    }
  }

  readCalibration(): Promise<Characteristic> {
    return this.inTurn(async (client) => {
      const { buffer } = await client.readHoldingRegisters(0, holding.length)
      const entries = this.parameters.flatMap(({ key, scale }, i): [string, number][] => {
        const value = buffer.readFloatBE(2 * (holding.parameters[i] as number))
        // A parameter that the device does not use holds no number.
        return Number.isFinite(value) ? [[key, value / scale]] : []
      })
      return Object.fromEntries(entries)
    })
  }

  async writeCalibration(calibration: Characteristic): Promise<Characteristic> {
    await this.inTurn(async (client) => {
      const { buffer } = await client.readHoldingRegisters(0, holding.length)
      this.parameters.forEach(({ key, scale }, i) => {
        buffer.writeFloatBE(scale * (calibration[key] ?? Number.NaN), 2 * (holding.parameters[i] as number))
      })
      await client.writeRegisters(0, buffer)
    })
    return this.readCalibration()
  }

  /** Registers that only stand-ins have. */
  async standIn(): Promise<{ bath: string; faults: number }> {
    return this.inTurn(async (client) => {
      const { data } = await client.readHoldingRegisters(REGISTERS.standIn.immersion, 2)
      return { bath: BATHS[data[0] ?? 0] ?? 'process', faults: data[1] ?? 0 }
    })
  }

  async putInto(bath: string): Promise<void> {
    await this.writeStandIn('immersion', BATHS.indexOf(bath))
  }

  async writeStandIn(register: 'immersion' | 'faults' | 'wipe', value: number): Promise<void> {
    await this.inTurn((client) => client.writeRegister(REGISTERS.standIn[register], value))
  }

  /** What the simulator in place of the sensor plays. */
  async simulate(signal: number, temperature: number): Promise<void> {
    const words = Buffer.alloc(8)
    words.writeFloatBE(signal, 0)
    words.writeFloatBE(temperature, 4)
    await this.inTurn((client) => client.writeRegisters(REGISTERS.standIn.simulatedSignal, words))
  }

  private get parameters() {
    return channelOf(this.kind).parameters
  }

  close(): void {
    this.closed = true
    this.hangUp()
  }

  private hangUp(): void {
    this.client?.close(() => undefined)
    this.client = null
  }

  /**
   * One request at a time on a line. What got no answer is asked once more on a line opened anew: a device that was
   * restarted, or an answer that came while this process was busy, is no silent device. No request does more when it
   * comes twice.
   */
  private inTurn<T>(ask: (client: ModbusRTU) => Promise<T>): Promise<T> {
    const run = this.queue.then(() =>
      this.askOnce(ask).catch((error) => {
        const answered = (error as { modbusCode?: number }).modbusCode !== undefined
        if (answered || this.closed) throw error
        return this.askOnce(ask)
      }),
    )
    this.queue = run.catch(() => undefined)
    return run
  }

  private async askOnce<T>(ask: (client: ModbusRTU) => Promise<T>): Promise<T> {
    try {
      return await ask(await this.connected())
    } catch (error) {
      this.hangUp()
      throw error
    }
  }

  private async connected(): Promise<ModbusRTU> {
    if (this.client?.isOpen) return this.client
    const client = new ModbusRTU()
    client.on('error', () => undefined)
    await client.connectTCP(this.settings.host, { port: this.settings.port })
    client.setID(this.settings.unit)
    client.setTimeout(ANSWER_WITHIN_MS)
    this.client = client
    return client
  }
}

/** A device that does not measure a resistance holds no number there. */
function reported(buffer: Buffer): Pick<LinkReading, 'resistances'> {
  const known = Object.fromEntries(
    (['glass', 'junction'] as const)
      .filter((which) => buffer.length > 2 * input[which])
      .map((which) => [which, buffer.readFloatBE(2 * input[which])] as const)
      .filter(([, value]) => Number.isFinite(value) && value > 0),
  )
  return Object.keys(known).length > 0 ? { resistances: known } : {}
}

function finite(value: number): number {
  if (!Number.isFinite(value)) throw new Error('The device answered with something that is not a number.')
  return value
}
