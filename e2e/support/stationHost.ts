import { type ChildProcess, fork } from 'node:child_process'
import { fileURLToPath } from 'node:url'
import type { StationOptions } from './station.ts'
import type { StationAnswer, StationRequest } from './stationProcess.ts'

const ENTRY = fileURLToPath(new URL('./stationProcess.ts', import.meta.url))

/** A process of its own in which stations are opened and closed. */
export class StationHost {
  private readonly child: ChildProcess
  private readonly waiting = new Map<number, (answer: StationAnswer) => void>()
  private count = 0

  constructor(env: NodeJS.ProcessEnv = {}) {
    this.child = fork(ENTRY, {
      env: { ...process.env, ...env },
      execArgv: ['--import', 'tsx'],
      stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
    })
    this.child.on('message', (answer: StationAnswer) => this.waiting.get(answer.id)?.(answer))
  }

  async open(
    options: StationOptions,
  ): Promise<{ url: string; pass(ms: number): Promise<void>; close(): Promise<void> }> {
    const { id, url } = await this.ask({ open: options })
    return {
      url: url as string,
      pass: async (ms) => {
        await this.ask({ of: id, pass: ms })
      },
      close: async () => {
        await this.ask({ close: id })
      },
    }
  }

  stop(): void {
    this.child.disconnect()
  }

  /** Ends it at once, with all its stations, as a power cut would end their processes. */
  async kill(): Promise<void> {
    const ended = new Promise((resolve) => this.child.once('exit', resolve))
    this.child.kill('SIGKILL')
    await ended
  }

  private ask(
    what: { open: StationOptions } | { close: number } | { of: number; pass: number },
  ): Promise<StationAnswer> {
    const id = ++this.count
    return new Promise((resolve, reject) => {
      this.waiting.set(id, (answer) => {
        this.waiting.delete(id)
        if (answer.error) reject(new Error(answer.error))
        else resolve(answer)
      })
      this.child.send({ id, ...what } satisfies StationRequest)
    })
  }
}
