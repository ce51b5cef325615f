import { readFileSync } from 'node:fs'
import { request } from 'node:http'
import { startApp } from '../../../e2e/support/app.ts'

/**
 * Many at once on the demo: live streams and a steady rate of requests over all rooms. Prints how long answers took, the
 * longest gaps of the streams, and what the server used of a core. `npm run bench:many [-- s]`
 */

const STREAMS = 60
const PER_SECOND = 20
const SECONDS = Number(process.argv[2] ?? 40)

const ROOMS = [
  '/api/rounds',
  '/api/probes',
  '/api/plan',
  '/api/shelf',
  '/api/ledger',
  '/api/rig',
  '/api/site',
  '/api/waits',
  '/api/probes/CH-pH-2',
  '/api/probes/WH-EC-1',
  '/api/probes/BR-N-1/starting',
]

const tags = new Map<string, string>()

/** As a browser does: what it has is asked for by its mark. */
const ask = (base: string, path: string) =>
  new Promise<{ ms: number; status: number }>((resolve) => {
    const began = performance.now()
    const tag = tags.get(path)
    const asking = request(
      base + path,
      { agent: false, timeout: 60_000, headers: tag ? { 'if-none-match': tag } : {} },
      (answer) => {
        answer.resume()
        answer.on('end', () => {
          if (answer.headers.etag) tags.set(path, answer.headers.etag)
          resolve({ ms: performance.now() - began, status: answer.statusCode ?? 0 })
        })
      },
    )
    asking.on('error', () => resolve({ ms: performance.now() - began, status: 0 }))
    asking.on('timeout', () => asking.destroy())
    asking.end()
  })

const gaps: number[] = []
function listen(base: string): () => void {
  let last = performance.now()
  const asking = request(`${base}/api/live`, { agent: false }, (answer) => {
    answer.on('data', () => {
      const now = performance.now()
      gaps.push(now - last)
      last = now
    })
    answer.on('error', () => undefined)
  })
  asking.on('error', () => undefined)
  asking.end()
  return () => asking.destroy()
}

/** Seconds of a processor that a process has used, with all its threads. */
function cpuOf(pid: number): number {
  const stat = readFileSync(`/proc/${pid}/stat`, 'utf8')
  const [user, system] = stat
    .slice(stat.lastIndexOf(')') + 2)
    .split(' ')
    .slice(11, 13)
    .map(Number)
  return ((user ?? 0) + (system ?? 0)) / 100
}

const quantile = (sorted: readonly number[], q: number) =>
  Math.round(sorted[Math.floor(q * (sorted.length - 1))] ?? Number.NaN)

const app = await startApp()
for (const path of ROOMS) await ask(app.url, path)
const stops = Array.from({ length: STREAMS }, () => listen(app.url))
await new Promise((resolve) => setTimeout(resolve, 3000))
gaps.length = 0
const cpu = cpuOf(app.process.pid as number)
const began = performance.now()
const answers: Promise<{ path: string; ms: number; status: number }>[] = []
for (let i = 0; i < SECONDS * PER_SECOND; i++) {
  const path = ROOMS[i % ROOMS.length] as string
  answers.push(ask(app.url, path).then((a) => ({ path, ...a })))
  await new Promise((resolve) =>
    setTimeout(resolve, Math.max(0, began + ((i + 1) * 1000) / PER_SECOND - performance.now())),
  )
}
const all = await Promise.all(answers)
const used = (cpuOf(app.process.pid as number) - cpu) / ((performance.now() - began) / 1000)
for (const stop of stops) stop()
const times = all.map((a) => a.ms).sort((a, b) => a - b)
const sorted = [...gaps].sort((a, b) => a - b)
console.log(
  JSON.stringify({
    p50: quantile(times, 0.5),
    p95: quantile(times, 0.95),
    p99: quantile(times, 0.99),
    core: Number(used.toFixed(2)),
    failed: all.filter((a) => a.status !== 200 && a.status !== 304).length,
    of: all.length,
    gapP99: quantile(sorted, 0.99),
  }),
)
for (const path of ROOMS) {
  const of = all
    .filter((a) => a.path === path)
    .map((a) => a.ms)
    .sort((a, b) => a - b)
  console.log(path.padEnd(32), quantile(of, 0.5), quantile(of, 0.95), quantile(of, 1))
}
await app.stop()
