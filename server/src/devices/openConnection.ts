import type { Clock } from '@frustum/contract'
import type { Bus, Driver, Told } from './link.ts'
import { HttpConnection } from './protocols/http/httpConnection.ts'
import { ModbusConnection } from './protocols/modbus/modbusConnection.ts'
import { MqttConnection } from './protocols/mqtt/mqttConnection.ts'
import { PushConnection, type SentBody } from './protocols/push/pushConnection.ts'

export interface Opening {
  bus: Bus
  /** How often its devices are asked unless its settings say otherwise, ms. */
  everyMs: number
  clock: Clock
  told: Told
  /** What devices sent by themselves last, by their numbers. */
  sent: ReadonlyMap<number, SentBody>
}

/** A connection by its settings. */
export function openConnection({ bus, everyMs, clock, told, sent }: Opening): Driver {
  switch (bus.protocol) {
    case 'modbus-tcp':
    case 'modbus-rtu-tcp':
    case 'modbus-serial':
      return new ModbusConnection(bus, bus.settings.everyMs ?? everyMs, clock, told)
    case 'mqtt':
      return new MqttConnection(bus, clock, told)
    case 'http':
      return new HttpConnection(bus, clock, told)
    case 'push':
      return new PushConnection(bus, clock, told, sent)
  }
}
