import type { SensorKind } from '@frustum/core'
import type { ConnectionSettings, DeviceAddress } from '../connections.ts'
import type { Channel, ChannelName, Mapping, Scalar } from '../mapping.ts'
import type { Protocol } from '../protocols.ts'

/** How a connection is: nobody asked yet, it answers, or nothing on it does. */
export type ConnectionState = 'waiting' | 'up' | 'down'

export interface ConnectionView {
  id: number
  name: string
  protocol: Protocol
  /** Name of the protocol, and where it leads, in words. */
  reached: string
  /** Whether Frustum asks; otherwise its devices send when they like. */
  polled: boolean
  settings: ConnectionSettings
  /** Whether a password or token is kept for it. */
  hasSecret: boolean
  /** Null where nothing is read over it. */
  state: ConnectionState | null
  since: number | null
  why: string | null
  /** Median of the last answers, ms. */
  answerMs: number | null
  failuresAnHour: number
  devices: { id: number; name: string; where: string; sensors: { id: number; code: string }[] }[]
}

/** One number of a device as it came, and what was made of it. */
export interface RawView {
  channel: string
  place: string
  raw: string
  value: number | null
  unit: string
  missing: string | null
}

export interface ExchangeView {
  at: number
  words: string
  outcome: string
  failed: boolean
  /** Bytes in hex. */
  sent: string
  received: string
  /** ms; null of what came by itself. */
  took: number | null
}

/** Of which stretches of time readings are kept, the oldest first. */
export interface KeptView {
  from: number
  eachMs: number
  there: boolean[]
}

export interface ConnectionPageView extends ConnectionView {
  sensors: {
    id: number
    code: string
    kind: SensorKind
    at: number | null
    why: string | null
    raw: RawView[]
    /** Of what is sent by itself: where there are gaps. */
    kept: KeptView | null
  }[]
  /** Newest first. */
  exchanges: ExchangeView[]
}

/** What a sensor is read by, and what can be said of it. */
export interface LineView {
  id: number
  code: string
  kind: SensorKind
  quantity: string
  device: { id: number; name: string; others: string[] }
  connectionId: number | null
  address: DeviceAddress
  mapping: Mapping | null
  /** What each number may come in, the one that is wanted first. */
  units: Record<ChannelName, string[]>
  parameters: { key: string; label: string; unit: string }[]
  /** Other positions whose temperature may be taken. */
  thermometers: string[]
  connections: Pick<ConnectionView, 'id' | 'name' | 'protocol' | 'hasSecret'>[]
  /** Of a device that sends by itself: the address that was made for it, of which only who made it knows the whole. */
  token: { madeAt: number; madeBy: string; usedAt: number | null } | null
  /** Mappings to start from: own ones, which have a number, and general ones. */
  profiles: { id?: number; name: string; family: string; mapping: Mapping }[]
  raw: RawView[]
  why: string | null
  everyMs: number | null
}

/** What came of reading a device once. */
export interface TriedView {
  raw: RawView[]
  reading: { shown: number | null; signal: number | null; temperature: number | null } | null
  why: string | null
}

/** What is looked for: the number that a display shows, of one of a sensor's channels. */
export const FINDABLE = ['value', 'signal', 'temperature'] as const
export type Findable = (typeof FINDABLE)[number]

/** A place in a device that may be what its display shows. */
export interface FoundView {
  /** Counting from 0 where places are counted. */
  channel: Channel
  title: string
  type: string
  details: { label: string; text: string }[]
  reads: number | null
  /** What it read nearest to each look; null where it wasn't read around it. */
  read: (number | null)[]
  /** Other ways, and other places, that read the same at every moment. */
  same: string[]
}

/** Options of a mapping: the format of its messages, where their time is. */
export type MappingOptions = Readonly<Record<string, Scalar | Readonly<Record<string, Scalar>>>>

/** A field of what a device sends, as it came last. */
export interface FieldView {
  /** Fields that came together: the topic of a broker. */
  group: string
  name: string
  /** In what it is written, as the list shows it. */
  note: string
  /** As it came, shortened where it is long. */
  raw: string
  /** Epoch ms when it came; and whether the broker had it before. */
  at: number
  retained: boolean
  /** What of a display it may be. */
  fits: Findable[]
  channel: Channel
  options: MappingOptions
  /** The options if the field is the time of its message; null where it holds no time. */
  asTime: MappingOptions | null
}

/** A search that is under way. */
export interface SearchView {
  id: string
  operator: string
  /** Name, host or address of the connection. */
  connection: string
  startedAt: number
}

export interface FinderView {
  id: string
  phase: 'searching' | 'watching' | 'stopped'
  /** What it does now, and what it has so far: a sentence. */
  status: string
  /** Why it ended by itself, or can't continue. */
  why: string | null
  /** Share done, 0 to 1, and about how long the rest takes, s; null where nobody can tell. */
  done: number | null
  secondsLeft: number | null
  /** How many places were found that can be read. */
  readable: number
  /** The address that is searched; null while it is open. */
  address: DeviceAddress | null
  /** Addresses that answered, where the device's own is open. */
  addresses: { label: string; address: DeviceAddress }[]
  /** What more can be searched, as a button says it; null for nothing. */
  further: string | null
  /** Of messages: all that came, what fits the display first. */
  fields: FieldView[]
  /** What was entered at each look at the display. */
  looks: { id: number; typed: Partial<Record<Findable, string>> }[]
  /** The likeliest places first, how many are likely, and by how many looks. */
  found: Partial<Record<Findable, { certain: boolean; left: number; first: FoundView[]; looks: number }>>
}

/** Outputs that are held over a line. */
export interface HoldView {
  id: number
  position: string
  visit: string | null
  since: number
  by: string
  /** Why they could not be held, or let go, at the last try. */
  problem: string | null
}

/** What became of the readings that a device sent. */
export interface IngestView {
  /** New ones, each on disk; and those that were there before. */
  kept: number
  known: number
  /** Those that are none, and why; at most twenty. */
  refused: string[]
}
