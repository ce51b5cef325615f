import './validationMessages.ts'
import { boolean, type InferType, mixed, number, object, string } from 'yup'
import type { Mapping, Scalar } from './mapping.ts'

/** Largest row number. */
const MOST_ROWS = 2 ** 31 - 1

/** Devices that send by themselves post to this address, followed by their token. */
export const INGEST_PATH = '/api/ingest/'

const operator = () => string().trim().min(1).max(80).required()

/** How a bus or host is reached. The keys belong to the protocol, which checks them. */
export type ConnectionSettings = Readonly<Record<string, Scalar>>

/** Where a device is on its connection. The keys belong to the protocol. */
export type DeviceAddress = Readonly<Record<string, Scalar>>

const isScalar = (value: unknown) => ['string', 'number', 'boolean'].includes(typeof value)
const scalars = () =>
  mixed<Record<string, Scalar>>().test('scalars', 'Send texts, numbers, true or false.', (sent) => {
    if (sent === undefined) return true
    return typeof sent === 'object' && !Array.isArray(sent) && Object.values(sent).every(isScalar)
  })

/** Its parts are checked by the protocol it is for. */
const mapping = () =>
  mixed<Mapping>().test(
    'mapping',
    'Send an object.',
    (sent) => (typeof sent === 'object' && !Array.isArray(sent)) || sent === undefined,
  )

const protocol = () => string().max(40)

/** A password or a bearer's token; missing: as it was; empty: none. It is never answered. */
const secret = () => string().max(2000)

export const connectionBody = object({
  operator: operator(),
  name: string().trim().min(1, 'Give it a name.').max(80).required('Give it a name.'),
  settings: scalars().required(),
  secret: secret(),
}).noUnknown()

/** A mapping to begin others with. */
export const profileBody = object({
  operator: operator(),
  name: string().trim().min(1, 'Give it a name.').max(80).required('Give it a name.'),
  mapping: mapping().required(),
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
  protocol: protocol(),
  settings: scalars().default({}),
  secret: secret(),
  address: scalars().default({}),
  mapping: mapping(),
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

/** Looks for what a display shows among all that a device gives. Where the address is open, the protocol looks for that first. */
export const findBody = object({
  operator: operator(),
  /** Position that it is for: what a device sends by itself is known by it. */
  position: number().integer().min(1).max(MOST_ROWS),
  secret: secret(),
  address: scalars().default({}),
  connectionId: number().integer().min(1).max(MOST_ROWS),
  protocol: protocol(),
  settings: scalars().default({}),
  shown: displayed,
}).noUnknown()
export type FindBody = InferType<typeof findBody>

export const lookBody = object({
  operator: operator(),
  shown: displayed,
  /** One of the addresses that were found. */
  address: scalars(),
  /** Reads further addresses too. */
  further: boolean(),
  /** A look that was wrong. */
  withdraw: number().integer().min(1),
}).noUnknown()
export type LookBody = InferType<typeof lookBody>

export const releaseHoldBody = object({
  operator: operator(),
  /** Somebody let them go at the device itself. */
  byHand: boolean().default(false),
}).noUnknown()
