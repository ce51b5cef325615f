import type { Channel, Mapping, ProtocolField } from '@frustum/contract'
import { modelOf, type SensorKind } from '@frustum/core'
import { boolean, mixed, number, object } from 'yup'
import type { MappingScheme } from '../protocol.ts'
import {
  BYTE_ORDERS,
  type ByteOrder,
  REGISTER_TABLES,
  REGISTER_TYPES,
  type RegisterMapping,
  type RegisterParameter,
  type RegisterPlace,
  type RegisterTable,
  type RegisterType,
  registerText,
} from './place.ts'

const COUNTED = 'Counting from 1, the first address is 1.'

const place = object({
  table: mixed<RegisterTable>()
    .oneOf([...REGISTER_TABLES])
    .required(),
  address: number().integer().min(0).max(65536).required('Enter the address.'),
  type: mixed<RegisterType>()
    .oneOf([...REGISTER_TYPES])
    .default('uint16'),
  order: mixed<ByteOrder>()
    .oneOf([...BYTE_ORDERS])
    .default('ABCD'),
  bit: number().integer().min(0).max(15),
}).noUnknown()

const WRITABLE = 'Only a holding register or a coil can be written.'
const writablePlace = place.test(
  'writable',
  WRITABLE,
  (at?: { table?: unknown }) => !at || at.table === 'holding' || at.table === 'coil',
)

const choices = (labels: Readonly<Record<string, string>>) =>
  Object.entries(labels).map(([value, label]) => ({ value, label }))
const own = (values: readonly string[]) => values.map((value) => ({ value, label: value }))

const TABLE_NAMES = { holding: 'Holding (3)', input: 'Input (4)', coil: 'Coil (1)', discrete: 'Discrete (2)' } as const
const REGISTERS = ['holding', 'input']

const table = (labels: Readonly<Record<string, string>> = TABLE_NAMES): ProtocolField => ({
  key: 'at.table',
  label: 'table',
  kind: 'choice',
  choices: choices(labels),
  usual: 'holding',
})

/** Manuals print 40011 and 30011 for holding register 11 and input register 11. */
const PREFIXES = { 4: 'holding', 3: 'input', 1: 'discrete', 0: 'coil' } as const
const address: ProtocolField = {
  key: 'at.address',
  label: 'address',
  kind: 'number',
  decimals: 0,
  countsFrom: 'mapping.countsFrom',
  shorthands: Object.entries(PREFIXES).map(([prefix, to]) => ({
    pattern: `^${prefix}0?((?!0000)\\d{4})$`,
    place: { 'at.table': to },
    options: { 'mapping.countsFrom': '1' },
  })),
}
const type: ProtocolField = {
  key: 'at.type',
  label: 'type',
  kind: 'choice',
  choices: own(REGISTER_TYPES),
  usual: 'float32',
  when: { key: 'at.table', is: REGISTERS },
}
const order: ProtocolField = {
  key: 'at.order',
  label: 'byte order',
  kind: 'choice',
  choices: own(BYTE_ORDERS),
  usual: 'ABCD',
  when: { key: 'at.table', is: REGISTERS },
}
const many: ProtocolField = { key: 'many', label: 'Only by function 15 or 16', kind: 'tick' }
const number_ = (key: string, label: string, usual = ''): ProtocolField => ({ key, label, kind: 'number', usual })

/** Registers and coils, whichever way a Modbus device is reached. */
export const REGISTER_SCHEME: MappingScheme = {
  family: 'modbus',
  place,
  options: { countsFrom: mixed<0 | 1>().oneOf([0, 1]).default(0) },
  writable: { place: writablePlace, keys: { many: boolean() } },
  sendsStatus: false,
  placeText: (at) => registerText(at as RegisterPlace),
  profiles: (kind) => [
    { name: 'Float map', mapping: floatMap(kind, false) },
    { name: 'Scaled integers', mapping: scaledIntegers(kind) },
    { name: 'Current input, 4 to 20 mA', mapping: currentInput(kind) },
  ],
  form: {
    options: [
      {
        key: 'mapping.countsFrom',
        label: 'First address',
        kind: 'choice',
        numeric: true,
        usual: '0',
        choices: choices({ 0: '0, as sent on the wire', 1: '1, where 40001 is the first' }),
      },
    ],
    place: [
      table(),
      address,
      type,
      order,
      {
        key: 'at.bit',
        label: 'bit',
        kind: 'number',
        decimals: 0,
        optional: true,
        advanced: true,
        when: { key: 'at.type', is: ['bit'] },
      },
    ],
    status: {
      title: 'Status register',
      fields: [
        table(),
        address,
        { key: 'bits', label: 'Fault bits', kind: 'text', list: true, numeric: true, optional: true },
        { key: 'values', label: 'Fault values', kind: 'text', list: true, optional: true },
      ],
    },
    parameter: [
      table({ holding: 'Holding' }),
      address,
      { ...type, choices: own(REGISTER_TYPES.filter((t) => t !== 'bit')) },
      order,
    ],
    hold: [
      table({ holding: 'Holding', coil: 'Coil' }),
      address,
      number_('on', 'on hold', '1'),
      number_('off', 'released', '0'),
      many,
    ],
  },
}

/** Returns the first address that comes before the first one, by path. */
export function addressProblems(mapping: Mapping): Record<string, string> {
  const { countsFrom, hold, status } = mapping as RegisterMapping
  const channels = Object.entries(mapping).filter(([, one]) => typeof one === 'object' && one !== null && 'at' in one)
  const places = [...channels, ['hold', hold], ['status', status]] as [string, { at: RegisterPlace } | undefined][]
  const wrong = places.find(([, one]) => one && one.at.address < countsFrom)
  return wrong ? { [`mapping.${wrong[0]}`]: COUNTED } : {}
}

const float = (of: RegisterTable, at: number): Channel<RegisterPlace> => ({
  at: { table: of, address: at, type: 'float32', order: 'ABCD' },
  unit: '',
  scale: 1,
  offset: 0,
})

/** Registers of the calibration parameters in the float map, in the order of the kind's measurement model. */
const PARAMETERS = [0, 2, 6, 8, 10, 12]

/**
 * The map of floats that docs/formats.md describes: signal, temperature and value in input registers, the parameters of
 * the calibration in holding registers.
 */
export function floatMap(kind: SensorKind, writes: boolean): RegisterMapping {
  const calibration: Record<string, RegisterParameter> = Object.fromEntries(
    modelOf(kind).parameters.map(({ key }, i) => [key, float('holding', PARAMETERS[i] ?? 0)]),
  )
  return {
    countsFrom: 0,
    signal: float('input', 0),
    temperature: float('input', 2),
    value: float('input', 4),
    glass: float('input', 7),
    junction: float('input', 9),
    calibration,
    writes,
    hold: { at: { table: 'holding', address: 4, type: 'uint16', order: 'ABCD' }, on: 1, off: 0 },
  }
}

const integer = (at: number, scale: number): Channel<RegisterPlace> => ({
  at: { table: 'input', address: at, type: 'int16', order: 'ABCD' },
  unit: '',
  scale,
  offset: 0,
  none: ['-32768'],
})

/** A transmitter with integers: the value to its last digit, tenths of a degree, tenths of its signal. */
function scaledIntegers(kind: SensorKind): RegisterMapping {
  const { shownScale } = modelOf(kind)
  return {
    countsFrom: 0,
    value: integer(0, Number(`1e-${shownScale({}).decimals}`)),
    temperature: integer(1, 0.1),
    signal: integer(2, 0.1),
  }
}

/** A channel of an input card in microamperes, behind a transmitter that outputs 4 to 20 mA over its usual span. */
function currentInput(kind: SensorKind): RegisterMapping {
  const { shownRange, shownScale } = modelOf(kind)
  const { low, high } = shownRange({})
  const { unit } = shownScale({})
  return {
    countsFrom: 0,
    value: {
      at: { table: 'input', address: 0, type: 'uint16', order: 'ABCD' },
      unit: 'mA',
      scale: 0.001,
      offset: 0,
      span: { at4: low, at20: high, unit: unit === 'pH' ? '' : unit },
    },
  }
}
