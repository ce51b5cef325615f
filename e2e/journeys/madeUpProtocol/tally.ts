import { randomUUID } from 'node:crypto'
import { createServer, Socket } from 'node:net'
import type { Channel, ConnectionSettings, Findable, FinderView, Mapping, RawView } from '@frustum/contract'
import { CHANNELS, channelOf } from '@frustum/contract'
import { type CalibrationParameters, modelOf } from '@frustum/core'
import {
  below,
  type Driver,
  Exchanges,
  type FollowedDevice,
  LineProblem,
  type LineState,
  type MappingScheme,
  type Opening,
  type Protocol,
  rawReadings,
  readingOf,
  type Search,
  type Tried,
} from '@frustum/server/protocols'
import { number, object, string } from 'yup'

/** A protocol that no other file knows: a line of text asks for a number by its name, and another one writes it. */

type TallyPlace = { name: string }

/** How long its electrode takes for most of a change, ms, and by how much it wavers. */
const SETTLES_MS = 800
const WAVERS = 0.002

/** A device that speaks it, on a free port of loopback. Its pH comes after what it is immersed in, as an electrode's does. */
export async function tallyDevice(values: Record<string, number>) {
  let [from, to, since] = [values.ph ?? 7, values.ph ?? 7, performance.now()]
  const read = () => {
    const passed = performance.now() - since
    return to + (from - to) * Math.exp(-passed / SETTLES_MS) + WAVERS * Math.sin(performance.now() / 37)
  }
  const server = createServer((socket) => {
    socket.on('data', (bytes) => {
      const [verb, name = '', value] = bytes.toString().trim().split(' ')
      if (verb === 'LIST') return socket.write(`${Object.keys(values).join(' ')}\n`)
      if (verb === 'PUT') values[name] = Number(value)
      values.ph = Number(read().toFixed(3))
      socket.write(name in values ? `${values[name]}\n` : '?\n')
    })
    socket.on('error', () => undefined)
  })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  const { port } = server.address() as { port: number }
  const immerse = (ph: number) => {
    ;[from, to, since] = [read(), ph, performance.now()]
  }
  return { port, values, immerse, close: () => server.close() }
}

function ask({ port }: ConnectionSettings, line: string): Promise<string> {
  return new Promise((resolve, reject) => {
    const socket = new Socket()
    socket.once('error', () => reject(new LineProblem('refused', `Nothing listens at port ${port}.`)))
    socket.once('data', (bytes) => {
      resolve(bytes.toString().trim())
      socket.destroy()
    })
    socket.connect(Number(port), '127.0.0.1', () => socket.write(`${line}\n`))
  })
}

const place = object({ name: string().required('Enter the name.') }).noUnknown()
const NAME = { key: 'at.name', label: 'name', kind: 'text' } as const

const SCHEME: MappingScheme = {
  family: 'tally',
  place,
  options: {},
  writable: { place, keys: {} },
  placeText: ({ name }) => `tally ${name}`,
  profiles: () => [],
  sendsStatus: false,
  form: {
    options: [],
    place: [NAME],
    status: { title: 'Tally status', fields: [NAME, { key: 'values', label: 'Faults', kind: 'text', list: true }] },
    parameter: [NAME],
    hold: [
      NAME,
      { key: 'on', label: 'on hold', kind: 'number', usual: '1' },
      { key: 'off', label: 'released', kind: 'number', usual: '0' },
    ],
  },
}

const isNumber = (text: string) => text !== '' && Number.isFinite(Number(text))

async function dataOf(settings: ConnectionSettings, mapping: Mapping) {
  const names = CHANNELS.flatMap((name) => channelOf(mapping, name)?.at.name ?? []) as string[]
  const came = new Map<string, string>()
  for (const name of names) came.set(name, await ask(settings, `GET ${name}`))
  return {
    scheme: SCHEME,
    find: ({ name }: Channel['at']) => {
      const text = came.get(String(name))
      return text === undefined ? undefined : { value: isNumber(text) ? Number(text) : null, text }
    },
  }
}

class TallyConnection implements Driver {
  readonly exchanges: Exchanges
  private devices: readonly FollowedDevice[] = []
  private readonly raws = new Map<number, RawView[]>()
  private current: LineState
  private readonly timer: NodeJS.Timeout
  private running: Promise<void> | null = null

  constructor(private readonly opening: Opening) {
    this.exchanges = new Exchanges(opening.clock)
    this.current = { kind: 'waiting', since: opening.clock.now(), why: null }
    // One turn at a time: an answer that comes late must not follow a newer one.
    this.timer = setInterval(() => {
      this.running ??= this.turn().finally(() => {
        this.running = null
      })
    }, opening.everyMs)
  }

  private async turn(): Promise<void> {
    const { bus, clock, told } = this.opening
    for (const sensor of this.devices.flatMap((d) => d.sensors)) {
      const at = clock.now()
      try {
        const data = await dataOf(bus.settings, sensor.mapping)
        this.raws.set(sensor.id, rawReadings(sensor, data))
        told.reading(sensor.id, readingOf(sensor, data, { at, temperatureAt: told.temperatureAt }))
        this.current = { kind: 'up', since: at, why: null }
      } catch (error) {
        told.failed(sensor.id, error as LineProblem)
      }
    }
  }

  state = () => this.current
  follow = (devices: readonly FollowedDevice[]) => {
    this.devices = devices
  }
  raw = (id: number) => this.raws.get(id) ?? []
  close = () => clearInterval(this.timer)

  link(id: number) {
    const sensor = this.devices.flatMap((d) => d.sensors).find((s) => s.id === id)
    if (!sensor) return null
    const { settings } = this.opening.bus
    const { calibration = {}, hold, writes } = sensor.mapping
    const parameters = modelOf(sensor.kind).parameters.filter(({ key }) => calibration[key])
    const read = async (): Promise<CalibrationParameters> => {
      const got: [string, number][] = []
      for (const { key, scale } of parameters)
        got.push([key, Number(await ask(settings, `GET ${calibration[key]?.at.name}`)) / scale])
      return Object.fromEntries(got)
    }
    const write = async (values: CalibrationParameters) => {
      for (const { key, scale } of parameters)
        await ask(settings, `PUT ${calibration[key]?.at.name} ${(values[key] ?? 0) * scale}`)
      return read()
    }
    return {
      calibration: parameters.length > 0 ? { read, write: writes ? write : null } : null,
      hold: hold
        ? async (on: boolean) => void (await ask(settings, `PUT ${hold.at.name} ${on ? hold.on : hold.off}`))
        : null,
    }
  }

  async tryOnce({ sensors: [sensor] }: FollowedDevice): Promise<Tried> {
    if (!sensor) return { raw: [], reading: null, why: null }
    const { bus, clock, told } = this.opening
    const data = await dataOf(bus.settings, sensor.mapping)
    const raw = rawReadings(sensor, data)
    try {
      return {
        raw,
        reading: readingOf(sensor, data, { at: clock.now(), temperatureAt: told.temperatureAt }),
        why: null,
      }
    } catch (error) {
      return { raw, reading: null, why: (error as Error).message }
    }
  }
}

/** Asks for every name once, and compares what it holds with the display. */
class TallySearch implements Search {
  readonly id = randomUUID()
  readonly seenAt = performance.now()
  ended = false
  private held: [name: string, value: number][] = []

  constructor(
    settings: ConnectionSettings,
    private readonly shown: Parameters<Search['look']>[0]['shown'],
  ) {
    void ask(settings, 'LIST').then(async (names) => {
      for (const name of names.split(' ')) this.held.push([name, Number(await ask(settings, `GET ${name}`))])
    })
  }

  look(): void {}
  stop(): void {
    this.ended = true
  }

  view(): FinderView {
    const found = Object.entries(this.shown).map(([name, { value, step }]) => {
      const first = this.held
        .filter(([, held]) => Math.abs(held - value) <= 2 * step)
        .map(([place]) => ({
          channel: { at: { name: place } satisfies TallyPlace, unit: '', scale: 1, offset: 0 },
          title: `Tally ${place}`,
          type: 'text',
          details: [],
          reads: value,
          read: [value],
          same: [],
        }))
      return [name as Findable, { certain: first.length === 1, left: first.length, first, looks: 1 }]
    })
    return {
      id: this.id,
      phase: this.ended ? 'stopped' : 'watching',
      status: `${this.held.length} names.`,
      why: null,
      done: null,
      secondsLeft: null,
      readable: this.held.length,
      address: null,
      addresses: [],
      further: null,
      fields: [],
      looks: [],
      found: Object.fromEntries(found),
    }
  }
}

export const TALLY: Protocol = {
  key: 'tally',
  name: 'Tally text',
  settings: object({ port: number().required('Enter the tally port.') }).noUnknown(),
  address: object({}).noUnknown(),
  mapping: SCHEME,
  polled: true,
  ownAddress: false,
  searchesByReading: true,
  hostSettings: ['port'],
  reachedText: ({ port }) => `tally port ${port}`,
  addressText: () => '',
  form: () => ({
    settings: below('settings', [{ key: 'port', label: 'Tally port', kind: 'number', decimals: 0 }]),
    address: [],
    finder: 'Enter what the display shows; every name is asked for once.',
  }),
  open: (opening) => new TallyConnection(opening),
  find: ({ bus, shown }) => new TallySearch(bus.settings, shown),
}
