import { fork } from 'node:child_process'
import { fileURLToPath } from 'node:url'

const LAUNCH = fileURLToPath(new URL('./launch.mjs', import.meta.url))
const ENTRY = 'demo/src/standInProcess.ts'

/** Starts the simulated transmitters as a process of their own; resolves with the port they listen on. */
export function startStandInProcess(): Promise<{ port: number; stop: () => void }> {
  const child = fork(LAUNCH, [ENTRY], { stdio: ['ignore', 'pipe', 'inherit', 'ipc'] })
  const stop = () => void child.kill('SIGTERM')
  return new Promise((resolve, reject) => {
    child.once('exit', (code) => reject(new Error(`The stand-ins ended before they were ready (exit ${code}).`)))
    child.stdout?.on('data', (chunk: Buffer) => {
      const port = /STANDINS (\d+)/.exec(chunk.toString())?.[1]
      if (port) resolve({ port: Number(port), stop })
    })
  })
}
