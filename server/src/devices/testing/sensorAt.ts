import type { Mapping } from '@frustum/contract'
import type { SensorKind } from '@frustum/core'
import type { FollowedSensor } from '../link.ts'
import { floatMap } from '../protocols/modbus/scheme.ts'

/** A sensor of a unit, by itself on its device. */
export const sensorAt = (
  unit: number,
  {
    kind = 'ph',
    mapping = floatMap(kind, true),
    id = unit,
  }: { kind?: SensorKind; mapping?: Mapping; id?: number } = {},
) => {
  const sensor: FollowedSensor = { id, code: `S-${id}`, kind, setting: {}, mapping }
  return { id, name: `Device ${id}`, address: { unit }, sensors: [sensor] }
}
