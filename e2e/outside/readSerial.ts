import { type Mapping, systemClock } from '@frustum/contract'
import type { SensorReading } from '@frustum/core'
import { sensorAt } from '../../lab/src/fixtures/sensorAt.ts'
import { protocolOf } from '../../server/src/devices/protocols/registry.ts'

/** Reads a device on a serial port twice, and says what came. */
const [path = '', mapping = ''] = process.argv.slice(2)
const heard: (SensorReading | string)[] = []
const hear = (what: SensorReading | string) => {
  heard.push(what)
  if (heard.length === 2) process.send?.(heard, () => process.exit(0))
}
const driver = protocolOf('modbus-serial').open({
  bus: { protocol: 'modbus-serial', settings: { path, baud: 9600, parity: 'none', stopBits: 1 }, secret: null },
  everyMs: 100,
  clock: systemClock,
  told: {
    reading: (_id, reading) => hear(reading),
    failed: (_id, problem) => hear(problem.message),
    temperatureAt: () => null,
    isWatched: () => false,
    everyMs: () => null,
  },
  received: new Map(),
})
driver.follow([sensorAt(7, { mapping: JSON.parse(mapping) as Mapping })])
