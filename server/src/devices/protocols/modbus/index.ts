import type { ProtocolField } from '@frustum/contract'
import { mixed, number, object, string } from 'yup'
import { Exchanges } from '../../exchanges.ts'
import { below, type Finding, type Protocol } from '../protocol.ts'
import { HOST_FIELD, host, POLL_SETTINGS, pollFields, portSetting } from '../settings.ts'
import { Finder } from './finder/finder.ts'
import { POLITE_MS } from './finder/scan.ts'
import { ModbusConnection } from './modbusConnection.ts'
import { MODBUS_PORT, ModbusLine } from './modbusLine.ts'
import { addressProblems, REGISTER_SCHEME } from './scheme.ts'

const BAUD_RATES = [1200, 2400, 4800, 9600, 19_200, 38_400, 57_600, 115_200]
const PARITIES = ['none', 'even', 'odd']
const ANSWER_S = 0.9

const UNITS = 'Enter a unit ID from 0 to 255.'
const UNIT_FIELD: ProtocolField = {
  key: 'unit',
  label: 'Unit ID',
  kind: 'number',
  decimals: 0,
  usual: '1',
  hint: 'Leave blank to scan for it.',
}

const common = {
  address: object({
    unit: number().integer().min(0, UNITS).max(255, UNITS).required('Enter the unit ID.'),
  }).noUnknown(),
  mapping: REGISTER_SCHEME,
  polled: true,
  ownAddress: false,
  searchesByReading: true,
  addressText: ({ unit }) => (unit === undefined ? '' : `unit ${unit}`),
  problems: addressProblems,
  open: ({ bus, everyMs, clock, told }) =>
    new ModbusConnection(bus, Number(bus.settings.everyMs ?? everyMs), clock, told),
  find: findRegisters,
} satisfies Partial<Protocol>

const form = (settings: readonly ProtocolField[]) => ({
  settings: below('settings', [...settings, ...pollFields(ANSWER_S)]),
  address: below('address', [UNIT_FIELD]),
  finder:
    "Enter what the display shows now, with all its digits. Frustum reads the device's registers, at most 80 requests a second.",
})

/** A gateway or device on the network. */
const overNetwork = (key: string, name: string): Protocol => ({
  key,
  name,
  ...common,
  hostSettings: ['host', 'port'],
  settings: object({
    host: host().required('Enter the address or name of the device.'),
    port: portSetting(),
    ...POLL_SETTINGS,
  }).noUnknown(),
  reachedText: ({ host: name_, port }) => [name_, port && `port ${port}`].filter(Boolean).join(', '),
  form: () =>
    form([HOST_FIELD, { key: 'port', label: 'Port', kind: 'number', decimals: 0, usual: String(MODBUS_PORT) }]),
})

const serial: Protocol = {
  key: 'modbus-serial',
  name: 'Modbus RTU on a serial port',
  ...common,
  hostSettings: ['path'],
  settings: object({
    path: string().trim().max(200).required('Choose the serial port.'),
    baud: number().oneOf(BAUD_RATES),
    parity: mixed<string>().oneOf(PARITIES),
    stopBits: number().oneOf([1, 2]),
    ...POLL_SETTINGS,
  }).noUnknown(),
  reachedText: ({ path, baud = 9600 }) => `${path}, ${baud} baud`,
  async form() {
    const ports = await serialPorts()
    const choice = (
      key: string,
      label: string,
      values: readonly (string | number)[],
      usual: string,
    ): ProtocolField => ({
      key,
      label,
      kind: 'choice',
      usual,
      choices: values.map((value) => ({ value: String(value), label: String(value) })),
      numeric: typeof values[0] === 'number',
    })
    return form([
      {
        key: 'path',
        label: 'Serial port',
        kind: 'text',
        suggestions: ports,
        ...(ports[0] ? { usual: ports[0] } : {}),
        hint: ports.length > 0 ? `Found: ${ports.join(', ')}.` : 'No serial port found on the server.',
      },
      choice('baud', 'Baud rate', BAUD_RATES, '9600'),
      choice('parity', 'Parity', PARITIES, 'none'),
      choice('stopBits', 'Stop bits', [1, 2], '1'),
    ])
  },
}

export const MODBUS: readonly Protocol[] = [
  overNetwork('modbus-tcp', 'Modbus TCP'),
  overNetwork('modbus-rtu-tcp', 'Modbus RTU over TCP'),
  serial,
]

/** Over the connection that is open, or one of its own. */
function findRegisters({ bus, address, shown, typed, clock, open }: Finding): Finder {
  const own = open instanceof ModbusConnection ? null : new ModbusLine(bus, new Exchanges(clock))
  const line = open instanceof ModbusConnection ? open.line : (own as ModbusLine)
  const unit = address.unit === undefined ? null : Number(address.unit)
  return new Finder({ line, everyMs: POLITE_MS, close: () => own?.close() }, { unit, shown, typed })
}

/** Serial ports of the machine; none where it has no way to them. */
async function serialPorts(): Promise<string[]> {
  try {
    // A native module: the rest works without it.
    const { SerialPort } = await import('serialport')
    return (await SerialPort.list()).map((port) => port.path)
  } catch {
    return []
  }
}
