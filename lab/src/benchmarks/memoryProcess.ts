import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { acceleratedClock } from '@frustum/contract'
import { fleet, standInUnits } from '@frustum/demo'
import { startStandIns } from '@frustum/lab/stand-ins'
import { startServer } from '@frustum/server'
import { floatMap } from '@frustum/server/extending'
import { freePort } from '../../../e2e/support/freePort.ts'

/** A site of pH sensors on one line, whose memory is measured, in a process of its own. The first request opens it. */

export interface MemoryRequest {
  sensors: number
  rate: number
  pollMs: number
}

export interface MemoryAnswer {
  url: string
  /** Bytes, after garbage was collected. */
  heap: number
  resident: number
}

const operator = 'S. Osk'

async function openSite({ sensors, rate, pollMs }: MemoryRequest) {
  const clock = acceleratedClock(rate, Date.now())
  const [model] = standInUnits(fleet().filter((s) => s.kind === 'ph' && s.unit !== null && !s.via))
  if (!model) throw new Error('No sensor of the demo is read by plain registers.')
  const numbers = Array.from({ length: sensors }, (_, i) => i + 1)
  const standIns = await startStandIns(
    numbers.map((unit) => ({ ...model, unit })),
    { clock },
  )
  const dataFolder = mkdtempSync(join(tmpdir(), 'frustum-memory-'))
  const server = await startServer(
    { host: '127.0.0.1', port: await freePort(), dataFolder, pollMs, webFolder: null },
    { clock },
  )
  const post = async (path: string, body: object | string) => {
    const answer = await fetch(`${server.url}/api/${path}`, {
      method: 'POST',
      body: typeof body === 'string' ? body : JSON.stringify(body),
      headers: { 'content-type': 'application/json' },
    })
    if (!answer.ok) throw new Error(await answer.text())
  }
  await post('site/set-up', { name: 'Mill', person: operator, timeZone: 'Europe/Berlin' })
  const list = ['code,kind,place,water', ...numbers.map((n) => `T${n}-pH,pH,Hall,seawater`)].join('\n')
  const options = JSON.stringify({ take: true, adjustsBy: 'numbers' })
  await post(`bring/sensors?${new URLSearchParams({ name: 'list.csv', operator, options })}`, list)
  const mapping = floatMap('ph', true)
  const bus = { protocol: 'modbus-tcp', settings: { host: '127.0.0.1', port: standIns.port } }
  for (const unit of numbers) {
    const line = unit === 1 ? bus : { connectionId: 1 }
    await post(`lines/${unit}`, { operator, ...line, address: { unit }, mapping })
  }
  return {
    url: server.url,
    stop: async () => {
      await server.stop()
      await standIns.close()
      rmSync(dataFolder, { recursive: true, force: true })
    },
  }
}

let site: ReturnType<typeof openSite> | undefined

process.on('message', async (request: MemoryRequest) => {
  site ??= openSite(request)
  const { url } = await site
  global.gc?.()
  global.gc?.()
  const { heapUsed, external, rss } = process.memoryUsage()
  process.send?.({ url, heap: heapUsed + external, resident: rss } satisfies MemoryAnswer)
})
process.on('disconnect', async () => {
  await (await site)?.stop()
  process.exit(0)
})
