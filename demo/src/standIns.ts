import type { StandInUnit } from '@frustum/lab/stand-ins'
import type { FleetSensor } from './fleet/fleetSensor.ts'
import { processAt, truthAt } from './pellwick.ts'

/** The linked sensors of the station as units of its stand-in transmitters, in the state they are in today. */
export function standInUnits(sensors: readonly FleetSensor[]): StandInUnit[] {
  return sensors.flatMap((sensor) =>
    sensor.unit === null
      ? []
      : [
          {
            unit: sensor.unit,
            truth: truthAt(sensor, 0),
            device: sensor.device,
            standards: sensor.standards,
            process: (at) => processAt(sensor, at),
            reportsResistances: sensor.reportsResistances ?? false,
            as: sensor.via,
          },
        ],
  )
}
