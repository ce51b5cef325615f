import type { Channel, Mapping, RegisterPlace, WritableChannel } from '@frustum/contract'
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
