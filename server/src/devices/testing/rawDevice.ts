import { type AddressInfo, createServer, type Socket } from 'node:net'
import { onTestFinished } from 'vitest'

/** A peer on loopback that answers the bytes that come with whatever the test says. */
export async function rawDevice(answer: (request: Buffer, socket: Socket) => void) {
  const sockets = new Set<Socket>()
  const requests: Buffer[] = []
  const server = createServer((socket) => {
    sockets.add(socket)
    socket.on('error', () => undefined)
    socket.on('close', () => sockets.delete(socket))
    socket.on('data', (request) => {
      requests.push(request)
      answer(request, socket)
    })
  })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  const close = async () => {
    for (const socket of sockets) socket.destroy()
    await new Promise((resolve) => server.close(resolve))
  }
  onTestFinished(close)
  return { port: (server.address() as AddressInfo).port, requests, sockets, close }
}

/** The answer of Modbus TCP to a request for registers: the words of those that were asked for. */
export function registersAnswer(request: Buffer, word: (address: number) => number): Buffer {
  const [address, count] = [request.readUInt16BE(8), request.readUInt16BE(10)]
  const answer = Buffer.alloc(9 + 2 * count)
  request.copy(answer, 0, 0, 8)
  answer.writeUInt16BE(3 + 2 * count, 4)
  answer[8] = 2 * count
  for (let i = 0; i < count; i++) answer.writeUInt16BE(word(address + i), 9 + 2 * i)
  return answer
}

/** The refusal of a request by Modbus TCP, with a code of the protocol. */
export function refusal(request: Buffer, code: number): Buffer {
  const answer = Buffer.alloc(9)
  request.copy(answer, 0, 0, 8)
  answer.writeUInt16BE(3, 4)
  answer[7] = (request[7] as number) | 0x80
  answer[8] = code
  return answer
}
