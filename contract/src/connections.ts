import './validationMessages.ts'
import { array, boolean, type InferType, mixed, number, object, string } from 'yup'
import {
  BYTE_ORDERS,
  MESSAGE_FORMATS,
  REGISTER_TABLES,
  REGISTER_TYPES,
  type RegisterType,
  type WritableChannel,
} from './mapping.ts'

/** How a connection reaches its devices. */
export const PROTOCOLS = {
  'modbus-tcp': 'Modbus TCP',
  'modbus-rtu-tcp': 'Modbus RTU over TCP',
  'modbus-serial': 'Modbus RTU on a serial port',
  mqtt: 'MQTT broker',
  http: 'A page that is fetched',
  push: 'The device sends by itself',
} as const
export type Protocol = keyof typeof PROTOCOLS

export const isModbus = (protocol: Protocol): boolean => protocol.startsWith('modbus')

export const PARITIES = ['none', 'even', 'odd'] as const
export const BAUD_RATES = [1200, 2400, 4800, 9600, 19200, 38400, 57600, 115200] as const

/** Largest number of a row. */
const MOST_ROWS = 2 ** 31 - 1

/** Standard ports. */
export const MODBUS_PORT = 502
export const MQTT_PORT = 1883
export const MQTT_TLS_PORT = 8883

export const MQTT_VERSIONS = ['3.1.1', '5'] as const
export const HTTP_AUTH = ['none', 'basic', 'bearer'] as const

/** A device that sends by itself does so to this address, with its token at the end. */
export const INGEST_PATH = '/api/ingest/'

const operator = () => string().trim().min(1).max(80).required()

/** What is needed to reach a bus or host; what a protocol does not need stays away. */
export interface ConnectionSettings {
  host?: string | undefined
  port?: number | undefined
  /** Serial port, as the machine names it. */
  path?: string | undefined
  baud?: number | undefined
  parity?: (typeof PARITIES)[number] | undefined
  stopBits?: 1 | 2 | undefined
  /** How often its devices are asked, ms; as often as the server asks, unless said. */
  everyMs?: number | undefined
  /** How long an answer may take, ms. */
  answerMs?: number | undefined
  /** Of a broker. */
  version?: (typeof MQTT_VERSIONS)[number] | undefined
  tls?: boolean | undefined
  /** Certificate of the authority that a broker's or page's own is signed by, PEM; without it those that everybody knows. */
  authority?: string | undefined
  /** Who signs in to a broker or page; the password, or the bearer's token, is kept apart as the secret. */
  user?: string | undefined
  auth?: (typeof HTTP_AUTH)[number] | undefined
  /** Of a page: where it begins, http or https. */
  url?: string | undefined
  /** Of a page: whether its host may have a link-local or carrier-grade address, as one on a direct cable has. */
  linkLocal?: boolean | undefined
}

/** Where a device is on its connection. */
export interface DeviceAddress {
  /** Of Modbus. */
  unit?: number | undefined
  /** Of a broker: the topics that it publishes under, with + and # as they are in MQTT. */
  topic?: string | undefined
  /** Of a page: after the connection's address. */
  path?: string | undefined
}

const host = () =>
  string()
    .trim()
    .max(253)
    .matches(/^[A-Za-z0-9._:-]*$/, 'Only its name or its address: letters, figures, dots.')
    .test(
      'whole',
      'An address has four numbers, as 192.168.1.40.',
      // The resolver takes 1.5 for 1.0.0.5, which nobody means.
      (text) => !text || !/^[\dx.-]+$/i.test(text) || /^(\d{1,3}\.){3}\d{1,3}$/.test(text),
    )

/** What is in an address is shown to everybody: a password has a field of its own. */
const PLAIN_URL = /^https?:\/\/[^\s/@?#]+([/?#]\S*)?$/i

export const settingsSchema = object({
  host: host(),
  port: number().integer().min(1).max(65535),
  path: string().trim().max(200),
  baud: number().oneOf([...BAUD_RATES]),
  parity: mixed<(typeof PARITIES)[number]>().oneOf([...PARITIES]),
  stopBits: mixed<1 | 2>().oneOf([1, 2]),
  everyMs: number().min(100).max(3_600_000),
  answerMs: number().min(50).max(30_000),
  version: mixed<(typeof MQTT_VERSIONS)[number]>().oneOf([...MQTT_VERSIONS]),
  tls: boolean(),
  authority: string()
    .trim()
    .max(20_000)
    .matches(/^(-----BEGIN CERTIFICATE-----[\s\S]+-----END CERTIFICATE-----)?$/, {
      message: 'Paste the certificate whole, from BEGIN CERTIFICATE to END CERTIFICATE.',
      excludeEmptyString: true,
    }),
  user: string().trim().max(200),
  auth: mixed<(typeof HTTP_AUTH)[number]>().oneOf([...HTTP_AUTH]),
  url: string().trim().max(500).matches(PLAIN_URL, {
    message: 'It begins with http:// or https://, without a password in it.',
    excludeEmptyString: true,
  }),
  linkLocal: boolean(),
}).noUnknown()

const TOPIC = /^([^+#/]*|\+)(\/([^+#/]*|\+))*(\/#)?$|^#$/

export const addressSchema = object({
  topic: string()
    .trim()
    .max(500)
    .matches(TOPIC, { message: 'A topic, with + for one part and # for all the rest.', excludeEmptyString: true }),
  path: string()
    .trim()
    .max(500)
    .matches(/^(?!\/\/)[^\s\\]*$/, 'Only what stands after the address of the page.'),
  unit: number().integer().min(0, 'Units are numbered from 0 to 255.').max(255, 'Units are numbered from 0 to 255.'),
}).noUnknown()

const place = object({
  table: mixed<(typeof REGISTER_TABLES)[number]>().oneOf([...REGISTER_TABLES]),
  address: number().integer().min(0).max(65536),
  type: mixed<RegisterType>().oneOf([...REGISTER_TYPES]),
  order: mixed<(typeof BYTE_ORDERS)[number]>().oneOf([...BYTE_ORDERS]),
  bit: number().integer().min(0).max(15),
  topic: string().max(500),
  field: string().max(500),
})
  .noUnknown()
  .test('place', 'Say where it stands.', (at?: Partial<Record<string, unknown>>) => {
    if (!at) return true
    const register = [at.table, at.address, at.type, at.order]
    return register.every((v) => (v === undefined) === (at.field !== undefined))
  })

const factor = () =>
  number()
    .min(-1e12)
    .max(1e12)
    .test('factor', 'A scale of 0 makes nothing of anything.', (v) => v !== 0)

const channelShape = {
  at: place.required(),
  unit: string().max(20).default(''),
  scale: factor().default(1),
  offset: number().min(-1e12).max(1e12).default(0),
  low: number(),
  high: number(),
  none: array(string().trim().max(20).required()).max(20),
  span: object({
    at4: number().required(),
    at20: number().required(),
    unit: string().max(20).default(''),
  })
    .noUnknown()
    .default(undefined),
}
const channel = () => object(channelShape).noUnknown().default(undefined)

const registerPlace = place.test(
  'register',
  'Only a holding register or a coil can be written.',
  (at?: { table?: unknown }) => !at || at.table === 'holding' || at.table === 'coil',
)

const writableChannel = object({ ...channelShape, at: registerPlace.required(), many: boolean() })
  .noUnknown()
  .required()

export const mappingSchema = object({
  countsFrom: mixed<0 | 1>().oneOf([0, 1]).default(0),
  format: mixed<(typeof MESSAGE_FORMATS)[number]>().oneOf([...MESSAGE_FORMATS]),
  time: place
    .default(undefined)
    .test(
      'field',
      'A time stands in a field of a message.',
      (at?: { field?: unknown }) => !at || at.field !== undefined,
    ),
  value: channel(),
  signal: channel(),
  temperature: object({ ...channelShape, at: place.default(undefined), position: string().max(80) })
    .noUnknown()
    .default(undefined),
  glass: channel(),
  junction: channel(),
  status: object({
    at: place.required(),
    bits: array(number().integer().min(0).max(31).required()).max(32),
    values: array(string().trim().max(40).required()).max(20),
  })
    .noUnknown()
    .default(undefined),
  calibration: mixed<Record<string, WritableChannel>>().test(
    'parameters',
    'Say where its parameters stand.',
    (parameters) =>
      parameters === undefined ||
      (Object.keys(parameters).length <= 20 &&
        Object.values(parameters).every((one) => writableChannel.isValidSync(one, { strict: true }))),
  ),
  writes: boolean(),
  hold: object({ at: registerPlace.required(), on: number().required(), off: number().required(), many: boolean() })
    .noUnknown()
    .default(undefined),
}).noUnknown()

/** A password or a bearer's token; missing: as it was; empty: none. It is never answered. */
const secret = () => string().max(2000)

export const connectionBody = object({
  operator: operator(),
  name: string().trim().min(1, 'Give it a name.').max(80).required('Give it a name.'),
  settings: settingsSchema.required(),
  secret: secret(),
}).noUnknown()

/** A mapping to begin others with. */
export const profileBody = object({
  operator: operator(),
  name: string().trim().min(1, 'Give it a name.').max(80).required('Give it a name.'),
  mapping: mappingSchema.required(),
}).noUnknown()

/** Chosen by who asks, so that it is never answered: 128 bits or more, of letters that an address may have. */
export const tokenBody = object({
  operator: operator(),
  token: string()
    .matches(/^[A-Za-z0-9_-]{22,200}$/, 'At least 22 letters and figures, drawn at random.')
    .required(),
}).noUnknown()

/** A connection that is there, or a new one; what is on it, and what its numbers mean. */
export const lineBody = object({
  operator: operator(),
  /** The number of one that is there; missing: a new one. */
  connectionId: number().integer().min(1).max(MOST_ROWS),
  name: string().trim().max(80),
  protocol: mixed<Protocol>().oneOf(Object.keys(PROTOCOLS) as Protocol[]),
  settings: settingsSchema.default({}),
  secret: secret(),
  address: addressSchema.default({}),
  mapping: mappingSchema.default(undefined),
}).noUnknown()
export type LineBody = InferType<typeof lineBody>

/** What the display reads now, as it stands there: digits tell how finely. */
const displayed = object({
  value: string().trim().max(24),
  signal: string().trim().max(24),
  temperature: string().trim().max(24),
})
  .noUnknown()
  .default({})

/**
 * Looks for what a display shows among the registers of a device, or among what it says. Without a unit, units 1 to 247
 * are asked first; without a topic all are listened to.
 */
export const findBody = object({
  operator: operator(),
  /** Position that it is for: what a device sends by itself is known by it. */
  position: number().integer().min(1).max(MOST_ROWS),
  secret: secret(),
  address: addressSchema.default({}),
  connectionId: number().integer().min(1).max(MOST_ROWS),
  protocol: mixed<Protocol>().oneOf(Object.keys(PROTOCOLS) as Protocol[]),
  settings: settingsSchema.default({}),
  unit: number().integer().min(0).max(255),
  shown: displayed,
}).noUnknown()
export type FindBody = InferType<typeof findBody>

export const lookBody = object({
  operator: operator(),
  shown: displayed,
  /** Of units that were found. */
  unit: number().integer().min(0).max(255),
  /** Reads further addresses too. */
  further: boolean(),
  /** A look that was wrong. */
  withdraw: number().integer().min(1),
}).noUnknown()

export const releaseHoldBody = object({
  operator: operator(),
  /** Somebody let them go at the device itself. */
  byHand: boolean().default(false),
}).noUnknown()
