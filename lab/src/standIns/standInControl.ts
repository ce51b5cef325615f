import { type CalibrationParameters, modelOf, type SensorKind } from '@frustum/core'
import { ModbusLine } from '@frustum/server/protocols'
import { BATHS, CONTROL_REGISTERS } from './controlRegisters.ts'
import { REGISTERS } from './registerMap.ts'

/** What the sensor of a stand-in is in, and the bits of what is wrong with it. */
export interface StandInState {
  bath: string
  faults: number
}

/** Plays with one stand-in: its hands, for nobody can dip a simulated sensor. A line of its own, beside the device's. */
export class StandInControl {
  private readonly line: ModbusLine
  private readonly unit: number

  constructor({ host, port, unit }: { host: string; port: number; unit: number }) {
    this.line = new ModbusLine({ protocol: 'modbus-tcp', settings: { host, port } })
    this.unit = unit
  }

  private ask<T>(ask: Parameters<typeof this.line.inTurn<T>>[0]['ask']): Promise<T> {
    return this.line.inTurn({ unit: this.unit, words: 'Plays with a stand-in', ask, again: true })
  }

  state(): Promise<StandInState> {
    return this.ask(async (client) => {
      const { data } = await client.readHoldingRegisters(CONTROL_REGISTERS.immersion, 2)
      return { bath: BATHS[data[0] ?? 0] ?? 'process', faults: data[1] ?? 0 }
    })
  }

  putInto(bath: string): Promise<void> {
    return this.write('immersion', BATHS.indexOf(bath))
  }

  setFaults(bits: number): Promise<void> {
    return this.write('faults', bits)
  }

  /** Takes the coating off, as a brush does. */
  wipe(): Promise<void> {
    return this.write('wipe', 1)
  }

  /** What the simulator in place of the sensor plays, in the core unit of the signal and in degC. */
  async simulate(signal: number, temperature: number): Promise<void> {
    const words = Buffer.alloc(8)
    words.writeFloatBE(signal, 0)
    words.writeFloatBE(temperature, 4)
    await this.ask((client) => client.writeRegisters(CONTROL_REGISTERS.simulatedSignal, words))
  }

  /** Keys a calibration in at the device itself, whatever it is read by. */
  async keyIn(kind: SensorKind, calibration: CalibrationParameters): Promise<void> {
    for (const [i, { key, scale }] of modelOf(kind).parameters.entries()) {
      const value = calibration[key]
      if (value === undefined) continue
      const words = Buffer.alloc(4)
      words.writeFloatBE(value * scale)
      await this.ask((client) => client.writeRegisters(REGISTERS.holding.parameters[i] as number, words))
    }
  }

  close(): void {
    this.line.close()
  }

  private async write(register: 'immersion' | 'faults' | 'wipe', value: number): Promise<void> {
    await this.ask((client) => client.writeRegister(CONTROL_REGISTERS[register], value))
  }
}
