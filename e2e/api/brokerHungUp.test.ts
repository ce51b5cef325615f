import { createServer, type Socket } from 'node:net'
import { expect, it } from 'vitest'
import { MqttConnection } from '../../server/src/devices/protocols/mqtt/mqttConnection.ts'
import { freePort } from '../support/freePort.ts'

/** CONNACK, accepted (MQTT 3.1.1, 3.2). */
const ACCEPTED = Buffer.from([0x20, 2, 0, 0])

it('a broker that hung up is not said to be missing because it was before', async () => {
  const port = await freePort()
  const settings = { host: '127.0.0.1', port, mqttVersion: 4 } as never
  const told = {} as ConstructorParameters<typeof MqttConnection>[2]
  const line = new MqttConnection({ protocol: 'mqtt', settings, secret: null }, { now: Date.now, rate: 1 }, told)
  try {
    await expect.poll(() => line.state().why).toMatch(/^Nothing listens at/)
    const sockets: Socket[] = []
    const broker = createServer((socket) => {
      sockets.push(socket)
      socket.on('error', () => undefined)
      socket.once('data', () => socket.write(ACCEPTED))
    }).listen(port, '127.0.0.1')
    try {
      await expect.poll(() => line.state()).toMatchObject({ kind: 'up', why: null })
      for (const socket of sockets) socket.destroy()
      await expect.poll(() => line.state().kind).toBe('down')
      expect(line.state().why).toMatch(/hung up/)
    } finally {
      for (const socket of sockets) socket.destroy()
      broker.close()
    }
  } finally {
    line.close()
  }
})
