import type { Clock } from '@frustum/contract'
import type { Driver, Told } from './link.ts'
import { ModbusConnection } from './modbus/modbusConnection.ts'
import type { Bus } from './modbus/modbusLine.ts'

export interface Opening {
  bus: Bus
  /** How often its devices are asked unless its settings say otherwise, ms. */
  everyMs: number
  clock: Clock
  told: Told
}

/** A connection by its settings. */
export function openConnection({ bus, everyMs, clock, told }: Opening): Driver {
  switch (bus.protocol) {
    case 'modbus-tcp':
    case 'modbus-rtu-tcp':
    case 'modbus-serial':
      return new ModbusConnection(bus, bus.settings.everyMs ?? everyMs, clock, told)
  }
}
