import { type Clock, givesOf, type RawView } from '@frustum/contract'
import type { SensorReading } from '@frustum/core'
import { completed, modelOf, nullIfOutOfRange } from '@frustum/core'
import { and, eq, inArray, isNull } from 'drizzle-orm'
import type { Logger } from 'pino'
import type { Database } from '../database/open.ts'
import { connectionSecrets, connections, positionCodes, positions } from '../database/schema.ts'
import { calibrationsInForce, type Installed, installedSensors } from '../sensors.ts'
import type { Bus, Driver, FollowedDevice, FollowedSensor, Link, Told, Tried } from './link.ts'
import { LiveValues } from './liveValues.ts'
import type { Received } from './protocols/protocol.ts'
import { PushConnection } from './protocols/push/pushConnection.ts'
import { protocolOf, protocols } from './protocols/registry.ts'

/** Restricts a query to connections that can be opened: a database may name a protocol that this version doesn't have. */
export const isRegistered = () =>
  inArray(
    connections.protocol,
    protocols().map(({ key }) => key),
  )

interface Open {
  driver: Driver
  /** What it was opened with: opened anew when that changes. */
  by: string
  sensors: Map<number, string>
}

interface Parts {
  db: Database
  /** How often devices are asked, unless their connection says otherwise, ms. */
  pollMs: number
  log: Logger
  clock: Clock
}

/** All connections that are open, as the database has them; opened, changed and closed while the server runs. */
export class Links {
  readonly live: LiveValues
  /** What devices sent to their ingest address last, by device. */
  readonly received = new Map<number, Received>()
  private readonly open = new Map<number, Open>()
  private readonly told: Told
  private following: Promise<void> = Promise.resolve()
  /** One that waits for its turn serves all who ask until it begins. */
  private next: Promise<void> | null = null
  private stopped = false
  /** Codes that positions had before: mappings may name them still. */
  private renamed = new Map<string, string>()
  /** Of sensors whose device gives the signal alone: what it is worth. */
  private worth = new Map<number, (reading: SensorReading) => number | null>()

  constructor(private readonly parts: Parts) {
    const live = new LiveValues(parts.log, parts.clock)
    this.live = live
    live.workOut = (id, reading) => this.worth.get(id)?.(reading) ?? null
    this.told = {
      reading: (id, reading) => live.reading(id, reading),
      failed: (id, problem) => live.failed(id, problem),
      temperatureAt: (code) => live.temperatureAt(code) ?? live.temperatureAt(this.renamed.get(code) ?? code),
      isWatched: (id) => live.isWatched(id),
      everyMs: (id) => live.everyMsOf(id),
    }
  }

  /** Brings the open connections to what the database says; asked again meanwhile, once more and no more often. */
  follow(): Promise<void> {
    this.next ??= this.following
      .then(() => {
        this.next = null
        return this.followNow()
      })
      .catch((error) => {
        if (!this.stopped) this.parts.log.error({ err: error }, 'connections not brought up to date')
      })
    this.following = this.next
    return this.next
  }

  private async followNow(): Promise<void> {
    const { db } = this.parts
    if (this.stopped) return
    const rows = await db
      .select({
        id: connections.id,
        protocol: connections.protocol,
        settings: connections.settings,
        secret: connectionSecrets.secret,
      })
      .from(connections)
      .leftJoin(connectionSecrets, eq(connectionSecrets.connectionId, connections.id))
      .where(and(isNull(connections.archivedAt), isRegistered()))
    const installed = await installedSensors(db)
    await this.learnWorth(installed)
    const former = await db
      .select({ was: positionCodes.code, now: positions.code })
      .from(positionCodes)
      .innerJoin(positions, eq(positionCodes.positionId, positions.id))
    this.renamed = new Map(former.map(({ was, now }) => [was, now]))
    const followed: { id: number; code: string; anew: boolean }[] = []
    for (const [id, { driver }] of this.open) {
      if (rows.some((row) => row.id === id)) continue
      driver.close()
      this.open.delete(id)
    }
    const turns: (() => void)[] = []
    for (const { id, ...bus } of rows) {
      const devices = devicesOn(id, installed)
      const by = JSON.stringify(bus)
      const before = this.open.get(id)
      const sensors = new Map(devices.flatMap((d) => d.sensors.map((s) => [s.id, identity(d, s)] as const)))
      for (const device of devices) {
        for (const { id: sensor, code } of device.sensors) {
          followed.push({
            id: sensor,
            code,
            anew: before?.by !== by || before.sensors.get(sensor) !== sensors.get(sensor),
          })
        }
      }
      if (before?.by === by) {
        before.sensors = sensors
        turns.push(() => before.driver.follow(devices))
        continue
      }
      before?.driver.close()
      // Told first that they are followed: the first reading may come at once.
      turns.push(() => {
        const driver = this.openBus(bus)
        this.open.set(id, { driver, by, sensors })
        driver.follow(devices)
      })
    }
    this.live.follow(followed)
    for (const turn of turns) turn()
  }

  /** What signals are worth by the calibrations that hold now. */
  private async learnWorth(installed: readonly Installed[]): Promise<void> {
    const { db, clock } = this.parts
    const bare = installed.filter(({ position }) => position.mapping?.signal && !position.mapping.value)
    const held = await calibrationsInForce(
      db,
      bare.map((i) => i.installation.id),
      new Date(clock.now()),
    )
    this.worth = new Map(
      bare.map(({ position, installation, device }) => {
        const model = modelOf(position.kind)
        const calibration = completed(model, held.get(installation.id) ?? {})
        const usual = position.processTemperature
        return [
          position.id,
          ({ signal, temperature }) =>
            signal === null
              ? null
              : nullIfOutOfRange(() => model.toShown(signal, temperature ?? usual, calibration, device.setting)),
        ]
      }),
    )
  }

  /** The way to the device at a position; null where it has none. */
  link(position: string): Link | null {
    const id = this.live.idOf(position)
    return id === null ? null : (this.driverOf(id)?.link(id) ?? null)
  }

  /** The connection of a number as it is open now; null where it is not. */
  driver(connection: number): Driver | null {
    return this.open.get(connection)?.driver ?? null
  }

  /** What came last for a position, number by number. */
  raw(positionId: number): RawView[] {
    return this.driverOf(positionId)?.raw(positionId) ?? []
  }

  /** Reads once what is not kept yet: over the connection that is open, or one that is opened for it alone. */
  async tryOnce(
    connection: number | null,
    { protocol, settings, secret }: Bus,
    device: FollowedDevice,
  ): Promise<Tried> {
    const open = connection === null ? undefined : this.open.get(connection)
    const bus = { protocol, settings, secret }
    if (open?.by === JSON.stringify(bus)) return open.driver.tryOnce(device)
    const driver = this.openBus(bus)
    try {
      return await driver.tryOnce(device)
    } finally {
      driver.close()
    }
  }

  private openBus(bus: Bus): Driver {
    const { clock, pollMs } = this.parts
    return protocolOf(bus.protocol).open({ bus, everyMs: pollMs, clock, told: this.told, received: this.received })
  }

  /** The connection over which a device sends by itself; null where it has none that is followed. */
  pushOf(sensorIds: readonly number[]): PushConnection | null {
    for (const { driver, sensors } of this.open.values())
      if (driver instanceof PushConnection && sensorIds.some((id) => sensors.has(id))) return driver
    return null
  }

  private driverOf(sensorId: number): Driver | null {
    for (const { driver, sensors } of this.open.values()) if (sensors.has(sensorId)) return driver
    return null
  }

  stop(): void {
    this.stopped = true
    for (const { driver } of this.open.values()) driver.close()
  }
}

/** What a sensor is read by; with another one it is not known any more what it reads. */
const identity = (device: FollowedDevice, { mapping }: FollowedSensor): string =>
  JSON.stringify([device.id, device.address, mapping])

/** The devices of a connection with the sensors that are in use on them. */
function devicesOn(connection: number, installed: readonly Installed[]): FollowedDevice[] {
  const devices = new Map<
    number,
    { id: number; name: string; address: FollowedDevice['address']; sensors: FollowedSensor[] }
  >()
  for (const { position, device } of installed) {
    if (device.connectionId !== connection || !position.mapping || !isLinked({ position, device })) continue
    const known = devices.get(device.id) ?? { id: device.id, name: device.name, address: device.address, sensors: [] }
    devices.set(device.id, known)
    known.sensors.push({
      id: position.id,
      code: position.code,
      kind: position.kind,
      setting: device.setting,
      mapping: position.mapping,
    })
  }
  return [...devices.values()]
}

/** Whether a sensor is read over a line, by what is kept of it. */
export const isLinked = ({ device, position }: Pick<Installed, 'device' | 'position'>): boolean =>
  device.connectionId !== null && position.mapping !== null && givesOf(position.mapping) !== null

/** Whether its numbers may be written over the line. */
export const isWritable = (installed: Pick<Installed, 'device' | 'position'>): boolean => {
  const { mapping } = installed.position
  return isLinked(installed) && mapping?.writes === true && Object.keys(mapping.calibration ?? {}).length > 0
}
