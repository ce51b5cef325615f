import {
  type ByteOrder,
  type Channel,
  type ConnectionSettings,
  type DeviceAddress,
  isModbus,
  isRegister,
  type LineView,
  type Mapping,
  type MessageFormat,
  numberFrom,
  type Place,
  type Protocol,
  type RegisterTable,
  type RegisterType,
  UnreadableNumber,
  type WritableChannel,
} from '@frustum/contract'
import type { NetworkDraft } from './Network.tsx'

/** One number as it stands in the form: everything as it is typed. */
export interface ChannelDraft {
  table: RegisterTable
  address: string
  type: RegisterType
  order: ByteOrder
  bit: string
  /** In a message: its field, and the topic of a broker. */
  field: string
  topic: string
  unit: string
  scale: string
  offset: string
  low: string
  high: string
  none: string
  /** Of a current: what 4 and 20 mA stand for; empty where it is none. */
  at4: string
  at20: string
  spanUnit: string
}

const DRAWN = ['value', 'signal', 'temperature', 'glass', 'junction'] as const
export type Drawn = (typeof DRAWN)[number]

/** What a line is, as it stands in the form. */
export interface LineDraft {
  /** The number of a connection that is there, or `new`. */
  connection: string
  name: string
  protocol: Protocol
  host: string
  port: string
  path: string
  baud: string
  parity: string
  stopBits: string
  version: '3.1.1' | '5'
  tls: boolean
  authority: string
  user: string
  /** Never kept in the browser. */
  secret: string
  auth: 'none' | 'basic' | 'bearer'
  url: string
  linkLocal: boolean
  unit: string
  topic: string
  pagePath: string
  format: MessageFormat
  timeField: string
  countsFrom: '0' | '1'
  channels: Partial<Record<Drawn, ChannelDraft>>
  /** The code of the position whose temperature is taken; empty: its own. */
  elsewhere: string
  status: { table: RegisterTable; address: string; field: string; topic: string; bits: string; values: string } | null
  calibration: Record<string, ChannelDraft>
  writes: boolean
  hold: { table: 'holding' | 'coil'; address: string; on: string; off: string; many: boolean } | null
}

export const EMPTY_CHANNEL: ChannelDraft = {
  table: 'holding',
  address: '',
  type: 'float32',
  order: 'ABCD',
  bit: '',
  field: '',
  topic: '',
  unit: '',
  scale: '1',
  offset: '0',
  low: '',
  high: '',
  none: '',
  at4: '',
  at20: '',
  spanUnit: '',
}

export const EMPTY_HOLD: NonNullable<LineDraft['hold']> = {
  table: 'holding',
  address: '',
  on: '1',
  off: '0',
  many: false,
}

export const EMPTY_STATUS: NonNullable<LineDraft['status']> = {
  table: 'holding',
  address: '',
  field: '',
  topic: '',
  bits: '',
  values: '',
}

/** How the device is reached: by the connection that is chosen, or by what a new one is to be. */
export const protocolOf = (line: LineView, draft: LineDraft): Protocol =>
  line.connections.find((c) => String(c.id) === draft.connection)?.protocol ?? draft.protocol

/** Whether a channel says where it stands. A bare number, and a state in one word, have no field. */
export const isPlaced = (
  { address, field, topic }: ChannelDraft,
  protocol: Protocol,
  format: MessageFormat,
): boolean =>
  isModbus(protocol) ? address.trim() !== '' : field.trim() !== '' || topic.trim() !== '' || format === 'number'

const typed = (value: number | undefined): string => (value === undefined ? '' : String(value))

/** A channel as it stands in the form. */
export function channelDraft({ at, unit, scale, offset, low, high, none, span }: Channel): ChannelDraft {
  const place = isRegister(at)
    ? { table: at.table, address: String(at.address), type: at.type, order: at.order, bit: typed(at.bit) }
    : { field: at.field, topic: at.topic ?? '' }
  return {
    ...EMPTY_CHANNEL,
    ...place,
    unit,
    scale: String(scale),
    offset: String(offset),
    low: typed(low),
    high: typed(high),
    none: none?.join(', ') ?? '',
    at4: typed(span?.at4),
    at20: typed(span?.at20),
    spanUnit: span?.unit ?? '',
  }
}

/** A mapping as it stands in the form. */
export function mappingDraft(
  mapping: Mapping,
): Pick<
  LineDraft,
  'countsFrom' | 'format' | 'timeField' | 'channels' | 'elsewhere' | 'status' | 'calibration' | 'writes' | 'hold'
> {
  const { temperature, status, calibration = {}, hold } = mapping
  const channels: LineDraft['channels'] = {}
  for (const name of DRAWN) {
    const channel = mapping[name]
    if (channel && 'at' in channel) channels[name] = channelDraft(channel)
  }
  return {
    countsFrom: mapping.countsFrom === 1 ? '1' : '0',
    format: mapping.format ?? 'json',
    timeField: mapping.time?.field ?? '',
    channels,
    elsewhere: temperature && 'position' in temperature ? temperature.position : '',
    status: status
      ? {
          ...EMPTY_STATUS,
          ...(isRegister(status.at)
            ? { table: status.at.table, address: String(status.at.address) }
            : { field: status.at.field, topic: status.at.topic ?? '' }),
          bits: status.bits?.join(', ') ?? '',
          values: status.values?.join(', ') ?? '',
        }
      : null,
    calibration: Object.fromEntries(Object.entries(calibration).map(([key, one]) => [key, channelDraft(one)])),
    writes: mapping.writes === true,
    hold: hold
      ? {
          table: hold.at.table === 'coil' ? 'coil' : 'holding',
          address: String(hold.at.address),
          on: String(hold.on),
          off: String(hold.off),
          many: hold.many === true,
        }
      : null,
  }
}

/** What stands in the form before anything is typed: what is kept, or where others on the device are. */
export function draftOf(line: LineView): LineDraft {
  const nothing: Mapping = { countsFrom: 0 }
  return {
    connection:
      line.connectionId === null
        ? line.connections[0]
          ? String(line.connections[0].id)
          : 'new'
        : String(line.connectionId),
    name: '',
    protocol: 'modbus-tcp',
    host: '',
    port: '502',
    path: line.ports[0] ?? '',
    baud: '9600',
    parity: 'none',
    stopBits: '1',
    version: '3.1.1',
    tls: false,
    authority: '',
    user: '',
    secret: '',
    auth: 'none',
    url: '',
    linkLocal: false,
    topic: line.address.topic ?? '',
    pagePath: line.address.path ?? '',
    unit: typed(line.address.unit ?? (line.connectionId === null ? 1 : undefined)),
    ...mappingDraft(line.mapping ?? nothing),
  }
}

/** Thrown for a field without a readable number; its message is shown next to it. */
export class NotANumber extends Error {
  constructor(
    readonly field: string,
    message: string,
  ) {
    super(message)
  }
}

function number(field: string, text: string): number | undefined {
  try {
    return numberFrom(text)
  } catch (problem) {
    throw problem instanceof UnreadableNumber ? new NotANumber(field, problem.message) : problem
  }
}

const list = (text: string): string[] =>
  text
    .split(/[\s,;]+/)
    .map((part) => part.trim())
    .filter((part) => part !== '')

/** Without what is not there: the server refuses what nobody asked for. */
const given = <T extends object>(values: T) =>
  Object.fromEntries(Object.entries(values).filter(([, value]) => value !== undefined)) as {
    [K in keyof T]: Exclude<T[K], undefined>
  }

/**
 * An address as manuals print it: 40011 and 30011 name the table and count from 1.
 * @returns null where it is a plain number
 */
export function printedAddress(text: string): { table: RegisterTable; address: number } | null {
  const found = /^\s*([0134])0?(\d{4})\s*$/.exec(text)
  if (!found) return null
  const table = ({ 0: 'coil', 1: 'discrete', 3: 'input', 4: 'holding' } as const)[found[1] as '0' | '1' | '3' | '4']
  const address = Number(found[2])
  return address > 0 && /^\s*\d{5,6}\s*$/.test(text) ? { table, address } : null
}

function placeOf(
  name: string,
  { table, address, type, order, bit, field, topic }: ChannelDraft,
  registers = true,
): Place {
  if (!registers) return given({ topic: topic.trim() || undefined, field: field.trim() }) as Place
  return given({
    table,
    address: number(name, address) ?? Number.NaN,
    type: table === 'coil' || table === 'discrete' ? ('bit' as const) : type,
    order,
    bit: type === 'bit' && table !== 'coil' && table !== 'discrete' ? (number(name, bit) ?? 0) : undefined,
  }) as Place
}

function channelOf(name: string, draft: ChannelDraft, registers = true): Channel {
  const at4 = number(name, draft.at4)
  const at20 = number(name, draft.at20)
  return given({
    at: placeOf(name, draft, registers),
    unit: draft.unit,
    scale: number(name, draft.scale) ?? 1,
    offset: number(name, draft.offset) ?? 0,
    low: number(name, draft.low),
    high: number(name, draft.high),
    none: draft.none.trim() === '' ? undefined : list(draft.none),
    span: at4 === undefined || at20 === undefined ? undefined : { at4, at20, unit: draft.spanUnit },
  }) as Channel
}

/** The mapping of messages that stands in the form. @throws NotANumber */
function messageMapping(draft: LineDraft, protocol: Protocol): Mapping {
  const { channels, elsewhere, status, format, timeField } = draft
  // Of a bare number only what was asked for: an empty field is the whole of it.
  const there = Object.entries(channels).filter(([, channel]) => isPlaced(channel, protocol, format))
  return given({
    countsFrom: 0 as const,
    format,
    time: timeField.trim() === '' ? undefined : { field: timeField.trim() },
    ...Object.fromEntries(there.map(([name, channel]) => [name, channelOf(name, channel, false)])),
    ...(elsewhere ? { temperature: { position: elsewhere } } : {}),
    status:
      status && (status.field.trim() !== '' || status.topic.trim() !== '')
        ? given({ at: placeOf('status', { ...EMPTY_CHANNEL, ...status }, false), values: list(status.values) })
        : undefined,
  }) as Mapping
}

/** The mapping that stands in the form. @throws NotANumber */
export function mappingOf(draft: LineDraft, protocol: Protocol): Mapping {
  if (!isModbus(protocol)) return messageMapping(draft, protocol)
  const { channels, elsewhere, status, calibration, hold } = draft
  const there = Object.entries(channels).filter(([, channel]) => channel.address.trim() !== '')
  const parameters = Object.entries(calibration).filter(([, channel]) => channel.address.trim() !== '')
  return given({
    countsFrom: draft.countsFrom === '1' ? (1 as const) : (0 as const),
    ...Object.fromEntries(there.map(([name, channel]) => [name, channelOf(name, channel)])),
    ...(elsewhere ? { temperature: { position: elsewhere } } : {}),
    status:
      status && status.address.trim() !== ''
        ? given({
            at: placeOf('status', { ...EMPTY_CHANNEL, table: status.table, address: status.address, type: 'uint16' }),
            bits: status.bits.trim() === '' ? undefined : list(status.bits).map((b) => number('status', b) ?? 0),
            values: status.values.trim() === '' ? undefined : list(status.values),
          })
        : undefined,
    calibration:
      parameters.length > 0
        ? (Object.fromEntries(parameters.map(([key, channel]) => [key, channelOf(key, channel)])) as Record<
            string,
            WritableChannel
          >)
        : undefined,
    writes: parameters.length > 0 ? draft.writes : undefined,
    hold:
      hold && hold.address.trim() !== ''
        ? {
            at: placeOf('hold', { ...EMPTY_CHANNEL, table: hold.table, address: hold.address, type: 'uint16' }),
            on: number('hold', hold.on) ?? 1,
            off: number('hold', hold.off) ?? 0,
            ...(hold.many ? { many: true } : {}),
          }
        : undefined,
  }) as Mapping
}

/** How a broker or a page is reached, without what signs in there. @throws NotANumber */
export function networkSettings(
  protocol: Protocol,
  { host, port, version, tls, authority, user, auth, url, linkLocal }: Omit<NetworkDraft, 'secret'>,
): ConnectionSettings {
  const certificate = authority.trim() || undefined
  const settings =
    protocol === 'mqtt'
      ? {
          host: host.trim(),
          port: number('port', port),
          version,
          tls: tls || undefined,
          authority: tls ? certificate : undefined,
          user: user.trim() || undefined,
        }
      : {
          url: url.trim(),
          linkLocal: linkLocal || undefined,
          auth,
          user: auth === 'basic' ? user.trim() : undefined,
          authority: url.trim().startsWith('https') ? certificate : undefined,
        }
  return given(settings) as ConnectionSettings
}

/** How a new connection is reached. @throws NotANumber */
function settingsOf(draft: LineDraft): ConnectionSettings {
  if (draft.protocol === 'modbus-serial') {
    return given({
      path: draft.path.trim(),
      baud: number('baud', draft.baud),
      parity: draft.parity as NonNullable<ConnectionSettings['parity']>,
      stopBits: draft.stopBits === '2' ? (2 as const) : (1 as const),
    }) as ConnectionSettings
  }
  if (draft.protocol === 'mqtt' || draft.protocol === 'http') return networkSettings(draft.protocol, draft)
  if (draft.protocol === 'push') return {}
  return given({ host: draft.host.trim(), port: number('port', draft.port) }) as ConnectionSettings
}

/** Whether the form asks for a password or token. */
const asksSecret = ({ protocol, auth, user }: LineDraft): boolean =>
  protocol === 'mqtt' ? user.trim() !== '' : protocol === 'http' && auth !== 'none'

/** Where the device is, as it is sent. @throws NotANumber */
export function whereOf(draft: LineDraft, protocol: Protocol) {
  const address = given(
    isModbus(protocol)
      ? { unit: number('unit', draft.unit) }
      : protocol === 'mqtt'
        ? { topic: draft.topic.trim() || undefined }
        : protocol === 'http'
          ? { path: draft.pagePath.trim() || undefined }
          : {},
  ) as DeviceAddress
  if (draft.connection !== 'new')
    return { connectionId: Number(draft.connection), address, settings: {} as ConnectionSettings }
  return {
    ...(draft.name.trim() ? { name: draft.name.trim() } : {}),
    protocol: draft.protocol,
    settings: settingsOf(draft),
    ...(asksSecret(draft) ? { secret: draft.secret } : {}),
    address,
  }
}
