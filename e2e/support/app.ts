import { type ChildProcess, spawn } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { freePort } from './freePort.ts'

const ROOT = fileURLToPath(new URL('../..', import.meta.url))

export interface RunningApp {
  url: string
  folder: string
  process: ChildProcess
  /** Where its stand-in transmitters listen. */
  standInPort: number
  /** Milliseconds from the start of the process until it answered. */
  startedIn: number
  /** Ends it as Ctrl-C does. */
  stop(): Promise<void>
  /** Ends it at once, as a power cut would; the stand-ins go with it. */
  kill(): Promise<void>
}

interface Options {
  folder?: string
  env?: NodeJS.ProcessEnv
  /** The product on its own data, with what is said behind its command; the demo where it is left out. */
  own?: readonly string[]
}

/** Starts the demo as a process of its own, on a free port and in a folder of its own unless told otherwise. */
export async function startApp(options: Options = {}): Promise<RunningApp> {
  const folder = options.folder ?? mkdtempSync(join(tmpdir(), 'frustum-'))
  const port = await freePort()
  const began = performance.now()
  const script = options.own ? ['scripts/start.ts', ...options.own] : ['scripts/demo.ts']
  const child = spawn(process.execPath, ['--import', 'tsx', ...script], {
    cwd: ROOT,
    env: { ...process.env, PORT: String(port), FRUSTUM_DATA: folder, ...options.env },
    stdio: ['ignore', 'pipe', 'pipe'],
  })
  const ended = new Promise<void>((resolve) => child.once('exit', () => resolve()))
  const url = `http://127.0.0.1:${port}`
  let said = ''
  await new Promise<void>((resolve, reject) => {
    const hear = (chunk: Buffer) => {
      said += chunk.toString()
      if (said.includes('Ctrl-C ends it')) resolve()
    }
    child.stdout?.on('data', hear)
    child.stderr?.on('data', hear)
    child.once('exit', (code) => reject(new Error(`The demo ended with ${code}: ${said}`)))
  })
  return {
    url,
    folder,
    process: child,
    standInPort: Number(/stand-ins on port (\d+)/.exec(said)?.[1] ?? 0),
    startedIn: performance.now() - began,
    stop: async () => {
      child.kill('SIGTERM')
      await ended
      if (!options.folder) rmSync(folder, { recursive: true, force: true })
    },
    kill: async () => {
      child.kill('SIGKILL')
      await ended
    },
  }
}
