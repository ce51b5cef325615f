import { fork } from 'node:child_process'
import { fileURLToPath } from 'node:url'
import type { StandInPorts } from '@frustum/lab/stand-ins'

const LAUNCH = fileURLToPath(new URL('./launch.mjs', import.meta.url))
const ENTRY = 'demo/src/standInProcess.ts'

interface StandInProcess extends StandInPorts {
  /** Lets the logger send to an address from now on. */
  logTo(url: string): void
  stop(): void
}

/** Starts the simulated devices as a process of their own; resolves with where they are reached. */
export function startStandInProcess(): Promise<StandInProcess> {
  const child = fork(LAUNCH, [ENTRY], { stdio: ['ignore', 'inherit', 'inherit', 'ipc'] })
  return new Promise((resolve, reject) => {
    child.once('exit', (code) => reject(new Error(`The stand-ins ended before they were ready (exit ${code}).`)))
    child.once('message', (ports: StandInPorts) =>
      resolve({
        ...ports,
        logTo: (url) => void child.send({ logTo: url }),
        stop: () => void child.kill('SIGTERM'),
      }),
    )
  })
}
