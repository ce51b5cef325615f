import type { Channel, Mapping, MessageFormat, RegisterPlace, WritableChannel } from '@frustum/contract'
import { modelOf, type SensorKind } from '@frustum/core'

const float = (table: RegisterPlace['table'], address: number): Channel => ({
  at: { table, address, type: 'float32', order: 'ABCD' },
  unit: '',
  scale: 1,
  offset: 0,
})

/** Where the parameters of a calibration stand in the float map, in the order of their kind's measurement model. */
const PARAMETERS = [0, 2, 6, 8, 10, 12]

/**
 * The map of floats that docs/formats.md describes: signal, temperature and value in input registers, the parameters of
 * the calibration in holding registers.
 */
export function floatMap(kind: SensorKind, writes: boolean): Mapping {
  const calibration: Record<string, WritableChannel> = Object.fromEntries(
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

const whole = (address: number, scale: number): Channel => ({
  at: { table: 'input', address, type: 'int16', order: 'ABCD' },
  unit: '',
  scale,
  offset: 0,
  none: ['-32768'],
})

/** A transmitter that gives whole numbers: the value to its last digit, tenths of a degree, tenths of its signal. */
function scaledIntegers(kind: SensorKind): Mapping {
  const { shownScale } = modelOf(kind)
  return {
    countsFrom: 0,
    value: whole(0, Number(`1e-${shownScale({}).decimals}`)),
    temperature: whole(1, 0.1),
    signal: whole(2, 0.1),
  }
}

/** A channel of an input card in microamperes, behind a transmitter whose 4 to 20 mA stand for its usual span. */
function currentInput(kind: SensorKind): Mapping {
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

/** A monitor that publishes JSON with its value and its temperature side by side. */
const fields = (format: MessageFormat, value: string, temperature: string): Mapping => ({
  countsFrom: 0,
  format,
  value: { at: { field: value }, unit: '', scale: 1, offset: 0 },
  temperature: { at: { field: temperature }, unit: '', scale: 1, offset: 0 },
})

/** Mappings that ship: general ones, of nobody's device. */
export const profilesFor = (kind: SensorKind): { name: string; mapping: Mapping }[] => [
  { name: 'Float map', mapping: floatMap(kind, false) },
  { name: 'Scaled integers', mapping: scaledIntegers(kind) },
  { name: 'Current input, 4 to 20 mA', mapping: currentInput(kind) },
  { name: 'JSON, value and temperature', mapping: fields('json', '/value', '/temperature') },
  { name: 'SenML, value and temperature', mapping: fields('senml', 'value', 'temperature') },
]
