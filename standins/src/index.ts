import { fleet, processAt, truthAt } from '@frustum/demo'
import { startStandIns } from './modbusStandIns.ts'

const port = Number(process.env.STANDIN_PORT ?? 0)
const server = await startStandIns({ fleet: fleet(), truthAt, processAt, port })
// One line for whoever started this process: where to find the transmitters.
console.log(`STANDINS ${server.port}`)

const stop = () => server.close().then(() => process.exit(0))
process.on('SIGTERM', stop)
process.on('SIGINT', stop)
// A stand-in must not outlive the program that started it.
process.on('disconnect', stop)
