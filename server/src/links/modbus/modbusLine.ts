import { connect, type Socket } from 'node:net'
import ModbusRTU from 'modbus-serial'

/** Asked twice, with both limits, a device that is not there is called blind within 3 s. */
const CONNECT_WITHIN_MS = 900
const ANSWER_WITHIN_MS = 900

/** One unit behind a Modbus TCP address. */
export interface ModbusAddress {
  host: string
  port: number
  unit: number
}

/** A connection to one unit that opens itself when it is needed, and takes one request at a time. */
export class ModbusLine {
  private client: ModbusRTU | null = null
  private socket: Socket | null = null
  private closed = false
  private queue: Promise<unknown> = Promise.resolve()

  constructor(private readonly address: ModbusAddress) {}

  close(): void {
    this.closed = true
    this.hangUp()
  }

  /**
   * One request at a time on a line. What got no answer is asked once more on a line opened anew: a device that was
   * restarted, or an answer that came while this process was busy, is no silent device. No request does more when it
   * comes twice.
   */
  inTurn<T>(ask: (client: ModbusRTU) => Promise<T>): Promise<T> {
    const run = this.queue.then(() =>
      this.askOnce(ask).catch((error) => {
        const answered = (error as { modbusCode?: number }).modbusCode !== undefined
        if (answered || this.closed) throw error
        return this.askOnce(ask)
      }),
    )
    this.queue = run.catch(() => undefined)
    return run
  }

  private hangUp(): void {
    this.client?.close(() => undefined)
    this.client = null
    // One that is frozen never ends its side: half a connection would stay.
    this.socket?.destroy()
    this.socket = null
  }

  private hungUp(): Error {
    this.hangUp()
    return new Error('The line was closed.')
  }

  private async askOnce<T>(ask: (client: ModbusRTU) => Promise<T>): Promise<T> {
    try {
      return await ask(await this.connected())
    } catch (error) {
      this.hangUp()
      throw error
    }
  }

  private async connected(): Promise<ModbusRTU> {
    if (this.client?.isOpen) return this.client
    const client = new ModbusRTU()
    client.on('error', () => undefined)
    this.socket = await opened(this.address)
    if (this.closed) throw this.hungUp()
    await client.linkTCP(this.socket, { port: this.address.port })
    client.setID(this.address.unit)
    client.setTimeout(ANSWER_WITHIN_MS)
    this.client = client
    return client
  }
}

/** A connection, or the reason why there is none, in time: a network that swallows packets says nothing for minutes. */
function opened({ host, port }: ModbusAddress): Promise<Socket> {
  return new Promise((resolve, reject) => {
    const socket = connect({ host, port, noDelay: true })
    const fail = (error: Error) => {
      clearTimeout(timer)
      socket.destroy()
      reject(error)
    }
    const timer = setTimeout(() => fail(new Error(`No connection within ${CONNECT_WITHIN_MS} ms.`)), CONNECT_WITHIN_MS)
    socket.once('error', fail)
    socket.once('connect', () => {
      clearTimeout(timer)
      socket.off('error', fail)
      // What goes wrong later is told by what was asked then.
      socket.on('error', () => undefined)
      resolve(socket)
    })
  })
}
