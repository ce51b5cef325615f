import type { SensorKind } from '@frustum/core'
import type { ConnectionSettings, DeviceAddress, Protocol } from '../connections.ts'
import type { Channel, ChannelName, Mapping, MessageFormat } from '../mapping.ts'

/** How a connection is: nobody asked yet, it answers, or nothing on it does. */
export type ConnectionState = 'waiting' | 'up' | 'down'

export interface ConnectionView {
  id: number
  name: string
  protocol: Protocol
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
  devices: { id: number; name: string; address: DeviceAddress; sensors: { id: number; code: string }[] }[]
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
  connections: Pick<ConnectionView, 'id' | 'name' | 'protocol' | 'settings' | 'hasSecret'>[]
  /** Of a device that sends by itself: the address that was made for it, of which only who made it knows the whole. */
  token: { madeAt: number; madeBy: string; usedAt: number | null } | null
  /** Mappings to begin with: own ones, which have a number, and general ones. */
  profiles: { id?: number; name: string; mapping: Mapping }[]
  /** Serial ports of the machine. */
  ports: string[]
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

/** A place in a device that can be what its display shows. */
export interface FoundView {
  /** As a mapping has it. */
  channel: Channel
  /** What stands there, as it came and as it is read. */
  raw: string
  reads: number | null
  /** What it read nearest to each look; null where it was not read around it. */
  read: (number | null)[]
  /** Other ways, and other places, that read the same at every moment. */
  same: string[]
}

/** A field of what a device says, as it came last. */
export interface FieldView {
  topic: string
  format: MessageFormat
  field: string
  /** As it came, cut where it is long. */
  raw: string
  /** Epoch ms when it came; and whether it lay with the broker before. */
  at: number
  retained: boolean
  /** What of a display it can be. */
  fits: Findable[]
  /** As a mapping has it, in the unit that was typed or came with it. */
  channel: Channel
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
  phase: 'units' | 'reading' | 'watching' | 'listening' | 'stopped'
  /** Of messages: all that came, what fits the display first. */
  fields: FieldView[]
  /** Why it ended by itself, or cannot go on. */
  why: string | null
  unit: number | null
  /** Units that answered, where they were searched. */
  units: number[]
  /** Steps of the search that are done, of how many, and about how long the others take, s; null while nobody can tell. */
  asked: number
  foreseen: number
  secondsLeft: number | null
  /** What is asked now, in words. */
  asking: string
  /** How many registers can be read. */
  readable: number
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
