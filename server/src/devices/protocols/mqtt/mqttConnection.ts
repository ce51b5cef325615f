import type { Clock, ConnectionSettings, Place, RawView } from '@frustum/contract'
import mqtt, { type IClientOptions, type MqttClient } from 'mqtt'
import { Exchanges } from '../../exchanges.ts'
import { LineProblem } from '../../lineProblem.ts'
import type { Bus, Driver, FollowedDevice, FollowedSensor, LineState, Link, Told, Tried } from '../../link.ts'
import { type DeviceData, rawReadings, readingOf } from '../../mapping/readSensor.ts'
import type { FieldSource } from '../messages/fieldFinder.ts'
import type { MessageRecord } from '../messages/message.ts'
import {
  asProblem,
  fieldPlaces,
  foundIn,
  foundOf,
  MessageSensors,
  mainPlace,
  newestWith,
} from '../messages/messageSensors.ts'
import { readPayload } from '../messages/payload.ts'
import { FIELDS, fieldMapping } from '../messages/scheme.ts'

export const MQTT_PORT = 1883
export const MQTT_TLS_PORT = 8883

const CONNECT_WITHIN_MS = 5000
/** How soon a broker that is away is tried again, ms. */
const AGAIN_MS = 2000
/** However fast a topic speaks, it is listened to so often, ms; what comes between is overtaken by what comes last. */
const LISTEN_EVERY_MS = 50
/** A message of a sensor is a few hundred bytes. */
const MOST_BYTES = 1_000_000
/** How long a try waits for the next message, ms. */
const TRY_MS = 15_000
/** A temperature under another topic that is older than this is not of now, ms. */
const BESIDE_MS = 15 * 60_000

interface Said {
  text: string
  /** Epoch ms when it came. */
  at: number
  /** It lay with the broker: of when it is nobody knows, unless it says so itself. */
  retained: boolean
  /** Which of all that came it was. */
  order: number
}

/** A broker, with the topics of its devices. It is only listened to. */
export class MqttConnection implements Driver {
  readonly exchanges: Exchanges
  private readonly client: MqttClient
  private readonly sensors: MessageSensors
  private readonly said = new Map<string, Said>()
  /** Sensors by the topics that they are read from. */
  private users = new Map<string, FollowedSensor[]>()
  private subscribed = new Set<string>()
  private readonly pending = new Map<string, { payload: Buffer; retained: boolean; order: number }>()
  private heard = 0
  private flushing: NodeJS.Timeout | null = null
  private lineState: LineState
  private readonly trying = new Set<{ topics: string[]; came: () => void }>()

  constructor(
    private readonly bus: Bus,
    private readonly clock: Clock,
    private readonly told: Told,
  ) {
    this.exchanges = new Exchanges(clock)
    this.sensors = new MessageSensors(told, clock, bus.settings.everyMs as number | undefined)
    this.lineState = { kind: 'waiting', since: clock.now(), why: null }
    this.client = openBroker(bus)
    this.client.on('connect', () => {
      this.note(`connects to ${brokerText(bus.settings)}`, 'connected', false, Buffer.alloc(0), null)
      // What kept it away before explains nothing that happens from now on.
      this.lastProblem = null
      this.lineState = { kind: 'up', since: this.clock.now(), why: null }
    })
    this.client.on('message', (topic, payload, packet) => this.hear(topic, payload, packet.retain))
    this.client.on('error', (error) => this.down(brokerProblem(error, bus)))
    this.client.on('close', () =>
      this.down(
        this.lastProblem ??
          new LineProblem('no-connection', `${brokerText(bus.settings)} cannot be reached, or hung up.`),
      ),
    )
  }

  private lastProblem: LineProblem | null = null

  state(): LineState {
    return this.lineState
  }

  follow(devices: readonly FollowedDevice[]): void {
    this.sensors.follow(devices)
    this.users = new Map()
    const filters = new Set<string>()
    for (const { device, sensor } of this.sensors.all()) {
      for (const topic of topicsOf(device, sensor)) {
        filters.add(topic)
        this.users.set(topic, [...(this.users.get(topic) ?? []), sensor])
      }
    }
    for (const topic of this.said.keys()) if (!this.users.has(topic)) this.said.delete(topic)
    const gone = [...this.subscribed].filter((topic) => !filters.has(topic))
    const come = [...filters].filter((topic) => !this.subscribed.has(topic))
    this.subscribed = filters
    if (gone.length > 0) this.client.unsubscribe(gone)
    if (come.length > 0) this.client.subscribe(come, { qos: 1 }, (error, granted) => this.granted(error, granted))
    if (this.lineState.kind === 'down' && this.lastProblem) this.sensors.allFailed(this.lastProblem)
  }

  /** A broker may let in and yet not let listen. */
  private granted(
    error: Error | null | undefined,
    granted: readonly { topic: string; qos: number }[] | undefined,
  ): void {
    const refused = error ? [...this.subscribed] : (granted ?? []).filter((g) => g.qos >= 128).map((g) => g.topic)
    for (const topic of refused) {
      for (const sensor of this.users.get(topic) ?? [])
        this.sensors.failed(sensor.id, new LineProblem('refused', `The broker does not let ${topic} be listened to.`))
    }
  }

  link(): Link | null {
    return { calibration: null, hold: null }
  }

  raw(sensorId: number): RawView[] {
    return this.sensors.raw(sensorId)
  }

  async tryOnce(device: FollowedDevice): Promise<Tried> {
    const [sensor] = device.sensors
    if (!sensor) return { raw: [], reading: null, why: null }
    const topics = topicsOf(device, sensor)
    const main = mainTopic(device, sensor)
    const come = topics.filter((topic) => !this.subscribed.has(topic))
    const fresh = () => main !== null && (this.said.get(main)?.retained ?? true) === false
    try {
      if (!fresh()) await this.nextOf(topics, come, fresh)
      const data = this.data(device, sensor)
      let raw: RawView[] = []
      try {
        raw = rawReadings(sensor, data)
        const at = this.recordFor(sensor, main ?? '')?.at ?? this.clock.now()
        return { raw, reading: readingOf(sensor, data, { at, temperatureAt: this.told.temperatureAt }), why: null }
      } catch (error) {
        return { raw, reading: null, why: (error as Error).message }
      }
    } finally {
      const left = come.filter((topic) => !this.subscribed.has(topic))
      if (left.length > 0 && !this.client.disconnected) this.client.unsubscribe(left)
      for (const topic of left) this.said.delete(topic)
    }
  }

  /** Listens until there is something, or for as long as a try may take. */
  private nextOf(topics: string[], come: readonly string[], enough: () => boolean): Promise<void> {
    return new Promise((resolve, reject) => {
      const trial = { topics, came: () => enough() && end() }
      const end = () => {
        clearTimeout(timer)
        this.trying.delete(trial)
        this.client.off('error', fail)
        resolve()
      }
      const fail = (error: Error) => {
        clearTimeout(timer)
        this.trying.delete(trial)
        reject(brokerProblem(error, this.bus))
      }
      const timer = setTimeout(end, TRY_MS)
      this.trying.add(trial)
      this.client.once('error', fail)
      if (this.lineState.kind === 'down') return fail(this.lastProblem ?? new Error('away'))
      if (come.length > 0) this.client.subscribe([...come], { qos: 1 })
    })
  }

  private hear(topic: string, payload: Buffer, retained: boolean): void {
    if (!this.users.has(topic) && ![...this.trying].some((t) => t.topics.includes(topic))) return
    // Listened to anew, it gives what it kept once more: that is no news.
    const before = this.said.get(topic)
    if (retained && before && !before.retained && before.text === payload.toString('utf8')) return
    this.pending.set(topic, { payload, retained, order: ++this.heard })
    this.flushing ??= setTimeout(() => this.flush(), LISTEN_EVERY_MS)
  }

  private flush(): void {
    this.flushing = null
    for (const [topic, { payload, retained, order }] of this.pending) {
      const large = payload.length > MOST_BYTES
      const outcome = large
        ? `too large: ${payload.length} bytes`
        : retained
          ? 'kept by the broker from before'
          : 'came'
      this.note(topic, outcome, large, payload, null)
      const users = this.users.get(topic) ?? []
      if (large) {
        const problem = new LineProblem('garbled', `A message of ${payload.length} bytes under ${topic} is no reading.`)
        for (const { id } of users) this.sensors.failed(id, problem)
        continue
      }
      this.said.set(topic, { text: payload.toString('utf8'), at: this.clock.now(), retained, order })
      for (const sensor of users) this.take(topic, sensor)
    }
    this.pending.clear()
    for (const trial of this.trying) trial.came()
  }

  private take(topic: string, sensor: FollowedSensor): void {
    const device = this.sensors.all().find((f) => f.sensor.id === sensor.id)?.device
    if (!device) return
    const data = this.data(device, sensor)
    try {
      if (mainTopic(device, sensor) === topic) {
        const record = this.recordFor(sensor, topic)
        // Of when it is nobody knows: it waits for the next.
        if (!record && this.said.get(topic)?.retained) return
        this.sensors.take(sensor.id, data, record?.at ?? this.said.get(topic)?.at ?? this.clock.now())
      } else if (topicOf(device, sensor.mapping.status?.at) === topic) {
        // Its last will, or that it is back: what it reads comes by itself.
        readingOf(sensor, data, { at: this.clock.now(), temperatureAt: () => 0 })
      }
    } catch (error) {
      const problem = asProblem(error)
      if (problem.code !== 'no-reading' || problem.message.startsWith('The device reports'))
        this.sensors.failed(sensor.id, problem)
    }
  }

  /** The record of what a topic said last that a sensor is read from. @throws PayloadProblem */
  private recordFor(sensor: FollowedSensor, topic: string): MessageRecord | null {
    const said = this.said.get(topic)
    const field = mainPlace(sensor)?.field
    if (!said || field === undefined) return null
    const record = newestWith(this.records(sensor, said), field)
    return said.retained && record?.at == null ? null : record
  }

  private records({ mapping }: FollowedSensor, said: Said): MessageRecord[] {
    const { format = 'number', time } = fieldMapping(mapping)
    return readPayload(said.text, { format, time: time?.field, now: said.at })
  }

  private data(device: FollowedDevice, sensor: FollowedSensor): DeviceData {
    const { status } = sensor.mapping
    const main = mainTopic(device, sensor)
    const find = (at: Place) => {
      const topic = topicOf(device, at)
      const said = topic === null ? undefined : this.said.get(topic)
      if (!said) return undefined
      if (topic !== main && this.clock.now() - said.at > BESIDE_MS && at !== status?.at) return undefined
      // It speaks again, whatever was said when it went: not every device says that it is back.
      const spoke = main === null ? undefined : this.said.get(main)
      if (at === status?.at && topic !== main && spoke && !spoke.retained && spoke.order > said.order) return undefined
      // A state is often one bare word, beside readings in JSON.
      const bare = at === status?.at && at.field === ''
      const records = bare ? [] : this.records(sensor, said)
      if (bare) return foundOf(said.text.trim())
      const record = newestWith(records, String(at.field))
      // A will is kept on purpose; a reading that was kept is of any time.
      if (said.retained && record?.at == null && at !== status?.at) return undefined
      return foundIn(record, at)
    }
    return { scheme: FIELDS, find }
  }

  private down(problem: LineProblem): void {
    if (this.lineState.kind === 'down' && this.lastProblem?.message === problem.message) return
    // Why it was refused says more than that it hung up afterwards.
    if (this.lineState.kind === 'down' && problem.code === 'no-connection' && this.lastProblem) return
    this.lastProblem = problem
    this.lineState = { kind: 'down', since: this.clock.now(), why: problem.message }
    this.note(`connects to ${brokerText(this.bus.settings)}`, problem.message, true, Buffer.alloc(0), null)
    this.sensors.allFailed(problem)
  }

  private note(words: string, outcome: string, failed: boolean, received: Buffer, took: number | null): void {
    const kept = Buffer.from(received.subarray(0, 300))
    this.exchanges.note({
      at: this.exchanges.now(),
      words,
      outcome,
      failed,
      sent: Buffer.alloc(0),
      received: kept,
      took,
    })
  }

  close(): void {
    if (this.flushing) clearTimeout(this.flushing)
    this.sensors.close()
    this.client.removeAllListeners('close')
    this.client.end(true)
  }
}

/** Where a place of a device is published; null where it is none of a message. */
function topicOf(device: FollowedDevice, at: Place | undefined): string | null {
  return String(at?.topic || (at && device.address.topic) || '') || null
}

const topicsOf = (device: FollowedDevice, sensor: FollowedSensor): string[] => [
  ...new Set(fieldPlaces(sensor).flatMap((at) => topicOf(device, at) ?? [])),
]

const mainTopic = (device: FollowedDevice, sensor: FollowedSensor): string | null =>
  topicOf(device, mainPlace(sensor) ?? undefined)

interface BrokerSettings {
  host?: string
  port?: number
  version?: '3.1.1' | '5'
  tls?: boolean
  authority?: string
  user?: string
}

/** A client that keeps itself connected, whatever happens, until it is ended. */
export function openBroker({ settings, secret }: Bus): MqttClient {
  const {
    host = '',
    tls = false,
    version = '3.1.1',
    user,
    authority,
    port = portOf(settings),
  } = settings as BrokerSettings
  const options: IClientOptions = {
    protocol: tls ? 'mqtts' : 'mqtt',
    host,
    port,
    protocolVersion: version === '5' ? 5 : 4,
    connectTimeout: CONNECT_WITHIN_MS,
    reconnectPeriod: AGAIN_MS,
    reconnectOnConnackError: true,
    queueQoSZero: false,
    clean: true,
    ...(version === '5' ? { properties: { maximumPacketSize: MOST_BYTES + 1000 } } : {}),
    ...(user ? { username: user, password: secret ?? '' } : {}),
    ...(authority ? { ca: authority } : {}),
  }
  return mqtt.connect(options)
}

const portOf = (settings: ConnectionSettings): number => {
  const { tls, port = tls ? MQTT_TLS_PORT : MQTT_PORT } = settings as BrokerSettings
  return port
}

export const brokerText = (settings: ConnectionSettings): string => `${settings.host}:${portOf(settings)}`

/** Refusals of a broker, by number: of 3.1.1, and of 5. */
const NOT_LET_IN = [4, 5, 0x86, 0x87]
const OTHER_VERSION = [1, 0x84]

/** What a broker or the way to it says, as a sentence. */
export function brokerProblem(error: Error & { code?: unknown }, bus: Bus): LineProblem {
  if (error instanceof LineProblem) return error
  const where = brokerText(bus.settings)
  const { code } = error
  if (NOT_LET_IN.includes(code as number))
    return new LineProblem('refused', `The broker at ${where} does not let this user in.`)
  if (OTHER_VERSION.includes(code as number))
    return new LineProblem('refused', `The broker at ${where} speaks another version of MQTT: choose the other one.`)
  if (code === 'ECONNREFUSED') return new LineProblem('refused', `Nothing listens at ${where}.`)
  if (typeof code === 'string' && /CERT|TLS|SSL|SIGN|VERIFY/.test(code))
    return new LineProblem('refused', `The certificate of ${where} is not believed (${code}).`)
  return new LineProblem(
    'no-connection',
    `${where} cannot be reached (${typeof code === 'string' ? code : error.message}).`,
  )
}

/** No topic is looked at more often in a search than this, ms. */
const EACH_MS = 250

/** All that is published below a filter. */
export const topicsBelow = (bus: Bus, filter: string): FieldSource => ({
  words: `Listening to ${filter === '#' ? 'all topics' : filter}`,
  open: ({ heard, failed }) => {
    const client = openBroker(bus)
    const lastAt = new Map<string, number>()
    client.on('connect', () => client.subscribe(filter, (error) => error && failed(brokerProblem(error, bus).message)))
    client.on('error', (error) => failed(brokerProblem(error, bus).message))
    client.on('message', (topic, payload, { retain }) => {
      const now = performance.now()
      if (payload.length > MOST_BYTES || now - (lastAt.get(topic) ?? 0) < EACH_MS) return
      lastAt.set(topic, now)
      heard(topic, payload.toString('utf8'), retain)
    })
    return () => client.end(true)
  },
})
