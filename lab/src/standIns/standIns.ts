import { type Clock, systemClock } from '@frustum/contract/clock'
import type { Appearance } from './appearance.ts'
import type { Told } from './messages.ts'
import { startModbus } from './modbusStandIns.ts'
import { startBroker } from './standInBroker.ts'
import { startLogger } from './standInLogger.ts'
import { startPages } from './standInPages.ts'
import { StandInTransmitter, type TransmitterSetting } from './transmitter.ts'

/** A simulated transmitter, as one unit on the Modbus line. */
export interface StandInUnit extends Omit<TransmitterSetting, 'seed' | 'clock'> {
  unit: number
  /** The device that its sensor is read by, where that is another one. */
  as?: Appearance | undefined
}

/** Where the stand-ins are reached, all on loopback. */
export interface StandInPorts {
  /** Modbus TCP; everything can be played with here, however it is read. */
  port: number
  broker: number
  pages: number
  /** Mail, and webhooks with the page of all that came; where there is a post office. */
  post?: { mail: number; hooks: number }
}

export interface StandIns extends StandInPorts {
  /** From now on the logger sends to this address. */
  startLogger(url: string): void
  close(): Promise<void>
}

/** How often monitors publish and loggers note, ms of the wall clock: slow ones as such devices are, unless time runs faster. */
const PUBLISH_MS = { real: 1000, fast: 120 } as const
const LOG_MS = { real: 5000, fast: 250 } as const

/** All stand-ins: the Modbus line with all units on it, and what else they are read by. */
export async function startStandIns(
  settings: readonly StandInUnit[],
  { port, clock = systemClock }: { port?: number; clock?: Clock } = {},
): Promise<StandIns> {
  const pace = clock.rate === 1 ? 'real' : 'fast'
  const devices = settings.map((setting) => ({
    ...setting,
    transmitter: new StandInTransmitter({ ...setting, seed: 7919 * setting.unit, clock }),
  }))
  const monitors = new Map<string, Told>()
  const pages = new Map<string, Told[]>()
  const loggers: Told[] = []
  for (const { as, transmitter } of devices) {
    if (!as) continue
    const told = { transmitter, mapping: as.mapping }
    if (as.by === 'broker') monitors.set(as.topic, told)
    else if (as.by === 'page') pages.set(as.path, [...(pages.get(as.path) ?? []), told])
    else if (as.by === 'logger') loggers.push(told)
  }
  const modbus = await startModbus(devices, port)
  const broker = monitors.size > 0 ? await startBroker(monitors, PUBLISH_MS[pace]) : null
  const status = pages.size > 0 ? await startPages(pages) : null
  const stops: (() => void)[] = []
  return {
    port: modbus.port,
    broker: broker?.port ?? 0,
    pages: status?.port ?? 0,
    startLogger: (url) => {
      for (const told of loggers) stops.push(startLogger(told, { url, everyMs: LOG_MS[pace], clock }))
    },
    close: async () => {
      for (const stop of stops) stop()
      await Promise.all([modbus.close(), broker?.close(), status?.close()])
    },
  }
}
