import type { Clock, LinkSettings } from '@frustum/contract'
import type { SensorKind } from '@frustum/core'
import type { Link } from './link.ts'
import { ModbusLink } from './modbus/modbusLink.ts'

/** The line to a device by its settings. */
export function openLink(settings: LinkSettings, kind: SensorKind, clock: Clock): Link {
  switch (settings.kind) {
    case 'modbus-tcp':
      return new ModbusLink(settings, kind, clock)
  }
}
