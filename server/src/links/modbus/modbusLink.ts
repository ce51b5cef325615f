import type { Clock, ModbusLinkSettings } from '@frustum/contract'
import { type CalibrationParameters, modelOf, type SensorKind } from '@frustum/core'
import type ModbusRTU from 'modbus-serial'
import type { Link, LinkReading } from '../link.ts'
import { ModbusLine } from './modbusLine.ts'
import { REGISTERS } from './registerMap.ts'

/** By the Modbus application protocol. */
const ILLEGAL_ADDRESS = 2
const { input, holding } = REGISTERS

/** A transmitter on Modbus TCP, with the register map of docs/formats.md. */
export class ModbusLink implements Link {
  private readonly line: ModbusLine
  private inputLength: number = input.length

  constructor(
    settings: ModbusLinkSettings,
    private readonly kind: SensorKind,
    private readonly clock: Clock,
  ) {
    this.line = new ModbusLine(settings)
  }

  read(): Promise<LinkReading> {
    return this.line.inTurn(async (client) => {
      const at = this.clock.now()
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

  readCalibration(): Promise<CalibrationParameters> {
    return this.line.inTurn(async (client) => {
      const { buffer } = await client.readHoldingRegisters(0, holding.length)
      const entries = this.parameters.flatMap(({ key, scale }, i): [string, number][] => {
        const value = buffer.readFloatBE(2 * (holding.parameters[i] as number))
        // A parameter that the device does not use holds no number.
        return Number.isFinite(value) ? [[key, value / scale]] : []
      })
      return Object.fromEntries(entries)
    })
  }

  async writeCalibration(calibration: CalibrationParameters): Promise<CalibrationParameters> {
    await this.line.inTurn(async (client) => {
      const { buffer } = await client.readHoldingRegisters(0, holding.length)
      this.parameters.forEach(({ key, scale }, i) => {
        buffer.writeFloatBE(scale * (calibration[key] ?? Number.NaN), 2 * (holding.parameters[i] as number))
      })
      await client.writeRegisters(0, buffer)
    })
    return this.readCalibration()
  }

  private get parameters() {
    return modelOf(this.kind).parameters
  }

  close(): void {
    this.line.close()
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
