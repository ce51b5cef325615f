import { connect, type Socket } from 'node:net'
import type { Duplex } from 'node:stream'
import ModbusRTU from 'modbus-serial'
import { type Exchanges, Kept } from '../../exchanges.ts'
import { LineProblem } from '../../lineProblem.ts'
import type { Bus } from '../../link.ts'

export const MODBUS_PORT = 502

/** With both limits, a device that is not there is called blind within 3 s of two tries. */
const CONNECT_WITHIN_MS = 900
const ANSWER_WITHIN_MS = 900

export interface Asking<T> {
  unit: number
  /** What is asked, as the list of exchanges says it. */
  words: string
  ask: (client: ModbusRTU) => Promise<T>
  /** Asked once more on a line opened anew, where nobody answered: for what does no more when it comes twice. */
  again?: boolean
}

interface LineSettings {
  host?: string
  port?: number
  path?: string
  baud?: number
  parity?: 'none' | 'even' | 'odd'
  stopBits?: 1 | 2
}

/** How frames go over a socket, by protocol. The library calls a serial line's bare frame over TCP telnet. */
const LINKS: Readonly<Record<string, (client: ModbusRTU, socket: Socket, port: number) => Promise<void>>> = {
  'modbus-tcp': (client, socket, port) => client.linkTCP(socket, { port }),
  'modbus-rtu-tcp': (client, socket, port) => client.linkTelnet(socket, { port }),
}

/** A connection to a bus that opens itself when it is needed, and takes one request at a time. */
export class ModbusLine {
  private client: ModbusRTU | null = null
  private stream: Duplex | null = null
  private closed = false
  private queue: Promise<unknown> = Promise.resolve()
  private readonly sent = new Kept()
  private readonly received = new Kept()

  constructor(
    private readonly bus: Pick<Bus, 'protocol' | 'settings'>,
    private readonly exchanges: Exchanges | null = null,
  ) {}

  close(): void {
    this.closed = true
    this.hangUp()
  }

  /** One request at a time on a line, in the order in which they were asked. @throws LineProblem */
  inTurn<T>(asking: Asking<T>): Promise<T> {
    const run = this.queue.then(() =>
      this.askOnce(asking).catch((problem: LineProblem) => {
        if (!asking.again || problem.answered || this.closed) throw problem
        return this.askOnce(asking)
      }),
    )
    this.queue = run.catch(() => undefined)
    return run
  }

  private hangUp(): void {
    this.client?.close(() => undefined)
    this.client = null
    // One that is frozen never ends its side: half a connection would stay.
    this.stream?.destroy()
    this.stream = null
  }

  private async askOnce<T>({ unit, words, ask }: Asking<T>): Promise<T> {
    const began = performance.now()
    const at = this.exchanges?.now() ?? 0
    const note = (outcome: string, failed: boolean) =>
      this.exchanges?.note({
        at,
        words,
        outcome,
        failed,
        sent: this.sent.take(),
        received: this.received.take(),
        took: performance.now() - began,
      })
    try {
      const client = await this.connected()
      client.setID(unit)
      const answer = await ask(client)
      note('answered', false)
      return answer
    } catch (error) {
      const problem = LineProblem.of(error, unit, this.answerMs)
      // Whatever comes late must not be taken for the answer to what is asked next.
      if (!problem.answered) this.hangUp()
      note(problem.message, true)
      throw problem
    }
  }

  private get answerMs(): number {
    return Number(this.bus.settings.answerMs ?? ANSWER_WITHIN_MS)
  }

  private async connected(): Promise<ModbusRTU> {
    if (this.closed) throw closed()
    if (this.client?.isOpen) return this.client
    this.hangUp()
    const client = new ModbusRTU()
    client.on('error', () => undefined)
    await this.reach(client)
    this.client = client
    if (this.closed) {
      this.hangUp()
      throw closed()
    }
    client.setTimeout(this.answerMs)
    return client
  }

  private async reach(client: ModbusRTU): Promise<void> {
    const { path, host = '', port = MODBUS_PORT } = this.bus.settings as LineSettings
    if (path) return this.openSerial(client, path)
    const socket = await opened(host, port)
    this.overhear(socket)
    await LINKS[this.bus.protocol]?.(client, socket, port)
  }

  private async openSerial(client: ModbusRTU, path: string): Promise<void> {
    const { baud: baudRate = 9600, parity = 'none', stopBits = 1 } = this.bus.settings as LineSettings
    await client.connectRTUBuffered(path, { baudRate, parity, stopBits, dataBits: 8 }).catch((error) => {
      throw new LineProblem('no-port', `The serial port ${path} cannot be opened (${reasonOf(error)}).`)
    })
    // The library keeps its port to itself; what goes over it is to be seen.
    const { _port: port } = client as unknown as { _port: { _client: Duplex } }
    this.overhear(port._client)
  }

  /** Keeps what goes over a line, for whoever looks for what is wrong there. */
  private overhear(stream: Duplex): void {
    this.stream = stream
    if (!this.exchanges) return
    stream.on('data', (bytes: Buffer) => this.received.add(bytes))
    const write = stream.write.bind(stream) as (...args: unknown[]) => boolean
    stream.write = (...args: unknown[]) => {
      this.sent.add(args[0] as Buffer)
      return write(...args)
    }
  }
}

const closed = () => new LineProblem('closed', 'The line was closed.')

/** The line's library rejects with Errors and with plain objects. */
const reasonOf = (error: unknown) => (error as { message?: string }).message ?? String(error)

/** A connection, or the reason why there is none, in time: a network that swallows packets says nothing for minutes. */
function opened(host: string, port: number): Promise<Socket> {
  return new Promise((resolve, reject) => {
    const socket = connect({ host, port, noDelay: true })
    const fail = (problem: LineProblem) => {
      clearTimeout(timer)
      socket.destroy()
      reject(problem)
    }
    const timer = setTimeout(
      () => fail(new LineProblem('no-connection', `No connection to ${host}:${port} within ${CONNECT_WITHIN_MS} ms.`)),
      CONNECT_WITHIN_MS,
    )
    socket.once('error', (error: NodeJS.ErrnoException) =>
      fail(
        error.code === 'ECONNREFUSED'
          ? new LineProblem('refused', `Nothing listens at ${host}:${port}.`)
          : new LineProblem('no-connection', `${host}:${port} cannot be reached (${error.code ?? error.message}).`),
      ),
    )
    socket.once('connect', () => {
      clearTimeout(timer)
      socket.removeAllListeners('error')
      // What goes wrong later is told by what was asked then.
      socket.on('error', () => undefined)
      resolve(socket)
    })
  })
}
