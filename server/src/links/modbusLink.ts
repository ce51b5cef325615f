import type { ModbusLinkSettings } from '@frustum/contract'
import type { PhCharacteristic } from '@frustum/core'
import { REGISTERS } from '@frustum/demo'
import ModbusRTU from 'modbus-serial'
import type { Link, LinkReading } from './link.ts'

const ANSWER_WITHIN_MS = 900
const { input, holding } = REGISTERS

/** A pH transmitter on Modbus TCP, with the register map of docs/formats.md. */
export class ModbusLink implements Link {
  private client: ModbusRTU | null = null
  private queue: Promise<unknown> = Promise.resolve()

  constructor(private readonly settings: ModbusLinkSettings) {}

  read(): Promise<LinkReading> {
    return this.inTurn(async (client) => {
      const at = Date.now()
      const { buffer } = await client.readInputRegisters(0, input.length)
      return {
        at,
        millivolts: finite(buffer.readFloatBE(2 * input.millivolts)),
        temperature: finite(buffer.readFloatBE(2 * input.temperature)),
        shown: finite(buffer.readFloatBE(2 * input.shown)),
      }
    })
  }

  readCalibration(): Promise<PhCharacteristic> {
    return this.inTurn(async (client) => {
      const { buffer } = await client.readHoldingRegisters(0, holding.length)
      return {
        slopeEfficiency: finite(buffer.readFloatBE(2 * holding.slopePercent)) / 100,
        zero: finite(buffer.readFloatBE(2 * holding.zero)),
      }
    })
  }

  async writeCalibration(calibration: PhCharacteristic): Promise<PhCharacteristic> {
    await this.inTurn(async (client) => {
      const words = Buffer.alloc(8)
      words.writeFloatBE(100 * calibration.slopeEfficiency, 0)
      words.writeFloatBE(calibration.zero, 4)
      await client.writeRegisters(holding.slopePercent, words)
    })
    return this.readCalibration()
  }

  /** Registers that only stand-ins have. */
  async standIn(): Promise<{ immersion: number; faults: number }> {
    return this.inTurn(async (client) => {
      const { data } = await client.readHoldingRegisters(REGISTERS.standIn.immersion, 2)
      return { immersion: data[0] ?? 0, faults: data[1] ?? 0 }
    })
  }

  async writeStandIn(register: keyof typeof REGISTERS.standIn, value: number): Promise<void> {
    await this.inTurn((client) => client.writeRegister(REGISTERS.standIn[register], value))
  }

  close(): void {
    this.client?.close(() => undefined)
    this.client = null
  }

  /** One request at a time on a line; after a failure the line is opened anew. */
  private inTurn<T>(ask: (client: ModbusRTU) => Promise<T>): Promise<T> {
    const run = this.queue.then(async () => {
      try {
        return await ask(await this.connected())
      } catch (error) {
        this.close()
        throw error
      }
    })
    this.queue = run.catch(() => undefined)
    return run
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

function finite(value: number): number {
  if (!Number.isFinite(value)) throw new Error('The device answered with something that is not a number.')
  return value
}
