import { createServer, type Socket } from 'node:net'
import { Aedes } from 'aedes'
import mqtt, { type MqttClient } from 'mqtt'
import { portOf } from './freePort.ts'
import { jsonOf, type Told } from './messages.ts'

/** Behind the topic of a monitor: whether it is there, which the broker says of one that went without a word. */
const STATE = 'state'

/** A broker on loopback, and a monitor for each topic, which publishes what it reads as JSON. */
export async function startBroker(monitors: ReadonlyMap<string, Told>, everyMs: number) {
  const aedes = await Aedes.createBroker()
  const sockets = new Set<Socket>()
  const server = createServer((socket) => {
    sockets.add(socket)
    socket.once('close', () => sockets.delete(socket))
    aedes.handle(socket)
  })
  const port = await portOf(server)
  const stops = [...monitors].map(([topic, told]) => publish(port, topic, told, everyMs))
  return {
    port,
    close: async () => {
      for (const stop of stops) stop()
      for (const socket of sockets) socket.destroy()
      await new Promise<void>((resolve) => aedes.close(() => server.close(() => resolve())))
    },
  }
}

function publish(port: number, topic: string, told: Told, everyMs: number): () => void {
  let client: MqttClient | null = null
  const there = (): MqttClient => {
    if (client) return client
    const state = `${topic}/${STATE}`
    const will = { topic: state, payload: Buffer.from('offline'), qos: 1, retain: true } as const
    client = mqtt.connect({ host: '127.0.0.1', port, protocol: 'mqtt', will, reconnectPeriod: 200 })
    client.on('connect', () => client?.publish(state, 'online', { qos: 1, retain: true }))
    client.on('error', () => undefined)
    return client
  }
  const timer = setInterval(() => {
    if (told.transmitter.silent) {
      // Gone without a word: the broker gives its last will.
      client?.stream.destroy()
      client?.end(true)
      client = null
    } else there().publish(topic, jsonOf([told]))
  }, everyMs)
  return () => {
    clearInterval(timer)
    client?.end(true)
  }
}
