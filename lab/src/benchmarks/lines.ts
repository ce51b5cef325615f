import { type ChildProcess, fork } from 'node:child_process'
import { fileURLToPath } from 'node:url'

const CONNECTIONS = 40
const DEAD = 3
const PERIOD_MS = 500

const side = () => fork(fileURLToPath(new URL('./linesProcess.ts', import.meta.url)), { execArgv: ['--import', 'tsx'] })

const asked = <T>(child: ChildProcess, body: object): Promise<T> =>
  new Promise((resolve, reject) => {
    child.once('message', (answer) => resolve(answer as T))
    child.once('exit', (code) => reject(new Error(`ended with ${code}`)))
    child.send(body)
  })

/** 200 sensors at 2 Hz on 40 connections, three of them dead, beside a bare loop of the same reads. */
export async function lineRows() {
  const shape = { alive: CONNECTIONS - DEAD, dead: DEAD }
  const devices = side()
  const ports = await asked<number[]>(devices, { role: 'devices', ...shape, ports: [] })
  const [own, plain] = [side(), side()]
  try {
    const ours = await asked<{ median: number; p95: number; perRead: number; sensors: number; wanted: number }>(own, {
      role: 'ours',
      ...shape,
      ports,
    })
    own.kill()
    const bare = await asked<{ perRead: number }>(plain, { role: 'bare', ...shape, ports })
    const ratio = ours.perRead / bare.perRead
    const [median, p95] = [ours.median / PERIOD_MS, ours.p95 / PERIOD_MS]
    return [
      {
        what: '200 sensors at 2 Hz on 40 connections, three dead: age of a reading, in periods',
        measured: `median ${median.toFixed(2)}, p95 ${p95.toFixed(2)} (${ours.sensors} of ${ours.wanted} read)`,
        wanted: 'at most 1.2 and 2',
        ok: median <= 1.2 && p95 <= 2 && ours.sensors === ours.wanted,
      },
      {
        what: 'the same, processor a read / bare loop',
        measured: `${ratio.toFixed(2)} (${ours.perRead.toFixed(0)} and ${bare.perRead.toFixed(0)} µs)`,
        wanted: 'at most 3',
        ok: ratio <= 3,
      },
    ]
  } finally {
    for (const child of [devices, own, plain]) child.kill()
  }
}
