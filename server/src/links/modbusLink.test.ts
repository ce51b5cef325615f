import { type AddressInfo, createServer, type Socket } from 'node:net'
import { channelOf, nernstSlope } from '@frustum/core'
import { type FleetSensor, fleet, processAt, truthAt } from '@frustum/demo'
import { ServerTCP } from 'modbus-serial'
import pino from 'pino'
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { startStandIns } from '../../../standins/src/modbusStandIns.ts'
import { type LinkReading, openLink } from './link.ts'
import { LiveValues, STALE_AFTER_MS } from './liveValues.ts'
import { ModbusLink } from './modbusLink.ts'

const UNIT = 2
const sensor = fleet().find((s) => s.unit === UNIT) as FleetSensor

let standIns: Awaited<ReturnType<typeof startStandIns>>
let link: ModbusLink

beforeEach(async () => {
  standIns = await startStandIns({ fleet: fleet(), truthAt, processAt, port: 0 })
  link = openLink({ kind: 'modbus-tcp', host: '127.0.0.1', port: standIns.port, unit: UNIT }, 'ph') as ModbusLink
})
afterEach(async () => {
  link.close()
  await standIns.close()
})

describe('a transmitter on Modbus TCP', () => {
  it('reads what the electrode in its process gives', async () => {
    const reading = await link.read()
    const state = truthAt(sensor, 0)
    if (state.kind !== 'ph') throw new Error('The nursery probe is one for pH.')
    const { zero, slopeEfficiency } = state.truth
    const ideal = zero + slopeEfficiency * 59.1 * (7 - processAt(sensor, Date.now()).value)
    expect(reading.signal).toBeCloseTo(ideal, -1)
    expect(Math.abs(reading.temperature - sensor.process.temperature)).toBeLessThan(1)
    expect(Math.abs(reading.at - Date.now())).toBeLessThan(500)
  })

  it('takes slope and zero, reads them back, and shows pH by them', async () => {
    const held = await link.writeCalibration({ slopeEfficiency: 0.9512, zero: -14.3 })
    expect(held.slopeEfficiency).toBeCloseTo(0.9512, 5)
    expect(held.zero).toBeCloseTo(-14.3, 4)
    const { signal, temperature, shown } = await link.read()
    const perPh = 0.9512 * nernstSlope(temperature)
    expect(shown).toBeCloseTo(7 - (signal + 14.3) / perPh, 2)
  })

  it('moves the probe of a stand-in, and keeps other units as they are', async () => {
    await link.putInto('pH7.00')
    expect(await link.standIn()).toEqual({ bath: 'pH7.00', faults: 0 })
    const other = new ModbusLink({ kind: 'modbus-tcp', host: '127.0.0.1', port: standIns.port, unit: 3 }, 'ph')
    expect((await other.standIn()).bath).toBe('process')
    other.close()
  })

  it('gives up on a silent device after asking twice, and works again when it is back', async () => {
    await link.read()
    await link.writeStandIn('faults', 32)
    const began = Date.now()
    await expect(link.read()).rejects.toThrow()
    expect(Date.now() - began).toBeLessThan(2500)
    await link.writeStandIn('faults', 0)
    expect((await link.read()).shown).toBeGreaterThan(6)
  })
})

it('a device that let one request go unanswered, or was restarted, is asked again and not called silent', async () => {
  // Three words of 32 bits and a counter, as above: 172.5 mV, 25 degC, pH 4.08.
  const words = [0x432c, 0x8000, 0x41c8, 0x0000, 0x4082, 0x8f5c, 1, 0x7fc0, 0, 0x7fc0, 0]
  let requests = 0
  const lines: Socket[] = []
  const device = createServer((socket) => {
    lines.push(socket)
    socket.on('error', () => undefined)
    socket.on('data', (request) => {
      if (++requests === 1) return
      const answer = Buffer.alloc(9 + 2 * words.length)
      request.copy(answer, 0, 0, 4)
      answer.writeUInt16BE(3 + 2 * words.length, 4)
      request.copy(answer, 6, 6, 8)
      answer[8] = 2 * words.length
      words.forEach((word, i) => void answer.writeUInt16BE(word, 9 + 2 * i))
      socket.write(answer)
    })
  })
  await new Promise<void>((resolve) => device.listen(0, '127.0.0.1', resolve))
  const { port } = device.address() as AddressInfo
  const line = new ModbusLink({ kind: 'modbus-tcp', host: '127.0.0.1', port, unit: 1 }, 'ph')
  expect(await line.read()).toMatchObject({ signal: 172.5, temperature: 25 })
  expect(requests).toBe(2)
  for (const open of lines) open.destroy()
  expect(await line.read()).toMatchObject({ signal: 172.5 })
  line.close()
  await new Promise((resolve) => device.close(resolve))
})

it('a line that was closed is not opened again for what was not answered yet', async () => {
  let lines = 0
  const device = createServer((socket) => {
    lines++
    socket.on('error', () => undefined)
    socket.resume()
  })
  await new Promise<void>((resolve) => device.listen(0, '127.0.0.1', resolve))
  const { port } = device.address() as AddressInfo
  const line = new ModbusLink({ kind: 'modbus-tcp', host: '127.0.0.1', port, unit: 1 }, 'ph')
  const read = line.read()
  read.catch(() => undefined)
  await expect.poll(() => lines).toBe(1)
  line.close()
  await expect(read).rejects.toThrow()
  expect(lines).toBe(1)
  await new Promise((resolve) => device.close(resolve))
})

describe('resistances that a transmitter reports', () => {
  const lineTo = (unit: number, kind: 'ph' | 'orp' = 'ph', port = standIns.port) =>
    new ModbusLink({ kind: 'modbus-tcp', host: '127.0.0.1', port, unit }, kind)

  it('come with the reading where its model measures them, and are left out where it does not', async () => {
    const measures = fleet().find((s) => s.reportsResistances && s.unit !== null)
    const line = lineTo(measures?.unit as number)
    const { resistances } = await line.read()
    expect(resistances?.glass).toBeGreaterThan(10)
    expect(resistances?.junction).toBeGreaterThan(1)
    line.close()
    const plain = fleet().find((s) => !s.reportsResistances && s.kind === 'ph' && s.unit !== null)
    const other = lineTo(plain?.unit as number)
    expect((await other.read()).resistances).toBeUndefined()
    other.close()
  })

  it('are not asked for twice of a device of the shorter map, which goes on being read', async () => {
    // A device that knows registers 0 to 6 only, and answers "illegal data address" beyond them.
    const asked: number[] = []
    const short = new ServerTCP(
      {
        getMultipleInputRegisters: (
          _: number,
          length: number,
          __: number,
          answer: (error: Error | null, words: number[]) => void,
        ) => {
          asked.push(length)
          if (length > 7) answer(Object.assign(new Error('Illegal data address'), { modbusErrorCode: 2 }), [])
          // 172.5 mV, 25 degC, pH 4.08 as 32-bit floats, high word first; then the counter.
          else answer(null, [0x432c, 0x8000, 0x41c8, 0x0000, 0x4082, 0x8f5c, 1])
        },
      },
      { host: '127.0.0.1', port: 0, unitID: 255, debug: false },
    )
    const port = await new Promise<number>((resolve) => {
      short.on('initialized', () => {
        const server = (short as unknown as { _server: { address(): { port: number } } })._server
        resolve(server.address().port)
      })
    })
    const line = lineTo(1, 'ph', port)
    for (let i = 0; i < 3; i++) {
      const reading = await line.read()
      expect(reading).toMatchObject({ signal: 172.5, temperature: 25 })
      expect(reading.shown).toBeCloseTo(4.08, 5)
      expect(reading.resistances).toBeUndefined()
    }
    expect(asked).toEqual([11, 7, 7, 7])
    line.close()
    await new Promise<void>((resolve) => short.close(() => resolve()))
  })
})

it('live values turn blind when the line is gone, keep the last reading apart, and recover', async () => {
  const live = new LiveValues(100, pino({ level: 'silent' }))
  const heard: (number | null)[] = []
  live.add('X', link)
  const stop = live.listen('X', (reading) => heard.push(reading?.signal ?? null))
  await expect.poll(() => live.current('X').shown).not.toBeNull()
  expect(live.current('X').blindSince).toBeNull()
  const control = new ModbusLink({ kind: 'modbus-tcp', host: '127.0.0.1', port: standIns.port, unit: UNIT }, 'ph')
  await control.writeStandIn('faults', 32)
  await expect.poll(() => live.current('X').blindSince, { timeout: 5000 }).not.toBeNull()
  expect(heard).toContain(null)
  await control.writeStandIn('faults', 0)
  await expect.poll(() => live.current('X').blindSince, { timeout: 5000 }).toBeNull()
  stop()
  live.stop()
  control.close()
})

describe('waiting for a fresh reading', () => {
  /** A line that answers when it is told to. */
  async function slowLine() {
    let answer: (reading: LinkReading | null) => void = () => undefined
    const live = new LiveValues(20, pino({ level: 'silent' }))
    live.add('X', {
      read: () =>
        new Promise((resolve, reject) => {
          answer = (reading) => (reading ? resolve(reading) : reject(new Error('silent')))
        }),
      readCalibration: () => Promise.reject(new Error('not asked')),
      writeCalibration: () => Promise.reject(new Error('not asked')),
      close: () => undefined,
    })
    const old = { at: Date.now() - 10_000, signal: 1, temperature: 25, shown: 7 }
    answer(old)
    await expect.poll(() => live.current('X').signal).toBe(1)
    // The next poll is under way when its way to answer has changed.
    const before = answer
    await expect.poll(() => answer !== before).toBe(true)
    return { live, answer: (reading: LinkReading | null) => answer(reading) }
  }

  it('takes the next one of a line that is late', async () => {
    const { live, answer } = await slowLine()
    const fresh = live.fresh('X')
    answer({ at: Date.now(), signal: 2, temperature: 25, shown: 7 })
    await fresh
    expect(live.current('X').signal).toBe(2)
    live.stop()
  })

  it('ends when the line fails, or when nothing comes, and does not wait at all for a live one', async () => {
    const { live, answer } = await slowLine()
    const failed = live.fresh('X')
    answer(null)
    await failed
    const began = Date.now()
    await live.fresh('X')
    expect(Date.now() - began).toBeGreaterThan(STALE_AFTER_MS - 50)
    answer({ at: Date.now(), signal: 3, temperature: 25, shown: 7 })
    await expect.poll(() => live.current('X').signal).toBe(3)
    const again = Date.now()
    await Promise.all([live.fresh('X'), live.fresh('not linked')])
    expect(Date.now() - again).toBeLessThan(500)
    live.stop()
  })
})

it('every kind of stand-in shows what its own calibration makes of its signal, and keeps what it is given', async () => {
  for (const one of fleet().filter((s) => s.unit !== null)) {
    const channel = channelOf(one.kind)
    const line = new ModbusLink(
      { kind: 'modbus-tcp', host: '127.0.0.1', port: standIns.port, unit: one.unit as number },
      one.kind,
    )
    const wanted = Object.fromEntries(
      channel.parameters.map(({ key, unit }, i) => [
        key,
        unit === '°C' ? 20 + 4 * i : unit === '' || unit === '%' ? 0.9375 : unit === 'µS/cm' ? 0 : 2.5,
      ]),
    )
    const held = await line.writeCalibration(wanted)
    for (const [key, value] of Object.entries(wanted))
      expect([one.code, key, held[key]]).toEqual([one.code, key, value])
    const { signal, temperature, shown } = await line.read()
    const right = channel.toShown(signal, temperature, held, one.device)
    expect(Math.abs(shown / right - 1), one.code).toBeLessThan(1e-3)
    line.close()
  }
})

it('a simulator in place of the sensor plays what it is told', async () => {
  await link.simulate(177.5, 25)
  await link.putInto('simulator')
  const { signal, temperature, shown } = await link.read()
  expect([signal, temperature]).toEqual([177.5, 25])
  expect(shown).toBeCloseTo(7 - 177.5 / nernstSlope(25), 2)
})
