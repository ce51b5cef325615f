import { createServer } from 'node:net'
import { systemClock } from '@frustum/contract'
import { median } from '@frustum/core'
import { floatMap } from '@frustum/server/extending'
import ModbusRTU, { ServerTCP } from 'modbus-serial'
import { freePort } from '../../../e2e/support/freePort.ts'
import { protocolOf } from '../../../server/src/devices/protocols/registry.ts'
import { sensorAt } from '../fixtures/sensorAt.ts'

/** One side of the bench of lines, in a process of its own: the devices, our link, or a bare loop of the same reads. */

const UNITS = 5
const PERIOD_MS = 500
const SECONDS = 15
const WARM_UP_MS = 3000
const LOOK_EVERY_MS = 50
const REGISTERS = 11

interface Asked {
  role: 'devices' | 'ours' | 'bare'
  /** Connections that answer, and those that are dead. */
  alive: number
  dead: number
  ports: readonly number[]
}

/** Floats that any sensor could read, of each unit; the dead take a connection and never answer. */
async function devices({ alive, dead }: Asked): Promise<number[]> {
  const words = Array.from({ length: REGISTERS }, (_, i) => (i % 2 === 0 ? 0x40e0 : 0))
  const ports: number[] = []
  for (let i = 0; i < alive; i++) {
    const port = await freePort()
    const vector = {
      getMultipleInputRegisters: (address: number, length: number) => words.slice(address, address + length),
      getMultipleHoldingRegisters: (_address: number, length: number) => words.slice(0, length),
    }
    const server = new ServerTCP(vector, { host: '127.0.0.1', port, unitID: 255 })
    await new Promise((resolve) => server.once('initialized', resolve))
    ports.push(port)
  }
  for (let i = 0; i < dead; i++) {
    const silent = createServer((socket) => void socket.on('error', () => undefined).resume())
    await new Promise<void>((resolve) => silent.listen(0, '127.0.0.1', resolve))
    ports.push((silent.address() as { port: number }).port)
  }
  return ports
}

/** Reads everything for a while, and says how old readings were at any moment and what it cost. */
async function ours({ ports, alive }: Asked) {
  const latest = new Map<number, number>()
  let reads = 0
  ports.forEach((port, i) => {
    const driver = protocolOf('modbus-tcp').open({
      bus: { protocol: 'modbus-tcp', settings: { host: '127.0.0.1', port }, secret: null },
      everyMs: PERIOD_MS,
      clock: systemClock,
      told: {
        reading: (id, { at }) => {
          reads++
          latest.set(id, at)
        },
        failed: () => undefined,
        temperatureAt: () => null,
        isWatched: () => false,
        everyMs: () => null,
      },
      received: new Map(),
    })
    const mapping = { ...floatMap('ph', false), calibration: undefined, hold: undefined }
    driver.follow(
      Array.from({ length: UNITS }, (_, unit) => ({
        ...sensorAt(unit + 1, { id: 100 * i + unit, mapping }),
        address: { unit: unit + 1 },
      })),
    )
  })
  await new Promise((resolve) => setTimeout(resolve, WARM_UP_MS))
  const [cpu, before] = [process.cpuUsage(), reads]
  const ages: number[] = []
  const look = setInterval(() => {
    const now = Date.now()
    for (const at of latest.values()) ages.push(now - at)
  }, LOOK_EVERY_MS)
  await new Promise((resolve) => setTimeout(resolve, SECONDS * 1000))
  clearInterval(look)
  const { user, system } = process.cpuUsage(cpu)
  const sorted = [...ages].sort((a, b) => a - b)
  const p95 = sorted[Math.floor(0.95 * sorted.length)] ?? Number.NaN
  const perRead = (user + system) / (reads - before)
  return { median: median(ages), p95, perRead, sensors: latest.size, wanted: alive * UNITS }
}

/** The same reads by the protocol's own library, one after the other on each connection, and nothing else. */
async function bare({ ports, alive }: Asked) {
  let reads = 0
  for (const port of ports.slice(0, alive)) {
    const client = new ModbusRTU()
    await client.connectTCP('127.0.0.1', { port })
    const round = async () => {
      for (let unit = 1; unit <= UNITS; unit++) {
        client.setID(unit)
        await client.readInputRegisters(0, REGISTERS)
        reads++
      }
    }
    setInterval(() => void round(), PERIOD_MS)
  }
  await new Promise((resolve) => setTimeout(resolve, WARM_UP_MS))
  const [cpu, before] = [process.cpuUsage(), reads]
  await new Promise((resolve) => setTimeout(resolve, SECONDS * 1000))
  const { user, system } = process.cpuUsage(cpu)
  return { perRead: (user + system) / (reads - before) }
}

process.on('message', async (asked: Asked) => {
  const work = { devices, ours, bare }[asked.role]
  process.send?.(await work(asked))
})
process.on('disconnect', () => process.exit(0))
