import type { Clock, RawView } from '@frustum/contract'
import { Exchanges } from '../../exchanges.ts'
import { LineProblem } from '../../lineProblem.ts'
import type { Bus, Driver, FollowedDevice, LineState, Link, Told, Tried } from '../../link.ts'
import { type DeviceData, rawReadings, readingOf } from '../../mapping/readSensor.ts'
import type { FieldSource } from '../messages/fieldFinder.ts'
import type { MessageRecord } from '../messages/message.ts'
import { foundIn, MessageSensors, mainPlace, newestWith } from '../messages/messageSensors.ts'
import { readPayload } from '../messages/payload.ts'
import { FIELDS, fieldMapping } from '../messages/scheme.ts'
import type { Received } from '../protocol.ts'

/** What a record holds for each place. */
export const dataIn = (record: MessageRecord): DeviceData => ({ scheme: FIELDS, find: (at) => foundIn(record, at) })

/** Devices that send by themselves. What is kept of it is kept by who takes it in; here is only what is of now. */
export class PushConnection implements Driver {
  readonly exchanges: Exchanges
  private readonly sensors: MessageSensors
  private lineState: LineState

  constructor(
    bus: Bus,
    private readonly clock: Clock,
    private readonly told: Told,
    private readonly received: ReadonlyMap<number, Received>,
  ) {
    this.exchanges = new Exchanges(clock)
    this.sensors = new MessageSensors(told, clock, bus.settings.everyMs as number | undefined)
    this.lineState = { kind: 'waiting', since: clock.now(), why: null }
  }

  state(): LineState {
    return this.lineState
  }

  follow(devices: readonly FollowedDevice[]): void {
    this.sensors.follow(devices)
  }

  link(): Link | null {
    return { calibration: null, hold: null }
  }

  raw(sensorId: number): RawView[] {
    return this.sensors.raw(sensorId)
  }

  /** Something came of a device, and is kept: the newest record of each of its sensors is of now. */
  came(
    bytes: number,
    outcome: string,
    text: string,
    newest: ReadonlyMap<number, { record: MessageRecord; at: number }>,
  ): void {
    this.note(bytes, outcome, text, false)
    if (this.lineState.kind !== 'up') this.lineState = { kind: 'up', since: this.clock.now(), why: null }
    for (const [sensorId, { record, at }] of newest) this.sensors.take(sensorId, dataIn(record), at)
  }

  /** What came could not be read. */
  refused(deviceId: number, bytes: number, text: string, why: string): void {
    this.note(bytes, why, text, true)
    for (const { device, sensor } of this.sensors.all())
      if (device.id === deviceId)
        this.sensors.failed(sensor.id, new LineProblem('garbled', `What came last is not read: ${why}`))
  }

  private note(bytes: number, outcome: string, text: string, failed: boolean): void {
    this.exchanges.note({
      at: this.exchanges.now(),
      words: `${bytes} bytes came`,
      outcome,
      failed,
      sent: Buffer.alloc(0),
      received: Buffer.from(text.slice(0, 300)),
      took: null,
    })
  }

  async tryOnce(device: FollowedDevice): Promise<Tried> {
    const [sensor] = device.sensors
    const body = this.received.get(device.id)
    if (!body) return { raw: [], reading: null, why: 'Nothing came yet. Let the device send once.' }
    if (!sensor) return { raw: [], reading: null, why: null }
    try {
      const { format = 'json', time } = fieldMapping(sensor.mapping)
      const records = readPayload(body.text, { format, time: time?.field, now: body.at })
      const record = newestWith(records, mainPlace(sensor)?.field ?? '')
      if (!record) return { raw: [], reading: null, why: 'Its field is not in what came last.' }
      const raw = rawReadings(sensor, dataIn(record))
      const reading = readingOf(sensor, dataIn(record), {
        at: record.at ?? body.at,
        temperatureAt: this.told.temperatureAt,
      })
      return { raw, reading, why: null }
    } catch (error) {
      return { raw: [], reading: null, why: (error as Error).message }
    }
  }

  close(): void {
    this.sensors.close()
  }
}

/** How often a search looks at what was received, ms. */
const LOOK_MS = 500

/** Looks at what a device sends by itself. */
export const receivedSource = (received: () => Received | undefined): FieldSource => ({
  words: 'Waiting for the device to send',
  open: ({ heard }) => {
    let last: Received | undefined
    const look = () => {
      const body = received()
      if (!body || body === last) return
      last = body
      heard('', body.text, false)
    }
    look()
    const timer = setInterval(look, LOOK_MS)
    return () => clearInterval(timer)
  },
})
