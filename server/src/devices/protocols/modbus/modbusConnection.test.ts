import type { Channel, Mapping } from '@frustum/contract'
import { describe, expect, it } from 'vitest'
import { followed } from '../../../../../lab/src/fixtures/followed.ts'
import { rawDevice, refusal, registersAnswer } from '../../../../../lab/src/fixtures/rawDevice.ts'
import { sensorAt } from '../../../../../lab/src/fixtures/sensorAt.ts'
import { unreachable } from '../../../../../lab/src/fixtures/unreachable.ts'
import { LineProblem } from '../../lineProblem.ts'
import { encodeRegisters } from './registers.ts'

const channel = (address: number, change: Partial<Channel['at']> = {}, more: Partial<Channel> = {}): Channel => ({
  at: { table: 'input', address, type: 'int16', order: 'ABCD', ...change } as Channel['at'],
  unit: '',
  scale: 1,
  offset: 0,
  ...more,
})
const VALUE: Mapping = { countsFrom: 0, value: channel(0, {}, { scale: 0.01 }) }
const bus = (port: number, answerMs = 250) =>
  ({ protocol: 'modbus-tcp', settings: { host: '127.0.0.1', port, answerMs } }) as const
/** A device that reads 7.29 at every address of every unit. */
const steady = () => rawDevice((request, socket) => void socket.write(registersAnswer(request, () => 729)))

describe('what is asked of a device', () => {
  it('is as the manual prints it, counted from 1, in few requests, the words swapped where they are', async () => {
    const bytes = encodeRegisters(7.29, { type: 'float32', order: 'CDAB' })
    const device = await rawDevice((request, socket) =>
      socket.write(registersAnswer(request, (a) => (a === 10 || a === 11 ? bytes.readUInt16BE(2 * (a - 10)) : 246))),
    )
    const { driver, next } = followed(bus(device.port))
    const mapping: Mapping = {
      countsFrom: 1,
      value: channel(11, { type: 'float32', order: 'CDAB' }),
      temperature: channel(15, {}, { scale: 0.1 }),
    }
    driver.follow([sensorAt(9, { mapping })])
    expect(await next(9)).toMatchObject({
      shown: expect.closeTo(7.29, 5),
      temperature: expect.closeTo(24.6),
      signal: null,
    })
    // Unit 9, function 4, from register 10 on the wire, five of them: one request for both numbers.
    expect(device.requests[0]?.subarray(6).toString('hex')).toBe('0904000a0005')
  })

  it('is asked in smaller parts of one that refuses what it has not, and goes without what may be missing', async () => {
    const there = [0, 1, 2, 6]
    const device = await rawDevice((request, socket) => {
      const [from, count] = [request.readUInt16BE(8), request.readUInt16BE(10)]
      const has = Array.from({ length: count }, (_, i) => from + i).every((a) => there.includes(a))
      socket.write(has ? registersAnswer(request, () => 700) : refusal(request, 2))
    })
    const { driver, next } = followed(bus(device.port))
    const mapping: Mapping = {
      countsFrom: 0,
      value: channel(0, {}, { scale: 0.01 }),
      temperature: channel(6, {}, { scale: 0.01 }),
      glass: channel(30),
    }
    driver.follow([sensorAt(1, { mapping })])
    expect(await next(1)).toEqual({ at: expect.any(Number), shown: 7, signal: null, temperature: 7 })
    const asked = device.requests.length
    await next(1)
    await next(1)
    // What it has not is not asked for again at every turn.
    expect(device.requests.slice(asked).every((r) => there.includes(r.readUInt16BE(8)))).toBe(true)
  })

  it('is never taken from another moment: the status, a limit, a number that is none make no reading', async () => {
    let words: Record<number, number> = {}
    const device = await rawDevice(
      (request, socket) => void socket.write(registersAnswer(request, (a) => words[a] ?? 0)),
    )
    const { driver, heard } = followed(bus(device.port))
    const mapping: Mapping = {
      countsFrom: 0,
      value: channel(0, {}, { scale: 0.01, low: 0, high: 14, none: ['0x8000'] }),
      status: { at: channel(5, { type: 'uint16' }).at, bits: [3] },
    }
    driver.follow([sensorAt(1, { mapping })])
    const says = (why: string) =>
      expect.poll(() => (heard(1).at(-1) as LineProblem | undefined)?.message ?? '', { timeout: 4000 }).toContain(why)
    words = { 0: 700, 5: 8 }
    await says('its status bit 3 is set')
    words = { 0: 1500 }
    await says('is 15, above 14')
    words = { 0: 0x8000 }
    await says('says that it has none')
    words = { 0: 702 }
    await expect.poll(() => heard(1).at(-1)).toMatchObject({ shown: 7.02 })
  })
})

describe('what can go wrong', () => {
  const frames: Record<string, (request: Buffer) => Buffer> = {
    garbage: () => Buffer.from('HTTP/1.1 400 Bad Request\r\n\r\n'),
    'an answer of another unit': (request) => {
      const answer = registersAnswer(request, () => 1)
      answer[6] = 77
      return answer
    },
    'a short frame': (request) => registersAnswer(request, () => 1).subarray(0, 7),
    'an exception': (request) => refusal(request, 4),
    nothing: () => Buffer.alloc(0),
  }
  it.each(Object.entries(frames))('%s is a plain state of that device, and of no other', async (_, frame) => {
    const device = await rawDevice((request, socket) =>
      socket.write(request[6] === 1 ? registersAnswer(request, () => 729) : frame(request)),
    )
    const { driver, heard } = followed(bus(device.port))
    driver.follow([sensorAt(1, { mapping: VALUE }), sensorAt(2, { mapping: VALUE })])
    await expect.poll(() => heard(2).at(-1), { timeout: 8000 }).toBeInstanceOf(LineProblem)
    const { message } = heard(2).at(-1) as LineProblem
    expect(message).toMatch(/^(Unit 2|What came back|Unit 77|The line broke)/)
    const before = heard(1).length
    await expect.poll(() => heard(1).length, { timeout: 8000 }).toBeGreaterThan(before + 3)
    expect(heard(1).every((h) => !(h instanceof LineProblem) && h.shown === 7.29)).toBe(true)
    expect(driver.state().kind).toBe('up')
    expect(device.sockets.size).toBeLessThanOrEqual(1)
  })

  it('an answer that comes late is not taken for the answer to what was asked next', async () => {
    let first = true
    const device = await rawDevice((request, socket) => {
      const answer = registersAnswer(request, () => (first ? 111 : 729))
      if (first) setTimeout(() => socket.write(answer), 400)
      else socket.write(answer)
      first = false
    })
    const { driver, heard } = followed(bus(device.port, 150))
    driver.follow([sensorAt(1, { mapping: VALUE })])
    await expect.poll(() => heard(1).length, { timeout: 8000 }).toBeGreaterThan(12)
    expect(heard(1).every((h) => !(h instanceof LineProblem) && h.shown === 7.29)).toBe(true)
  })

  it('an address where nobody listens, or nobody answers, is said to be that, and is found again', async () => {
    const device = await steady()
    await device.close()
    const refused = followed(bus(device.port))
    refused.driver.follow([sensorAt(1, { mapping: VALUE })])
    await expect.poll(() => refused.heard(1).at(-1)).toMatchObject({ code: 'refused' })
    expect(refused.driver.state()).toMatchObject({ kind: 'down', why: `Nothing listens at 127.0.0.1:${device.port}.` })
    const silent = followed(bus(await unreachable()))
    silent.driver.follow([sensorAt(1, { mapping: VALUE })])
    await expect.poll(() => silent.heard(1).at(-1), { timeout: 8000 }).toMatchObject({ code: 'no-connection' })
  })

  it('dead units on a bus take a tenth of its time at most, and come back by themselves', async () => {
    let dead = true
    const device = await rawDevice((request, socket) => {
      if (dead && (request[6] as number) > 3) return
      socket.write(registersAnswer(request, () => 729))
    })
    const { driver, heard } = followed(bus(device.port, 100), 40)
    driver.follow([1, 2, 3, 4, 5, 6].map((unit) => sensorAt(unit, { mapping: VALUE })))
    const blind = (unit: number) => heard(unit).at(-1) instanceof LineProblem
    await expect.poll(() => [4, 5, 6].every(blind), { timeout: 10_000 }).toBe(true)
    const [from, failures] = [performance.now(), driver.exchanges.failuresAnHour()]
    await expect.poll(() => heard(1).length, { timeout: 20_000 }).toBeGreaterThan(100)
    const spent = (driver.exchanges.failuresAnHour() - failures) * 100
    // One more may just have begun.
    expect(spent).toBeLessThanOrEqual(0.1 * (performance.now() - from) + 100)
    dead = false
    await expect.poll(() => [4, 5, 6].some(blind), { timeout: 20_000 }).toBe(false)
  })
})

describe('what is written', () => {
  const calibration = {
    slopeEfficiency: { ...channel(20, { table: 'holding' }, { scale: 0.1, low: 80, high: 110 }) },
    zero: { ...channel(21, { table: 'holding', type: 'float32', order: 'CDAB' }) },
  }
  const mapping: Mapping = { ...VALUE, calibration, writes: true }

  /** A device that keeps what it is given, and notes where. */
  async function writable() {
    const words = new Map<number, number>()
    const written: string[] = []
    const device = await rawDevice((request, socket) => {
      const code = request[7]
      if (code === 6 || code === 16) {
        const address = request.readUInt16BE(8)
        const count = code === 6 ? 1 : request.readUInt16BE(10)
        written.push(`${code}: ${address} ${count}`)
        for (let i = 0; i < count; i++) words.set(address + i, request.readUInt16BE((code === 6 ? 10 : 13) + 2 * i))
        const answer = Buffer.from(request.subarray(0, 12))
        answer.writeUInt16BE(6, 4)
        socket.write(answer)
      } else socket.write(registersAnswer(request, (a) => words.get(a) ?? 0))
    })
    const { driver } = followed(bus(device.port))
    driver.follow([sensorAt(1, { mapping })])
    return { written, access: driver.link(1)?.calibration }
  }

  it('is each number whole, at its own address alone, and what is read back is what it holds', async () => {
    const { access, written } = await writable()
    const held = await access?.write?.({ slopeEfficiency: 0.982, zero: -14.25 })
    expect(held).toEqual({ slopeEfficiency: expect.closeTo(0.982, 6), zero: -14.25 })
    expect(written).toEqual(['6: 20 1', '16: 21 2'])
  })

  it('is nothing at all where one of the numbers is beyond what it takes', async () => {
    const { access, written } = await writable()
    await expect(access?.write?.({ slopeEfficiency: 0.7, zero: 0 })).rejects.toThrow('below 80, the lowest it takes')
    expect(written).toEqual([])
  })

  it('is nothing where the mapping does not allow it, though it can be read', async () => {
    const device = await rawDevice((request, socket) => void socket.write(registersAnswer(request, () => 982)))
    const { driver } = followed(bus(device.port))
    driver.follow([sensorAt(1, { mapping: { ...mapping, writes: false } })])
    const access = driver.link(1)?.calibration
    expect(access?.write).toBeNull()
    expect(await access?.read()).toMatchObject({ slopeEfficiency: expect.closeTo(0.982, 6) })
  })
})

/** The check of a frame on a serial line: CRC-16 with the polynomial A001, low byte first (Modbus over serial line V1.02, 6.2.2). */
function crcOf(bytes: Uint8Array): Buffer {
  let crc = 0xffff
  for (const byte of bytes) {
    crc ^= byte
    for (let i = 0; i < 8; i++) crc = crc & 1 ? (crc >> 1) ^ 0xa001 : crc >> 1
  }
  return Buffer.from([crc & 255, crc >> 8])
}

it('frames of a serial line are read over TCP too, in pieces as they come, and one that was hurt is none', async () => {
  let hurt = false
  const device = await rawDevice((request, socket) => {
    const [unit = 0, code = 0, count] = [request[0], request[1], request.readUInt16BE(4)]
    const body = Buffer.alloc(3 + 2 * count)
    body.set([unit, code, 2 * count])
    for (let i = 0; i < count; i++) body.writeUInt16BE(729, 3 + 2 * i)
    const frame = Buffer.concat([body, crcOf(body)])
    if (hurt) frame[4] = 0
    socket.write(frame.subarray(0, 2))
    setTimeout(() => socket.write(frame.subarray(2)), 15)
  })
  const { driver, next, heard } = followed({ ...bus(device.port), protocol: 'modbus-rtu-tcp' })
  driver.follow([sensorAt(9, { mapping: VALUE })])
  expect(await next(9)).toMatchObject({ shown: 7.29 })
  const [asked] = device.requests
  expect(asked?.subarray(-2)).toEqual(crcOf(asked?.subarray(0, -2) as Buffer))
  hurt = true
  await expect.poll(() => heard(9).at(-1), { timeout: 8000 }).toBeInstanceOf(LineProblem)
})
