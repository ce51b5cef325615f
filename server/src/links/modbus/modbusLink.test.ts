import { type AddressInfo, createServer, type Socket } from 'node:net'
import { systemClock } from '@frustum/contract'
import { ServerTCP } from 'modbus-serial'
import { expect, it } from 'vitest'
import { unreachable } from '../testing/unreachable.ts'
import { ModbusLink } from './modbusLink.ts'

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
  const line = new ModbusLink({ kind: 'modbus-tcp', host: '127.0.0.1', port, unit: 1 }, 'ph', systemClock)
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
  const line = new ModbusLink({ kind: 'modbus-tcp', host: '127.0.0.1', port, unit: 1 }, 'ph', systemClock)
  const read = line.read()
  read.catch(() => undefined)
  await expect.poll(() => lines).toBe(1)
  line.close()
  await expect(read).rejects.toThrow()
  expect(lines).toBe(1)
  await new Promise((resolve) => device.close(resolve))
})

it('resistances are not asked for twice of a device of the shorter map, which goes on being read', async () => {
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
  const line = new ModbusLink({ kind: 'modbus-tcp', host: '127.0.0.1', port, unit: 1 }, 'ph', systemClock)
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

it('an address that never answers is given up in time, again and again, and holds no connections', async () => {
  const port = await unreachable()
  const line = new ModbusLink({ kind: 'modbus-tcp', host: '127.0.0.1', port, unit: 1 }, 'ph', systemClock)
  // Of this thread alone: others have files and sockets of their own.
  const open = () => process.getActiveResourcesInfo().filter((r) => /^TCP(Socket|Connect)Wrap$/.test(r)).length
  await expect(line.read()).rejects.toThrow()
  const before = open()
  for (let i = 0; i < 3; i++) {
    const began = performance.now()
    await expect(line.read()).rejects.toThrow(/No connection within|Timed out/)
    // Two tries with both limits, and half as much again for a busy machine.
    expect(performance.now() - began).toBeLessThan(4500)
  }
  expect(open() - before).toBeLessThanOrEqual(1)
  line.close()
})

it('a gateway that is frozen, and never ends its side, costs no sockets', async () => {
  const held: Socket[] = []
  const frozen = createServer({ allowHalfOpen: true }, (socket) => {
    held.push(socket)
    socket.on('error', () => undefined)
    socket.resume()
  })
  await new Promise<void>((resolve) => frozen.listen(0, '127.0.0.1', resolve))
  const { port } = frozen.address() as AddressInfo
  const line = new ModbusLink({ kind: 'modbus-tcp', host: '127.0.0.1', port, unit: 1 }, 'ph', systemClock)
  for (let i = 0; i < 3; i++) await expect(line.read()).rejects.toThrow()
  expect(held).toHaveLength(6)
  // Each was taken down from here, and not only ended.
  await expect.poll(() => held.filter((s) => !s.destroyed && !s.readableEnded && !s.errored).length).toBe(0)
  const sockets = process.getActiveResourcesInfo().filter((r) => r === 'TCPSocketWrap').length
  expect(sockets).toBeLessThanOrEqual(held.length)
  line.close()
  for (const socket of held) socket.destroy()
  await new Promise((resolve) => frozen.close(resolve))
})
