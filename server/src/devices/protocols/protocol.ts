import type {
  Clock,
  ConnectionSettings,
  DeviceAddress,
  Findable,
  FinderView,
  Mapping,
  MappingForm,
  Place,
  ProtocolField,
  ProtocolForm,
} from '@frustum/contract'
import type { SensorKind } from '@frustum/core'
import type { AnyObjectSchema, ObjectShape } from 'yup'
import type { Displayed } from '../finder/display.ts'
import type { Bus, Driver, Told } from '../link.ts'

/** The numbers of a device that a protocol reads: how a mapping names them, on disk, in a form and in words. */
export interface MappingScheme {
  /** Mappings of one family fit every protocol of it. */
  readonly family: string
  /** Of one place. */
  readonly place: AnyObjectSchema
  /** Keys of a mapping besides its channels. */
  readonly options: ObjectShape
  /** Further keys of a place that can be written; null where nothing can be. */
  readonly writable: { readonly place: AnyObjectSchema; readonly keys: ObjectShape } | null
  readonly form: Omit<MappingForm, 'family'>
  placeText(at: Place): string
  /** Mappings to start from. */
  profiles(kind: SensorKind): { name: string; mapping: Mapping }[]
  /** The device sends its status when it changes: none so far isn't a fault. */
  readonly sendsStatus: boolean
}

/** What a device sent to its ingest address last, as it came: there before anything is known of it. */
export interface Received {
  text: string
  /** Epoch ms. */
  at: number
}

/** What a connection is opened with. */
export interface Opening {
  bus: Bus
  /** Poll interval unless the settings have one, ms. */
  everyMs: number
  clock: Clock
  told: Told
  /** What devices sent to their own address last, by device. */
  received: ReadonlyMap<number, Received>
}

export type Shown = Partial<Record<Findable, Displayed>>
export type Typed = Partial<Record<Findable, string>>

/** A search that no page has asked about for this long ends, ms. */
export const LEFT_ALONE_MS = 90_000
export const LEFT_ALONE = 'The search ended because its page was closed.'

/** A search for what a display shows. It ends by itself once nobody has looked at it for a while. */
export interface Search {
  readonly id: string
  readonly ended: boolean
  /** ms of the process when somebody looked at it last. */
  readonly seenAt: number
  look(look: {
    shown: Shown
    typed: Typed
    address?: DeviceAddress | undefined
    further?: boolean | undefined
    withdraw?: number | undefined
  }): void
  view(): FinderView
  stop(): void
}

export interface Finding {
  bus: Bus
  address: DeviceAddress
  shown: Shown
  typed: Typed
  clock: Clock
  /** The connection, where it is open. */
  open: Driver | null
  /** Returns what the device sent to its own address last. */
  received: () => Received | undefined
}

/** A way to reach devices. The folder of a protocol exports one or more, and the registry lists them. */
export interface Protocol {
  readonly key: string
  readonly name: string
  /** Settings and address as a form asks for them, and how the finder works. */
  form():
    | Pick<ProtocolForm, 'settings' | 'address' | 'finder'>
    | Promise<Pick<ProtocolForm, 'settings' | 'address' | 'finder'>>
  readonly settings: AnyObjectSchema
  readonly address: AnyObjectSchema
  readonly mapping: MappingScheme
  /** Frustum asks; otherwise devices send when they like. */
  readonly polled: boolean
  /** Devices send to an ingest address of their own. */
  readonly ownAddress: boolean
  /** A search needs what the display shows: there is nothing to look at without it. */
  readonly searchesByReading: boolean
  /** Settings that name the host. When one of them changes, the secret has to be entered again. */
  readonly hostSettings: readonly string[]
  /** Where a connection leads. */
  reachedText(settings: ConnectionSettings): string
  /** Where a device is on its connection. */
  addressText(address: DeviceAddress): string
  /** Returns what is wrong with a mapping at such an address, by path. */
  problems?(mapping: Mapping, address: DeviceAddress): Record<string, string>
  open(opening: Opening): Driver
  find(finding: Finding): Search
}

/** Puts the keys of fields, and of the fields they depend on, below a path. */
export const below = (path: string, fields: readonly ProtocolField[]): ProtocolField[] =>
  fields.map((field) => ({
    ...field,
    key: `${path}.${field.key}`,
    ...(field.when ? { when: { ...field.when, key: `${path}.${field.when.key}` } } : {}),
  }))
