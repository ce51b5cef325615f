import { fork } from 'node:child_process'
import { once } from 'node:events'
import { request } from 'node:http'
import { fileURLToPath } from 'node:url'
import type { MemoryAnswer, MemoryRequest } from './memoryProcess.ts'

const HOURS = 8
/** As often as at the usual poll interval of 2 s: 14,400 times in eight hours. */
const ASKED: MemoryRequest = { sensors: 30, rate: 50, pollMs: 40 }
const HOUR_MS = 3_600_000 / ASKED.rate
const ROOMS = ['rounds', 'probes', 'alarms', 'plan', 'ledger', 'probes/T1-pH']
/** How much more it may take at the end than after half of the time. */
const MOST = { heap: 0.05, resident: 0.1 } as const

const PROCESS = fileURLToPath(new URL('./memoryProcess.ts', import.meta.url))

/** What an open page asks for: the live readings, and a room every now and then. Returns the way to close it. */
function openPage(url: string): () => void {
  const stream = request(`${url}/api/live`, { agent: false }, (answer) => answer.resume().on('error', () => undefined))
  stream.on('error', () => undefined).end()
  let next = 0
  const look = setInterval(() => {
    void fetch(`${url}/api/${ROOMS[next++ % ROOMS.length]}`)
      .then((answer) => answer.arrayBuffer())
      .catch(() => undefined)
  }, 500)
  return () => {
    clearInterval(look)
    stream.destroy()
  }
}

/** Eight hours of a site, by a clock that runs fast: its memory after each hour, with garbage collected. */
export async function memoryRows() {
  const child = fork(PROCESS, { execArgv: ['--expose-gc', '--import', 'tsx'] })
  const measured = async (): Promise<MemoryAnswer> => {
    child.send(ASKED)
    const [answer] = await once(child, 'message')
    return answer
  }
  const first = await measured()
  const close = openPage(first.url)
  const hours = [first]
  for (let hour = 1; hour <= HOURS; hour++) {
    await new Promise((resolve) => setTimeout(resolve, HOUR_MS))
    hours.push(await measured())
  }
  close()
  child.disconnect()
  return (['heap', 'resident'] as const).map((of) => {
    const at = hours.map((h) => h[of] / 2 ** 20)
    const more = (at[HOURS] as number) / (at[HOURS / 2] as number) - 1
    return {
      what: `${of === 'heap' ? 'heap' : 'resident memory'}, ${ASKED.sensors} sensors, hours 0 to ${HOURS}`,
      measured: `${at.map((m) => m.toFixed(0)).join(', ')} MB; second half ${(100 * more).toFixed(1)} % more`,
      wanted: `second half at most ${100 * MOST[of]} % more`,
      ok: more <= MOST[of],
    }
  })
}
